import { object } from 'yup';
import { ancestorsOf, bonesOf, meshNodesOf } from '../../../character/hierarchy';
import type { Character, JsonObject } from '../../../character/model';
import { type Found, defineCheck } from '../../../contracts/check';
import { type RemedyCall, theCharacter } from '../../../contracts/finding';
import { boxOf, placedMeshes } from '../../../character/measure';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { heldBy } from '../../../character/held-by';
import { PROPS, type PropsBrief, knownProp } from '../../../contracts/props';

/**
 * Meshes that no bone carries, neither by weights nor by hanging on one: all of them, or single ones beside others
 * that are bound. A prop that the brief names may stand beside the figure.
 */
export const notBoundCheck = defineCheck({
  id: 'not-bound',
  room: 'weights',
  title: 'Meshes on their bones',
  why: 'A mesh that no bone carries stays where it is while the character walks away, and none of the other checks of this room has looked at it.',
  advice:
    'Bind it on the page Bind, or copy weights onto it on the page Copy. A prop that the brief names may stand beside the figure; what is not wanted can be left out when handing over.',
  waiverReasons: ['It stands beside the figure on purpose; the game hangs it up itself.'],
  settings: object({ ...PROPS }),
  reads: [...SHAPE_AT_REST, 'names', 'carried', 'polygons'],
  run(character, brief) {
    const shown = meshNodesOf(character);
    if (shown.length === 0 || bonesOf(character).length === 0) return [];
    const loose = shown.filter((i) => heldBy(character, i) === 'loose');
    if (loose.length === shown.length) return [allLoose(character, shown)];
    const carried = shown.filter((i) => !loose.includes(i));
    return loose
      .filter((i) => isSeen(character, i) && !knownProp(character, i, brief as PropsBrief))
      .map((i) => looseMesh(character, i, carried));
  },
});

/** Whether there is something to see of it: what is hidden, or has no polygons, is a stray and told as one. */
function isSeen({ nodes, meshes }: Character, i: number): boolean {
  const isHidden = (node: number) =>
    (nodes[node].extensions?.KHR_node_visibility as JsonObject | undefined)?.visible === false;
  return meshes[nodes[i].mesh].polygonOffsets.length > 1 && ![i, ...ancestorsOf(nodes, i)].some(isHidden);
}

const nameOf = ({ nodes, meshes }: Character, i: number) =>
  nodes[i].name || meshes[nodes[i].mesh].name || `mesh ${i}`;

const sizeOf = ({ nodes, meshes }: Character, i: number) => meshes[nodes[i].mesh].vertexCount;

/** Names of carried meshes that are told, at most. */
const TOLD = 3;

/** A mesh of which less than this lies within the box of another is no garment of it. */
const COVERED = 0.5;

/** Whether most of a mesh lies where another is, so that weights can be copied from there. */
function isCovered(character: Character, node: number, from: number): boolean {
  const box = (of: number) => {
    const placed = placedMeshes(character).find((one) => one.node === of);
    return placed ? boxOf([placed.points]) : null;
  };
  const [own, other] = [box(node), box(from)];
  if (!own || !other) return false;
  return [0, 1, 2].every((k) => {
    const shared = Math.min(own.max[k], other.max[k]) - Math.max(own.min[k], other.min[k]);
    return shared >= COVERED * (own.max[k] - own.min[k]);
  });
}

function looseMesh(character: Character, node: number, carried: readonly number[]): Found {
  const beside = carried.slice(0, TOLD).map((i) => `“${nameOf(character, i)}”`);
  const more = carried.length > TOLD ? ` and ${carried.length - TOLD} more` : '';
  const name = nameOf(character, node);
  // The largest of those that have weights to give.
  const bound = carried
    .filter((i) => heldBy(character, i) === 'bound')
    .sort((a, b) => sizeOf(character, b) - sizeOf(character, a));
  return {
    gravity: 'stops',
    subject: { kind: 'mesh', index: character.nodes[node].mesh, name },
    unit: 'meshes',
    elements: [{ kind: 'node', node: -1, ids: Uint32Array.of(node) }],
    count: 1,
    message: `“${name}” is bound to no bone and hangs on none, beside ${beside.join(', ')}${more} that bones carry`,
    measured: 'no bone',
    expected: 'bound, or hung on a bone',
    evidence: [
      { label: 'Meshes that bones carry', now: carried.length, brief: '—', unit: 'meshes' },
      { label: 'Bones that carry this one', now: 0, brief: '≥ 1', unit: 'bones' },
    ],
    remedies: [...waysToBind(character, node, bound), { id: 'remove-strays', params: { nodes: [node] } }],
    mark: 'loose',
  };
}

/** A garment takes its weights from the body below it; a body that is larger than what is bound is bound itself. */
function waysToBind(character: Character, node: number, bound: readonly number[]): RemedyCall[] {
  const bind = { id: 'bind', params: { nodes: [node] } };
  const [from] = bound;
  if (from === undefined) return [bind];
  const copy = { id: 'copy-weights', params: { node, from } };
  return isCovered(character, node, from) ? [copy, bind] : [bind, copy];
}

function allLoose(character: Character, shown: readonly number[]): Found {
  return {
    gravity: 'stops',
    subject: theCharacter(character),
    unit: 'meshes',
    elements: [{ kind: 'node', node: -1, ids: Uint32Array.from(shown) }],
    count: shown.length,
    message:
      shown.length === 1
        ? 'Its mesh is bound to no bone and hangs on none'
        : `None of its ${shown.length} meshes is bound to a bone or hangs on one`,
    measured: shown.length,
    expected: 0,
    evidence: [{ label: 'Meshes that no bone carries', now: shown.length, brief: 0, unit: 'meshes' }],
    remedies: [{ id: 'bind', params: { nodes: [...shown] } }],
  };
}
