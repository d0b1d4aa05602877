import { restLocals, restWorld, topDown } from '../character/hierarchy';
import type { Channel, Character, Clip } from '../character/model';
import { morphsAt } from '../character/morphs';
import {
  type Numbers,
  compose,
  decompose,
  inverseOr,
  multiply,
  quatConjugate,
  quatMultiply,
  quatRotate,
  quatSlerp,
} from '../geometry/matrix';

/**
 * A pose as turns: node → rotation in world space about the node's own joint, after its parents have moved.
 */
export type Turns = ReadonlyMap<number, readonly number[]>;

/** World matrices (16 per node) of a character under turns. */
export function posedWorld(character: Character, turns: Turns): Float64Array {
  const locals = restLocals(character.nodes);
  const world = new Float64Array(locals.length);
  for (const i of topDown(character.nodes)) {
    const parent = character.nodes[i].parent;
    if (parent < 0) world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
    else multiply(world, i * 16, world, parent * 16, locals, i * 16);
    const rotation = turns.get(i);
    if (!rotation) continue;
    for (let corner = 0; corner < 3; corner++)
      world.set(
        quatRotate(rotation, [
          world[i * 16 + corner * 4],
          world[i * 16 + corner * 4 + 1],
          world[i * 16 + corner * 4 + 2],
        ]),
        i * 16 + corner * 4,
      );
  }
  return world;
}

/**
 * World matrices under a clip at a time in seconds: linear, stepped or cubic as the channel says (glTF 2.0,
 * appendix C).
 */
export function clipWorld(character: Character, clip: Clip, time: number): Float64Array {
  const locals = clipLocals(character, clip, time);
  const world = new Float64Array(locals.length);
  for (const i of topDown(character.nodes)) {
    const parent = character.nodes[i].parent;
    if (parent < 0) world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
    else multiply(world, i * 16, world, parent * 16, locals, i * 16);
  }
  return world;
}

/** Local matrices (16 per node) under a clip at a time in seconds. */
export function clipLocals(character: Character, clip: Clip, time: number): Float64Array {
  const locals = restLocals(character.nodes);
  const moved = new Map<number, { t: readonly number[]; r: readonly number[]; s: readonly number[] }>();
  for (const ch of clip.channels) {
    if (ch.path === 'weights' || ch.times.length === 0) continue;
    const node = character.nodes[ch.node];
    const value = channelAt(ch, time);
    const at = moved.get(ch.node) ?? { t: node.translation, r: node.rotation, s: node.scale };
    const part = { translation: 't', rotation: 'r', scale: 's' }[ch.path];
    moved.set(ch.node, { ...at, [part]: value });
  }
  for (const [i, { t: times, r: row, s }] of moved) compose(locals, i * 16, times, row, s);
  return locals;
}

/**
 * How far the morph targets of a node's mesh are on under a clip at a time in seconds; as at rest where the
 * clip leaves them.
 */
export function clipMorphs(character: Character, clip: Clip, time: number, node: number): readonly number[] {
  const ch = clip.channels.find(
    (channel) => channel.node === node && channel.path === 'weights' && channel.times.length > 0,
  );
  const size = character.meshes[character.nodes[node].mesh]?.morphs.length ?? 0;
  return ch && size > 0
    ? sample(ch.times, ch.values, size, ch.interpolation, time, false)
    : morphsAt(character, node);
}

/** The last key at or before a time, by halving: times rise; the first where all come later. */
function keyAt(times: Float32Array, time: number): number {
  let low = 0;
  let high = times.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (times[middle] <= time) low = middle;
    else high = middle - 1;
  }
  return low;
}

/**
 * The value of a channel that moves, turns or scales a node at a time in seconds: 4 of a turn, else 3; before its first
 * key as there, behind its last as there.
 */
export function channelAt({ times, values, path, interpolation }: Channel, time: number): number[] {
  return sample(times, values, path === 'rotation' ? 4 : 3, interpolation, time);
}

function sample(
  times: Float32Array,
  values: Float32Array,
  size: number,
  interpolation: string,
  time: number,
  turn = size === 4,
): number[] {
  const last = times.length - 1;
  const k = keyAt(times, time);
  const cubic = interpolation === 'CUBICSPLINE';
  const at = (i: number, part = 1) =>
    Array.from(values.subarray((cubic ? i * 3 + part : i) * size, (cubic ? i * 3 + part : i) * size + size));
  if (time <= times[0]) return at(0);
  if (k === last || interpolation === 'STEP') return at(k);
  const span = times[k + 1] - times[k];
  const share = (time - times[k]) / span;
  if (cubic) {
    const [p0, m0, m1, p1] = [at(k), at(k, 2), at(k + 1, 0), at(k + 1)];
    const values = p0.map(
      (p, i) =>
        (2 * share ** 3 - 3 * share ** 2 + 1) * p +
        (share ** 3 - 2 * share ** 2 + share) * span * m0[i] +
        (3 * share ** 2 - 2 * share ** 3) * p1[i] +
        (share ** 3 - share ** 2) * span * m1[i],
    );
    const l = turn ? Math.hypot(...values) || 1 : 1;
    return values.map((x) => x / l);
  }
  if (turn) return quatSlerp(at(k), at(k + 1), share);
  const [a, b] = [at(k), at(k + 1)];
  return a.map((x, i) => x + (b[i] - x) * share);
}

/** Length of a clip in seconds. */
export function clipSeconds(clip: Clip): number {
  return clip.channels.reduce(
    (most, ch) => Math.max(most, ch.times.length > 0 ? ch.times[ch.times.length - 1] : 0),
    0,
  );
}

/**
 * The source node that a target's counterpart is held by: its own parent, or where that is not under what the
 * target hangs on (a flat source onto chains), the counterpart of that.
 */
function carrierOf(source: Character, target: Character, sourceNodeOf: Int32Array, i: number): number {
  const s = sourceNodeOf[i];
  let above = target.nodes[i].parent;
  while (above >= 0 && sourceNodeOf[above] < 0) above = target.nodes[above].parent;
  const holder = above < 0 ? -1 : sourceNodeOf[above];
  const { parent } = source.nodes[s];
  for (let ancestor = parent; ancestor >= 0; ancestor = source.nodes[ancestor].parent)
    if (ancestor === holder) return parent;
  return holder < 0 ? parent : holder;
}

/** A world place in the space of a node. */
function placeIn(world: Float64Array, node: number, place: Numbers): [number, number, number] {
  const matrix = inverseOr(world, node * 16);
  const [x, y, z] = [place[0], place[1], place[2]];
  const at = (k: number) => matrix[k] * x + matrix[4 + k] * y + matrix[8 + k] * z + matrix[12 + k];
  return [at(0), at(1), at(2)];
}

/** What holds the source node of every node of a target, and where in its space, 3 a node; the same in every pose. */
interface Held {
  readonly carrier: Int32Array;
  readonly place: Float64Array;
}

const heldPartners = new WeakMap<Int32Array, Held>();

function heldBy(source: Character, target: Character, sourceNodeOf: Int32Array): Held {
  const known = heldPartners.get(sourceNodeOf);
  if (known) return known;
  const rest = restWorld(source.nodes);
  const carrier = new Int32Array(sourceNodeOf.length).fill(-1);
  const place = new Float64Array(sourceNodeOf.length * 3);
  sourceNodeOf.forEach((bone, i) => {
    if (bone < 0) return;
    carrier[i] = carrierOf(source, target, sourceNodeOf, i);
    if (carrier[i] >= 0)
      place.set(placeIn(rest, carrier[i], rest.subarray(bone * 16 + 12, bone * 16 + 15)), i * 3);
  });
  const made = { carrier, place };
  heldPartners.set(sourceNodeOf, made);
  return made;
}

/**
 * The same motion on another rig. `sourceNodeOf[n]` is the source node that node n of the target stands for, −1
 * for none. A world rotation of a source bone away from its rest is the same rotation of what stands for it; a bone
 * without one goes with its parent; places follow by forward kinematics, and a source bone that slides
 * against its parent slides that as far.
 * @returns world matrices of the target, 16 per node
 */
export function transferPose(
  source: Character,
  sourceWorld: Float64Array,
  target: Character,
  sourceNodeOf: Int32Array,
): Float64Array {
  const sourceRest = restWorld(source.nodes);
  const targetRest = restWorld(target.nodes);
  const locals = restLocals(target.nodes);
  const held = heldBy(source, target, sourceNodeOf);
  const world = new Float64Array(locals.length);
  const delta: (readonly number[] | null)[] = target.nodes.map(() => null);
  const carried: boolean[] = target.nodes.map(() => false);
  for (const i of topDown(target.nodes)) {
    const parent = target.nodes[i].parent;
    const s = sourceNodeOf[i];
    if (parent < 0) world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
    else multiply(world, i * 16, world, parent * 16, locals, i * 16);
    carried[i] = parent >= 0 && carried[parent];
    if (s < 0) {
      delta[i] = parent >= 0 ? delta[parent] : null;
      continue;
    }
    const now = decompose(sourceWorld, s * 16);
    const rest = decompose(sourceRest, s * 16);
    const turn = quatMultiply(now.rotation, quatConjugate(rest.rotation));
    delta[i] = turn;
    for (let corner = 0; corner < 3; corner++)
      world.set(
        quatRotate(turn, [
          targetRest[i * 16 + corner * 4],
          targetRest[i * 16 + corner * 4 + 1],
          targetRest[i * 16 + corner * 4 + 2],
        ]),
        i * 16 + corner * 4,
      );
    const sp = held.carrier[i];
    const [x, y, z] = held.place.subarray(i * 3, i * 3 + 3);
    for (let k = 0; k < 3; k++) {
      if (!carried[i]) {
        world[i * 16 + 12 + k] = targetRest[i * 16 + 12 + k] + now.translation[k] - rest.translation[k];
      } else if (sp >= 0) {
        const m = sp * 16;
        world[i * 16 + 12 + k] +=
          now.translation[k] -
          (sourceWorld[m + k] * x +
            sourceWorld[m + 4 + k] * y +
            sourceWorld[m + 8 + k] * z +
            sourceWorld[m + 12 + k]);
      }
    }
    carried[i] = true;
  }
  return world;
}
