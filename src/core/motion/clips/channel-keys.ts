/**
 * The keys of one channel: how many numbers each has, its value, keys taken out, the channel made anew out of samples.
 * A key of a cubic channel has three values, the tangent that comes in, the value, the tangent that goes out (glTF 2.0,
 * appendix C); of the others one.
 */
import type { Channel, Clip } from '../../character/model';

/** Numbers of one value of a channel: 4 of a rotation, 3 of a translation or scale, one a morph target. */
export function sizeOfValue({ path, interpolation, times, values }: Channel): number {
  if (path === 'rotation') return 4;
  if (path !== 'weights') return 3;
  const perKey = interpolation === 'CUBICSPLINE' ? 3 : 1;
  return times.length === 0 ? 0 : values.length / (times.length * perKey);
}

/** Where the value of a key begins in `values`; after the tangent that comes in where there is one. */
export function offsetOfKey(channel: Channel, key: number): number {
  const size = sizeOfValue(channel);
  return channel.interpolation === 'CUBICSPLINE' ? (key * 3 + 1) * size : key * size;
}

/** The value of a key. */
export function valueOfKey(channel: Channel, key: number): Float32Array {
  const offset = offsetOfKey(channel, key);
  return channel.values.subarray(offset, offset + sizeOfValue(channel));
}

/** The channel without some of its keys; what lies between goes the way of its interpolation. */
export function withoutKeys(channel: Channel, isOut: (key: number) => boolean): Channel {
  const size = sizeOfValue(channel) * (channel.interpolation === 'CUBICSPLINE' ? 3 : 1);
  const kept = [...channel.times.keys()].filter((key) => !isOut(key));
  if (kept.length === channel.times.length) return channel;
  const values = new Float32Array(kept.length * size);
  kept.forEach((key, i) => values.set(channel.values.subarray(key * size, (key + 1) * size), i * size));
  return { ...channel, times: Float32Array.from(kept, (key) => channel.times[key]), values };
}

/** A linear channel through the given values at the given times; turns take the short way from one to the next. */
export function withSamples(
  channel: Channel,
  times: Float32Array,
  sampleAt: (time: number) => readonly number[],
): Channel {
  const size = sizeOfValue(channel);
  const values = new Float32Array(times.length * size);
  times.forEach((time, i) => {
    const value = sampleAt(time);
    const before = values.subarray((i - 1) * size, i * size);
    const isFlipped = channel.path === 'rotation' && i > 0 && dot4(before, value) < 0;
    values.set(isFlipped ? value.map((number) => -number) : value, i * size);
  });
  return { ...channel, interpolation: 'LINEAR', times, values };
}

function dot4(a: ArrayLike<number>, b: ArrayLike<number>, i = 0, j = 0): number {
  return a[i] * b[j] + a[i + 1] * b[j + 1] + a[i + 2] * b[j + 2] + a[i + 3] * b[j + 3];
}

/** Degrees from one turn (x y z w, from place i on) to another (from place j on), 0 … 180. */
export function degreesBetween(a: ArrayLike<number>, b: ArrayLike<number>, i = 0, j = 0): number {
  // By the tangent: near zero the cosine of numbers in single precision tells nothing below a twentieth of a degree.
  const x = b[j + 3] * a[i] - b[j] * a[i + 3] - (a[i + 1] * b[j + 2] - a[i + 2] * b[j + 1]);
  const y = b[j + 3] * a[i + 1] - b[j + 1] * a[i + 3] - (a[i + 2] * b[j] - a[i] * b[j + 2]);
  const z = b[j + 3] * a[i + 2] - b[j + 2] * a[i + 3] - (a[i] * b[j + 1] - a[i + 1] * b[j]);
  return (2 * Math.atan2(Math.hypot(x, y, z), Math.abs(dot4(a, b, i, j))) * 180) / Math.PI;
}

/** Distance between two places, 3 each, from places i and j on. */
export function distanceBetween(a: ArrayLike<number>, b: ArrayLike<number>, i = 0, j = 0): number {
  return Math.hypot(a[i] - b[j], a[i + 1] - b[j + 1], a[i + 2] - b[j + 2]);
}

/** A clip with channels changed or left out (null); the same clip where none was. */
export function withChannels(clip: Clip, change: (channel: Channel) => Channel | null): Clip {
  const channels = clip.channels.map(change);
  if (channels.every((channel, i) => channel === clip.channels[i])) return clip;
  return { ...clip, channels: channels.filter((channel): channel is Channel => channel !== null) };
}
