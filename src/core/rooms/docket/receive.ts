/** A file as the machine that it is for will hold it: what it changes and drops on arrival, and what is left. */
import { decompose } from '../../geometry/matrix';
import { type Influences, limitInfluences, roundExactly } from '../../geometry/influences';
import {
  type Attribute,
  type Character,
  type Mesh,
  type SceneNode,
  positionsOf,
} from '../../character/model';
import { hungUnder } from '../../character/rehang';
import { withoutNodes } from '../../character/remove';
import { drawsOf } from './draws';
import type { Receiver } from './receivers';

/** One thing that a receiver did, in words. */
export interface Said {
  /** Whether something is lost or moved by it, or it is only done in another way. */
  readonly kind: 'lost' | 'changed' | 'told';
  readonly text: string;
}

/** What arrived. */
export interface Received {
  readonly character: Character;
  /** For every node that arrived, the node of what was sent. */
  readonly from: Int32Array;
  readonly said: readonly Said[];
}

/** Makes a character anew as a receiver holds it. World space and units stay those of the house, so that both compare. */
export function receive(sent: Character, receiver: Receiver): Received {
  const said: Said[] = [];
  const say = (kind: Said['kind'], text: string) => said.push({ kind, text });
  const lean = withoutWhatItDrops(sent, receiver, say);
  let out = plainNodes(lean.character, receiver, say);
  out = { ...out, meshes: meshesAsStored(out, receiver, say) };
  tellUnits(receiver, say);
  tellDraws(out, receiver, say);
  return { character: out, from: lean.from, said };
}

type Say = (kind: Said['kind'], text: string) => void;

const quoted = (names: readonly string[]) => {
  const some = names
    .slice(0, 4)
    .map((n) => `“${n}”`)
    .join(', ');
  return names.length > 4 ? `${some} and ${names.length - 4} more` : some;
};

const plural = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`;

/** Bones outside all skins, empties, cameras and lights go; what hangs on them is hung on what is left above. */
function withoutWhatItDrops(
  sent: Character,
  { loneBones, empties }: Receiver,
  say: Say,
): { character: Character; from: Int32Array } {
  const listed = new Set(sent.skins.flatMap((s) => s.joints));
  const gone = new Set<number>();
  const lone: string[] = [];
  const empty: string[] = [];
  sent.nodes.forEach((n, i) => {
    if (n.mesh >= 0) return;
    if (n.kind === 'bone') {
      if (loneBones === 'kept' || listed.has(i) || listed.size === 0) return;
      lone.push(n.name);
    } else {
      if (empties === 'kept') return;
      empty.push(n.name);
    }
    gone.add(i);
  });
  if (gone.size === 0) return { character: sent, from: Int32Array.from(sent.nodes, (_, i) => i) };
  if (lone.length > 0)
    say(
      'lost',
      `${plural(lone.length, 'bone')} that no skin lists ${lone.length === 1 ? 'is' : 'are'} dropped: ${quoted(lone)}.`,
    );
  if (empty.length > 0)
    say(
      'lost',
      `${plural(empty.length, 'empty node, camera or light', 'empty nodes, cameras and lights')} ${empty.length === 1 ? 'is' : 'are'} dropped: ${quoted(empty)}.`,
    );
  const nodes = sent.nodes.map((n, i) => {
    let { parent } = n;
    while (parent >= 0 && gone.has(parent)) parent = sent.nodes[parent].parent;
    return gone.has(i) || parent === n.parent ? n : hungUnder(sent, i, parent);
  });
  const clips = clipsWithout(sent, gone);
  const lost =
    sent.clips.reduce((s, c) => s + c.channels.length, 0) - clips.reduce((s, c) => s + c.channels.length, 0);
  if (lost > 0)
    say(
      'lost',
      `${plural(lost, 'channel')} of clips moved what is dropped, and ${lost === 1 ? 'goes' : 'go'} with it.`,
    );
  const { character, newOf } = withoutNodes({ ...sent, nodes, clips }, gone);
  const from = new Int32Array(character.nodes.length);
  newOf.forEach((to, i) => {
    if (to >= 0) from[to] = i;
  });
  return { character, from };
}

const clipsWithout = ({ clips }: Character, gone: ReadonlySet<number>) =>
  clips.map((c) => ({ ...c, channels: c.channels.filter((ch) => !gone.has(ch.node)) }));

/** Scale that it does not know is evened out or let go; transforms of mesh nodes are forgotten where it forgets them. */
function plainNodes(character: Character, { scale, meshNodes }: Receiver, say: Say): Character {
  const scaled: string[] = [];
  const moved: string[] = [];
  const nodes = character.nodes.map((n): SceneNode => {
    if (n.mesh >= 0 && meshNodes === 'ignored' && n.skin < 0) {
      const still =
        n.translation.every((x) => x === 0) && n.rotation[3] === 1 && n.scale.every((x) => x === 1);
      if (!still || n.matrix) {
        moved.push(n.name);
        const { matrix: _, ...rest } = n;
        return { ...rest, translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] };
      }
    }
    const plain = scaledAs(n, scale);
    if (plain !== n) scaled.push(n.name);
    return plain;
  });
  if (moved.length > 0)
    say(
      'changed',
      `It forgets where the mesh ${moved.length === 1 ? 'node' : 'nodes'} ${quoted(moved)} stood: bake the transform into the points.`,
    );
  if (scaled.length > 0)
    say(
      'changed',
      `It knows ${scale === 'none' ? 'no scale' : 'even scale only'}: ${quoted(scaled)} ${scaled.length === 1 ? 'is' : 'are'} ${scale === 'none' ? 'taken at 1' : 'evened out'}.`,
    );
  return moved.length + scaled.length > 0 ? { ...character, nodes } : character;
}

function scaledAs(n: SceneNode, scale: Receiver['scale']): SceneNode {
  if (scale === 'any') return n;
  const { scale: s, translation, rotation } = n.matrix ? decompose(Float64Array.from(n.matrix)) : n;
  const [x, y, z] = s;
  const isEven = Math.max(x, y, z) - Math.min(x, y, z) < 1e-6;
  const isOne = isEven && Math.abs(x - 1) < 1e-6;
  if (n.matrix === undefined && (scale === 'even' ? isEven : isOne)) return n;
  const mean = scale === 'none' ? 1 : Math.cbrt(x * y * z);
  const { matrix: _, ...rest } = n;
  return { ...rest, translation, rotation, scale: isEven && scale === 'even' ? s : [mean, mean, mean] };
}

/** Points, weights and morph targets as it stores them. */
function meshesAsStored(character: Character, receiver: Receiver, say: Say): Mesh[] {
  let trimmed = 0;
  let dropped = 0;
  let evened = 0;
  let farthest = 0;
  const meshes = character.meshes.map((mesh): Mesh => {
    const limited = mesh.influences ? limitInfluences(mesh.influences, receiver.influences) : null;
    trimmed += limited?.trimmed.length ?? 0;
    evened += (limited?.changed ?? 0) - (limited?.trimmed.length ?? 0);
    const influences = limited && storedWeights(limited.influences, receiver.weights);
    const kept = receiver.morphs === null ? mesh.morphs : mesh.morphs.slice(0, receiver.morphs);
    dropped += mesh.morphs.length - kept.length;
    const position = storedPlaces(mesh, receiver);
    farthest = Math.max(farthest, farthestOf(positionsOf(mesh), position.data as Float32Array));
    return {
      ...mesh,
      influences,
      morphs: kept,
      ...(mesh.morphWeights && { morphWeights: mesh.morphWeights.slice(0, kept.length) }),
      attributes: { ...mesh.attributes, POSITION: position },
    };
  });
  if (trimmed > 0)
    say(
      'changed',
      `${plural(trimmed, 'point')} ${trimmed === 1 ? 'loses' : 'lose'} bones: it keeps ${receiver.influences} of each, those with the largest weights.`,
    );
  if (evened > 0)
    say(
      'changed',
      `The weights of ${plural(evened, 'point')} do not sum to one, and are scaled until they do.`,
    );
  if (receiver.weights !== 'float' && meshes.some((m) => m.influences))
    say(
      'told',
      `Weights are stored in ${receiver.weights === 'u8' ? 'bytes: steps of 1/255' : 'shorts: steps of 1/65 535'}.`,
    );
  if (dropped > 0)
    say(
      'lost',
      `${plural(dropped, 'morph target')} over the ${receiver.morphs} that it takes of a mesh ${dropped === 1 ? 'is' : 'are'} dropped.`,
    );
  if (farthest > TOLD)
    say('changed', `Points are stored in steps and shift by up to ${(farthest * 1000).toPrecision(2)} mm.`);
  return meshes;
}

/** From which shift on storing points is worth a word, metres. */
const TOLD = 1e-6;

function farthestOf(a: Float32Array, b: Float32Array): number {
  let far = 0;
  for (let i = 0; i < a.length; i++) far = Math.max(far, Math.abs(a[i] - b[i]));
  return far;
}

/** Weights as whole numbers that sum exactly, and back; those of nothing go. */
function storedWeights(f: Influences, as: Receiver['weights']): Influences {
  if (as === 'float') return f;
  const whole = as === 'u8' ? 255 : 65535;
  const weight = new Float32Array(f.weight.length);
  for (let v = 0; v + 1 < f.offsets.length; v++) {
    const row = Array.from(f.weight.subarray(f.offsets[v], f.offsets[v + 1]));
    weight.set(
      roundExactly(row, whole).map((x) => x / whole),
      f.offsets[v],
    );
  }
  return { ...f, weight };
}

/** Points in its unit, as floats or in steps over the mesh's box, and back. */
function storedPlaces(mesh: Mesh, { metresPerUnit, positions }: Receiver): Attribute {
  const given = positionsOf(mesh);
  const attribute = mesh.attributes.POSITION;
  const data = new Float32Array(given.length);
  const least = [Infinity, Infinity, Infinity];
  const most = [-Infinity, -Infinity, -Infinity];
  given.forEach((x, i) => {
    least[i % 3] = Math.min(least[i % 3], x);
    most[i % 3] = Math.max(most[i % 3], x);
  });
  const step = Math.max(...[0, 1, 2].map((k) => most[k] - least[k])) / 65535;
  given.forEach((x, i) => {
    const placed =
      positions === 'u16' && step > 0 ? least[i % 3] + Math.round((x - least[i % 3]) / step) * step : x;
    data[i] = Math.fround(placed / metresPerUnit) * metresPerUnit;
  });
  return { ...attribute, data };
}

function tellUnits({ metresPerUnit, up }: Receiver, say: Say): void {
  const units: string[] = [];
  if (metresPerUnit !== 1)
    units.push(
      `one of its units is ${metresPerUnit} m, so every length is multiplied by ${Number((1 / metresPerUnit).toPrecision(6))}`,
    );
  if (up === 'z') units.push('Z points up, so the root is turned by a quarter about X');
  if (units.length > 0) say('told', `${units.join('; ').replace(/^./, (c) => c.toUpperCase())}.`);
}

/** What it draws in how many parts, and what it cannot draw. */
function tellDraws(character: Character, receiver: Receiver, say: Say): void {
  const { bones, bonesPerDraw, verticesPerDraw } = receiver;
  character.skins.forEach((s) => {
    if (bones !== null && s.joints.length > bones)
      say(
        'lost',
        `The skin${s.name ? ` “${s.name}”` : ''} lists ${s.joints.length} bones; it takes ${bones}, and refuses the rest.`,
      );
  });
  for (const mesh of character.meshes) {
    const draws = drawsOf(mesh, bonesPerDraw ?? Infinity, verticesPerDraw ?? Infinity);
    if (draws.impossible > 0)
      say(
        'lost',
        `${plural(draws.impossible, 'face')} of “${mesh.name}” alone ${draws.impossible === 1 ? 'hangs' : 'hang'} on more than the ${bonesPerDraw} bones of a draw, and cannot be drawn.`,
      );
    if (draws.parts > draws.pieces)
      say(
        'told',
        `“${mesh.name}” is drawn in ${draws.parts} parts instead of ${draws.pieces}: ${draws.reason}; ${draws.added} vertices are doubled.`,
      );
  }
}
