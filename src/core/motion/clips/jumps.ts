/**
 * Where a clip jumps: a step from one key to the next that is far larger than the steps around it, as captures have where
 * a marker was lost and hand-made clips where a turn flips over. A fast move is none: the steps around it are large too. What
 * is stepped on purpose, held from key to key, is not looked at.
 */
import type { Channel, Clip } from '../../character/model';
import { degreesBetween, distanceBetween, offsetOfKey, withChannels, withoutKeys } from './channel-keys';

/** Steps are told by the frame: what they would be in a thirtieth of a second. */
const FRAME_SECONDS = 1 / 30;

/** A jump is this many times the steps around it. */
const APART_FROM_OTHERS = 3;

/** Steps on either side that a jump is held against; the two beside it belong to it, for a single key that is off. */
const NEIGHBOURS = 5;

/** Keys that stray and come back within this many are one spike. */
const LONGEST_SPIKE = 6;

/** How far joints may go from one frame to the next. */
export interface JumpLimits {
  /** Degrees in a thirtieth of a second; null for any. */
  readonly turn: number | null;
  /** Share of the figure's height in a thirtieth of a second; null for any. */
  readonly shift: number | null;
}

export interface Jump {
  readonly node: number;
  readonly path: 'rotation' | 'translation';
  /** The key that it leaves from. */
  readonly key: number;
  /** The last key that it is astray at, where it comes back soon; null where it stays on the other side. */
  readonly lastAstray: number | null;
  /** When it is where it jumped to, seconds. */
  readonly seconds: number;
  /** Degrees, or a share of the figure's height, in a frame. */
  readonly size: number;
}

/** One step that is a jump. */
type LargeStep = Pick<Jump, 'key' | 'size'>;

/**
 * All jumps of a clip, by channel and time.
 * @param shareOfHeight by node: what one unit of its translation is, as a share of the figure's height
 */
export function jumpsOf(clip: Clip, limits: JumpLimits, shareOfHeight: (node: number) => number): Jump[] {
  return clip.channels.flatMap((channel) => jumpsOfChannel(channel, limits, shareOfHeight(channel.node)));
}

function jumpsOfChannel(channel: Channel, { turn, shift }: JumpLimits, scale: number): Jump[] {
  const { node, path, times, interpolation } = channel;
  if ((path !== 'rotation' && path !== 'translation') || interpolation === 'STEP') return [];
  const limit = path === 'rotation' ? turn : shift;
  if (limit === null) return [];
  const steps = stepsByFrame(channel, scale);
  const large = steps.flatMap((size, key): LargeStep[] =>
    size > limit && size > APART_FROM_OTHERS * medianAround(steps, key) ? [{ key, size }] : [],
  );
  const out: Jump[] = [];
  for (let i = 0; i < large.length; i++) {
    const { key, size } = large[i];
    const isSpike = i + 1 < large.length && comesBack(channel, large[i], large[i + 1], scale);
    out.push({
      node,
      path,
      key,
      lastAstray: isSpike ? large[i + 1].key : null,
      seconds: times[key + 1],
      size: isSpike ? Math.max(size, large[i + 1].size) : size,
    });
    if (isSpike) i++;
  }
  return out;
}

/** From every key to the next: degrees, or a share of the height, in a frame. */
function stepsByFrame(channel: Channel, scale: number): number[] {
  const { times, values, path } = channel;
  return Array.from({ length: Math.max(0, times.length - 1) }, (_, key) => {
    const [from, to] = [offsetOfKey(channel, key), offsetOfKey(channel, key + 1)];
    const step =
      path === 'rotation'
        ? degreesBetween(values, values, from, to)
        : distanceBetween(values, values, from, to) * scale;
    const seconds = times[key + 1] - times[key];
    return step * Math.min(1, FRAME_SECONDS / Math.max(seconds, Number.EPSILON));
  });
}

function medianAround(steps: readonly number[], key: number): number {
  const around = steps
    .slice(Math.max(0, key - NEIGHBOURS), key + NEIGHBOURS + 1)
    .filter((_, i) => Math.abs(i + Math.max(0, key - NEIGHBOURS) - key) > 1)
    .sort((a, b) => a - b);
  return around.length === 0 ? 0 : around[around.length >> 1];
}

/**
 * The clip with its jumps bridged: what strays and comes back within a few keys is taken out; where it stays on the other
 * side, `beside` keys on either side are taken out, so that it goes over steadily. A first or a last key that stands apart from
 * all others, as the pose that a capture is calibrated in, is taken out itself.
 */
export function bridgeJumps(
  clip: Clip,
  limits: JumpLimits,
  shareOfHeight: (node: number) => number,
  beside: number,
): Clip {
  return withChannels(clip, (channel) => {
    const jumps = jumpsOfChannel(channel, limits, shareOfHeight(channel.node));
    if (jumps.length === 0) return channel;
    const out = keysToTakeOut(channel, jumps, beside);
    return withoutKeys(channel, (key) => out.has(key));
  });
}

function keysToTakeOut(channel: Channel, jumps: readonly Jump[], beside: number): Set<number> {
  const out = new Set<number>();
  const last = channel.times.length - 1;
  for (const { key, lastAstray } of jumps) {
    const [from, to] = lastAstray === null ? besideJump(key, beside, last) : [key + 1, lastAstray];
    for (let astray = from; astray <= to; astray++) out.add(astray);
  }
  return out;
}

/** The keys beside a step that goes to another side and stays there, the first and the last of them. */
function besideJump(key: number, beside: number, last: number): readonly [number, number] {
  if (key === 0) return [0, 0];
  if (key + 1 === last) return [last, last];
  return [Math.max(1, key - beside + 1), Math.min(last - 1, key + beside)];
}

/** Keys on either side that bridge all jumps of a clip, as few as do; the most that are tried where none does. */
export function besideNeeded(
  clip: Clip,
  limits: JumpLimits,
  shareOfHeight: (node: number) => number,
): number {
  for (let beside = 1; beside < MOST_BESIDE; beside++)
    if (jumpsOf(bridgeJumps(clip, limits, shareOfHeight, beside), limits, shareOfHeight).length === 0)
      return beside;
  return MOST_BESIDE;
}

/** More keys than this are no bridge. */
const MOST_BESIDE = 8;

/** Whether a jump is taken back by the next one: behind both it is nearer to where it was than either is large. */
function comesBack(channel: Channel, leaves: LargeStep, returns: LargeStep, scale: number): boolean {
  if (returns.key - leaves.key > LONGEST_SPIKE) return false;
  const { values, path } = channel;
  const [before, behind] = [offsetOfKey(channel, leaves.key), offsetOfKey(channel, returns.key + 1)];
  const apart =
    path === 'rotation'
      ? degreesBetween(values, values, before, behind)
      : distanceBetween(values, values, before, behind) * scale;
  return apart < Math.min(leaves.size, returns.size) / 2;
}
