/** The keys of clips against the frames of a game, so many a second. */
import type { Channel, Clip } from '../../character/model';
import { channelAt } from '../pose';
import { withChannels, withSamples, withoutKeys } from './channel-keys';

/** A key is on a frame within this share of a frame: single precision leaves a ten-thousandth after minutes. */
const ON_FRAME = 0.02;

/** How far a time is from the nearest frame, in frames, 0 … 0.5. */
export const offFrame = (seconds: number, rate: number): number =>
  Math.abs(seconds * rate - Math.round(seconds * rate));

const isOff = (rate: number) => (seconds: number) => offFrame(seconds, rate) > ON_FRAME;

export interface OffGrid {
  /** Keys between frames, and all keys. */
  readonly off: number;
  readonly keys: number;
  /** The farthest from a frame, in frames. */
  readonly farthest: number;
  /** Frames a second that the keys seem to have been made for; null where they follow none. */
  readonly ownRate: number | null;
}

/** Counts the keys of a clip that lie between frames. */
export function keysOffGrid(clip: Clip, rate: number): OffGrid {
  let off = 0;
  let keys = 0;
  let farthest = 0;
  for (const { times } of clip.channels) {
    keys += times.length;
    for (const time of times) {
      if (isOff(rate)(time)) off++;
      farthest = Math.max(farthest, offFrame(time, rate));
    }
  }
  return { off, keys, farthest, ownRate: off > 0 ? usualRateOf(clip) : null };
}

/** Rates that motion is made at, frames a second (common practice). */
const RATES = [24, 25, 30, 48, 50, 60, 100, 120, 240];

/** The least of the usual rates that has every key on a frame; null where none has. */
export function usualRateOf(clip: Clip): number | null {
  const fits = (rate: number) =>
    clip.channels.every(({ times }) => times.every((time) => !isOff(rate)(time)));
  return RATES.find(fits) ?? null;
}

/**
 * The clip with every key on a frame. A channel that has a key between frames gets one on each frame from before its first
 * key to behind its last, where it stands at that moment; one that jumps keeps its jumps, each on the nearest frame.
 */
export function putOnGrid(clip: Clip, rate: number): Clip {
  return withChannels(clip, (channel) => (channel.times.some(isOff(rate)) ? onGrid(channel, rate) : channel));
}

function onGrid(channel: Channel, rate: number): Channel {
  const { times, interpolation } = channel;
  if (interpolation === 'STEP' || times.length === 1) return roundedKeys(channel, rate);
  const first = Math.floor(times[0] * rate + ON_FRAME);
  const last = Math.ceil(times[times.length - 1] * rate - ON_FRAME);
  const frames = Float32Array.from({ length: last - first + 1 }, (_, i) => (first + i) / rate);
  return withSamples(channel, frames, (time) => channelAt(channel, time));
}

/** Every key on its nearest frame; of those that fall on one frame the last stays, as it is the one that lasts. */
function roundedKeys(channel: Channel, rate: number): Channel {
  const frames = Array.from(channel.times, (time) => Math.round(time * rate));
  const rounded = withoutKeys(channel, (key) => frames[key + 1] === frames[key]);
  const kept = frames.filter((frame, key) => frames[key + 1] !== frame);
  return { ...rounded, times: Float32Array.from(kept, (frame) => frame / rate) };
}
