/** How far a clip carries the figure over the ground, and the clip in place. */
import { ancestorsOf, bonesOf } from '../../character/hierarchy';
import type { Character, Channel, Clip } from '../../character/model';
import { inverseOr } from '../../geometry/matrix';
import { channelAt, clipSeconds, clipWorld } from '../pose';
import { offsetOfKey, withChannels, withSamples } from './channel-keys';

/** Steady: the way from the first moment to the last is taken out, the sway stays. Held: it stays over one spot. */
export type InPlace = 'steady' | 'held';

/** A node carries the figure where so much of what moves it hangs below. */
const SHARE_OF_FIGURE = 0.6;

/** The lowest node that a clip shifts and that most of the figure hangs on; −1 where none is. */
export function carriedNode(character: Character, clip: Clip): number {
  const { nodes, skins } = character;
  const movers = new Set(skins.flatMap(({ joints }) => joints));
  nodes.forEach(({ mesh, skin }, node) => {
    if (mesh >= 0 && skin < 0) movers.add(node);
  });
  // A capture has a skeleton alone.
  if (movers.size === 0) for (const bone of bonesOf(character)) movers.add(bone);
  const below = new Map<number, number>();
  for (const mover of movers)
    for (const node of [mover, ...ancestorsOf(nodes, mover)]) below.set(node, (below.get(node) ?? 0) + 1);
  const shifted = clip.channels.filter(({ path, times }) => path === 'translation' && times.length > 0);
  const carrying = shifted
    .map(({ node }) => node)
    .filter((node) => (below.get(node) ?? 0) >= SHARE_OF_FIGURE * movers.size && movers.size > 0);
  const depth = (node: number) => ancestorsOf(nodes, node).length;
  return carrying.reduce((lowest, node) => (lowest < 0 || depth(node) > depth(lowest) ? node : lowest), -1);
}

/** The nodes whose translations a clip carries a node by, the uppermost first. */
export function carriersOf({ nodes }: Character, clip: Clip, node: number): number[] {
  const above = new Set([node, ...ancestorsOf(nodes, node)]);
  const moved = new Set(
    clip.channels
      .filter(({ path, times }) => path === 'translation' && times.length > 0)
      .map((ch) => ch.node),
  );
  return [...above].filter((one) => moved.has(one)).reverse();
}

/** Where a node is at a time of a clip: world space, metres. */
export function placeAt(character: Character, clip: Clip, node: number, time: number): number[] {
  return Array.from(clipWorld(character, clip, time).subarray(node * 16 + 12, node * 16 + 15));
}

/** The way over the ground between two places: without what goes along the upright. */
export function overGround(from: readonly number[], to: readonly number[], up: readonly number[]): number[] {
  const way = to.map((number, i) => number - from[i]);
  const rise = way.reduce((sum, number, i) => sum + number * up[i], 0);
  return way.map((number, i) => number - rise * up[i]);
}

/** How far a node is over the ground at the end from where it was at the beginning: a vector in world space, metres. */
export function travelOf(character: Character, clip: Clip, node: number, up: readonly number[]): number[] {
  const end = placeAt(character, clip, node, clipSeconds(clip));
  return overGround(placeAt(character, clip, node, 0), end, up);
}

/** The clip with the way of a node over the ground taken out of the uppermost translation that carries it. */
export function inPlace(
  character: Character,
  clip: Clip,
  node: number,
  up: readonly number[],
  how: InPlace,
): Clip {
  const [carrier] = carriersOf(character, clip, node);
  if (carrier === undefined) return clip;
  const seconds = clipSeconds(clip);
  const begin = placeAt(character, clip, node, 0);
  const travel = travelOf(character, clip, node, up);
  const wayAt = (time: number): number[] => {
    if (how === 'held') return overGround(begin, placeAt(character, clip, node, time), up);
    return travel.map((number) => (number * time) / Math.max(seconds, Number.EPSILON));
  };
  const parent = character.nodes[carrier].parent;
  const linearInParent = (time: number, way: readonly number[]) => {
    if (parent < 0) return way;
    const inverse = inverseOr(clipWorld(character, clip, time), parent * 16);
    return [0, 1, 2].map(
      (row) => inverse[row] * way[0] + inverse[4 + row] * way[1] + inverse[8 + row] * way[2],
    );
  };
  const shiftAt = (time: number) => linearInParent(time, wayAt(time));
  return withChannels(clip, (channel) => {
    if (channel.node !== carrier || channel.path !== 'translation') return channel;
    const speed =
      how === 'steady'
        ? linearInParent(
            0,
            travel.map((number) => number / seconds),
          )
        : null;
    return speed && channel.interpolation === 'CUBICSPLINE' && lastsFor(channel, seconds)
      ? curveWithout(channel, shiftAt, speed)
      : withSamples(channel, timesFor(character, clip, channel, node), (time) => {
          const shift = shiftAt(time);
          return channelAt(channel, time).map((number, axis) => number - shift[axis]);
        });
  });
}

/** Whether a channel has a key at both ends of a clip. */
const lastsFor = ({ times }: Channel, seconds: number): boolean =>
  times[0] === 0 && times[times.length - 1] === seconds;

/** A curve is followed by so many samples a second. */
const SAMPLES_OF_CURVE = 60;

/**
 * The times at which what carries a node must have a key so that a way can be taken out of it: wherever anything of
 * the way bends.
 */
function timesFor(character: Character, clip: Clip, channel: Channel, node: number): Float32Array {
  const seconds = clipSeconds(clip);
  const carriers = new Set(carriersOf(character, clip, node));
  const times = new Set([0, seconds, ...channel.times]);
  for (const other of clip.channels)
    if (carriers.has(other.node) && other.path === 'translation')
      for (const time of other.times) times.add(time);
  if (channel.interpolation !== 'LINEAR')
    for (let frame = 0; frame < seconds * SAMPLES_OF_CURVE; frame++)
      times.add(Math.fround(frame / SAMPLES_OF_CURVE));
  return Float32Array.from([...times].sort((a, b) => a - b));
}

/** A curve less a steady way: its keys less where that is, its tangents less its speed. */
function curveWithout(
  channel: Channel,
  shiftAt: (time: number) => readonly number[],
  speed: readonly number[],
): Channel {
  const values = channel.values.slice();
  channel.times.forEach((time, key) => {
    const shift = shiftAt(time);
    const offset = offsetOfKey(channel, key);
    for (let axis = 0; axis < 3; axis++) {
      values[offset - 3 + axis] -= speed[axis];
      values[offset + axis] -= shift[axis];
      values[offset + 3 + axis] -= speed[axis];
    }
  });
  return { ...channel, values };
}
