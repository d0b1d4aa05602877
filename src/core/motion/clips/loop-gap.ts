/**
 * Whether a clip ends where it begins. Two habits close a loop: the last key repeats the first, or it is one frame short of
 * it and the game goes on to the first; so a gap that is no larger than the steps beside it is none.
 */
import type { Channel, Clip } from '../../character/model';
import { quatConjugate, quatMultiply, quatSlerp } from '../../geometry/matrix';
import { channelAt, clipSeconds } from '../pose';
import { degreesBetween, distanceBetween, offsetOfKey, valueOfKey, withChannels } from './channel-keys';

/** A gap is one beyond so many times the step that the channel goes there in a frame. */
const STEPS_OF_GAP = 1.5;

const FRAME_SECONDS = 1 / 30;

/** The turn of nothing, x y z w. */
const NO_TURN = [0, 0, 0, 1];

export interface LoopGap {
  readonly node: number;
  readonly path: 'rotation' | 'translation';
  /** Degrees, or a share of the figure's height. */
  readonly size: number;
}

/**
 * What of a channel need not close: the way that the figure itself goes. Takes two values, 3 each, and gives those
 * without it.
 */
export type WithoutTravel = (node: number, first: readonly number[], last: readonly number[]) => number[];

/**
 * By how much the joints of a clip miss their beginning, the largest of each kind first; turns before shifts.
 * @param shareOfHeight by node: what one unit of its translation is, as a share of the figure's height
 */
export function loopGaps(
  clip: Clip,
  shareOfHeight: (node: number) => number,
  withoutTravel: WithoutTravel,
): LoopGap[] {
  const seconds = clipSeconds(clip);
  const gaps = clip.channels.flatMap((channel): LoopGap[] => {
    const { node, path } = channel;
    if ((path !== 'rotation' && path !== 'translation') || channel.times.length < 2) return [];
    const at = (time: number) => channelAt(channel, time);
    const between = (a: readonly number[], b: readonly number[]) =>
      path === 'rotation'
        ? degreesBetween(a, b)
        : distanceBetween(a, withoutTravel(node, a, b)) * shareOfHeight(node);
    const size = between(at(0), at(seconds));
    const frame = Math.min(FRAME_SECONDS, seconds / 2);
    const step = Math.max(between(at(0), at(frame)), between(at(seconds - frame), at(seconds)));
    return size > STEPS_OF_GAP * step ? [{ node, path, size }] : [];
  });
  const byKind = (path: LoopGap['path']) =>
    gaps.filter((gap) => gap.path === path).sort((a, b) => b.size - a.size);
  return [...byKind('rotation'), ...byKind('translation')];
}

/**
 * The clip with its last moment made the first: what is missing is added to the keys of the last seconds, more and more
 * (smoothstep), so that nothing before is touched.
 */
export function closeLoop(clip: Clip, blendSeconds: number, withoutTravel: WithoutTravel): Clip {
  const end = clipSeconds(clip);
  const begin = Math.max(0, end - blendSeconds);
  const shareAt = (time: number) => {
    const share = Math.min(1, Math.max(0, (time - begin) / Math.max(end - begin, Number.EPSILON)));
    return share * share * (3 - 2 * share);
  };
  return withChannels(clip, (channel) => closedChannel(channel, shareAt, withoutTravel));
}

function closedChannel(
  channel: Channel,
  shareAt: (time: number) => number,
  withoutTravel: WithoutTravel,
): Channel {
  const { times, path, node } = channel;
  if (times.length < 2) return channel;
  const first = Array.from(valueOfKey(channel, 0));
  const last = Array.from(valueOfKey(channel, times.length - 1));
  const goal = path === 'translation' ? withoutTravel(node, last, first) : first;
  const isThere = path === 'rotation' ? degreesBetween(last, goal) < 1e-4 : largestApart(last, goal) < 1e-7;
  if (isThere) return channel;
  const missing = path === 'rotation' ? shortWay(quatMultiply(goal, quatConjugate(last))) : null;
  const values = channel.values.slice();
  times.forEach((time, key) => {
    const share = shareAt(time);
    // The first key is what the last one becomes.
    if (share === 0 || key === 0) return;
    const value = Array.from(valueOfKey(channel, key));
    const closed = missing
      ? quatMultiply(quatSlerp(NO_TURN, missing, share), value)
      : value.map((number, i) => number + share * (goal[i] - last[i]));
    values.set(closed, offsetOfKey(channel, key));
  });
  return { ...channel, values };
}

const shortWay = (turn: readonly number[]): readonly number[] =>
  turn[3] < 0 ? turn.map((number) => -number) : turn;

const largestApart = (a: readonly number[], b: readonly number[]): number =>
  a.reduce((most, number, i) => Math.max(most, Math.abs(number - b[i])), 0);
