import { object } from 'yup';
import { theNode } from '../../../contracts/finding';
import { type Found, defineCheck } from '../../../contracts/check';
import { SCALE } from '../settings';
import { ancestorsOf, restLocals, restWorld } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { decompose } from '../../../geometry/matrix';

const text = (scale: readonly number[]) => scale.map((x) => Number(x.toPrecision(4))).join(' × ');

interface Scaled {
  readonly node: number;
  readonly scale: readonly number[];
  readonly shear: number;
  readonly kind: string;
  /** Meshes and bones below that read 1. */ readonly heirs: readonly number[];
  /** Of those the topmost. */ readonly first: readonly number[];
}

/** Every node whose own scale is not 1, or which is sheared, and who inherits it. */
function scaledNodes(character: Character, tolerance: number): Scaled[] {
  const locals = restLocals(character.nodes);
  const off = (scale: readonly number[]) => scale.some((x) => Math.abs(x - 1) > tolerance);
  const parts = character.nodes.map((_, i) => decompose(locals, i * 16));
  const heirsOf = new Map(
    parts.flatMap(({ scale, shear }, i) =>
      off(scale) || shear > tolerance ? [[i, [] as number[]] as const] : [],
    ),
  );
  if (heirsOf.size === 0) return [];
  character.nodes.forEach((node, k) => {
    if (off(parts[k].scale) || (node.mesh < 0 && node.kind !== 'bone')) return;
    for (const above of ancestorsOf(character.nodes, k)) heirsOf.get(above)?.push(k);
  });
  return [...heirsOf].map(([node, heirs]) => {
    const { scale, shear } = parts[node];
    const even = Math.max(...scale.map(Math.abs)) - Math.min(...scale.map(Math.abs)) <= tolerance;
    const kind = kindOfScale(shear > tolerance, scale, even);
    const known = new Set(heirs);
    return {
      node,
      scale,
      shear,
      kind,
      heirs,
      first: heirs.filter(
        (heir) => !ancestorsOf(character.nodes, heir).some((ancestor) => known.has(ancestor)),
      ),
    };
  });
}

/** Scale left on nodes that nothing inherits: even, uneven, negative, sheared. */
export const nodeScaleCheck = defineCheck({
  id: 'node-scale',
  room: 'placement',
  title: 'Scale left on nodes',
  why: 'Engines apply a left-over scale twice, or to the children only; bound meshes come out at another size than they were seen, and a mirrored node turns its faces inside out.',
  settings: object({ ...SCALE }),
  reads: ['tree', 'names', 'places', 'shows'],
  measures: (character) => ({
    scaleTolerance: scaledNodes(character, 0).reduce(
      (most, { scale, shear }) => Math.max(most, shear, ...scale.map((x) => Math.abs(x - 1))),
      0,
    ),
  }),
  run(character, brief) {
    const world = restWorld(character.nodes);
    return scaledNodes(character, brief.scaleTolerance)
      .filter((scaled) => scaled.heirs.length === 0)
      .map(({ node, scale, shear, kind }) => ({
        gravity: 'stops',
        subject: theNode(character, node),
        unit: '×',
        message: `“${character.nodes[node].name || `node ${node}`}” is ${kind}`,
        measured: text(scale),
        expected: '1 × 1 × 1',
        evidence: [
          { label: 'Scale of its own', now: text(scale), brief: '1 × 1 × 1', unit: '×' },
          {
            label: 'Scale in the world',
            now: text(decompose(world, node * 16).scale),
            brief: '1 × 1 × 1',
            unit: '×',
          },
          ...(shear > brief.scaleTolerance ? [{ label: 'Shear', now: shear, brief: 0, unit: '' }] : []),
        ],
        elements: [{ kind: 'node', node, ids: Uint32Array.of(node) }],
        count: 1,
        remedies: [{ id: 'bake-scale', params: { node } }],
      }));
  },
});

/** The inherited case: something reads 1 and stands at another size, because of an ancestor that is named. */
export const inheritedScaleCheck = defineCheck({
  id: 'inherited-scale',
  room: 'placement',
  title: 'Inherited scale',
  why: 'A node that reads 1 under a scaled ancestor, seen or unseen, jumps to another size when it is unhooked or exported alone, and engines that drop empty nodes drop its size with them.',
  settings: object({ ...SCALE }),
  reads: ['tree', 'names', 'places', 'shows'],
  run(character, brief) {
    const world = restWorld(character.nodes);
    const size = (i: number) => text(decompose(world, i * 16).scale);
    const nameOf = (i: number) => character.nodes[i].name || `node ${i}`;
    const who = (first: number, count: number) =>
      `“${nameOf(first)}”${count > 1 ? ` and ${count - 1} more read` : ' reads'}`;
    const isUndone = (i: number) =>
      decompose(world, i * 16).scale.every((x) => Math.abs(x - 1) <= brief.scaleTolerance);
    return scaledNodes(character, brief.scaleTolerance)
      .filter((scaled) => scaled.heirs.length > 0)
      .map(({ node, scale, kind, heirs, first }): Found => {
        const shown = first.length > 0 ? first : heirs;
        const unseen = character.nodes[node].mesh < 0 && character.nodes[node].kind !== 'bone';
        return {
          gravity: 'stops',
          subject: theNode(character, shown[0]),
          unit: '×',
          message: isUndone(shown[0])
            ? `${who(shown[0], heirs.length)} 1, and ${heirs.length > 1 ? 'stand' : 'stands'} so only because ${unseen ? 'the unseen ' : ''}“${nameOf(node)}” above, scaled by ${text(scale)}, undoes another scale above it`
            : `${who(shown[0], heirs.length)} 1 but ${heirs.length > 1 ? 'stand' : 'stands'} at ${size(shown[0])}: ${unseen ? 'the unseen ' : ''}“${nameOf(node)}” above is ${kind}`,
          measured: size(shown[0]),
          expected: '1 × 1 × 1',
          evidence: [
            ...shown.slice(0, 3).flatMap((holder) => [
              { label: `${nameOf(holder)}, of its own`, now: '1 × 1 × 1', brief: '1 × 1 × 1', unit: '×' },
              { label: `${nameOf(holder)}, in the world`, now: size(holder), brief: '1 × 1 × 1', unit: '×' },
            ]),
            { label: `${nameOf(node)}, at fault`, now: text(scale), brief: '1 × 1 × 1', unit: '×' },
            { label: 'Nodes that inherit it', now: heirs.length, brief: 0, unit: 'nodes' },
          ],
          elements: [{ kind: 'node', node, ids: Uint32Array.from([node, ...heirs]) }],
          count: heirs.length,
          remedies: [
            ...(character.nodes[node].kind === 'bone' || first.length > 3
              ? []
              : first.flatMap((node) => [
                  { id: 'detach-keep-size', params: { node } },
                  { id: 'detach-own-size', params: { node } },
                ])),
            { id: 'bake-scale', params: { node } },
          ].sort((a, b) => Number(b.id === 'bake-scale') - Number(a.id === 'bake-scale')),
          mark: `from ${nameOf(node)}`,
        };
      });
  },
});

function kindOfScale(sheared: boolean, scale: readonly number[], even: boolean): string {
  if (sheared) return 'sheared';
  if (scale[0] * scale[1] * scale[2] < 0) return 'mirrored by a negative scale';
  return even ? 'scaled evenly' : 'scaled unevenly';
}
