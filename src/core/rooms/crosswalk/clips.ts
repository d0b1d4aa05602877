/** Clips carried over to other bones. */
import type { Channel, Character, Clip } from '../../character/model';
import { decompose, inverseOr, quatSlerp, times as product } from '../../geometry/matrix';
import type { VerticesOfNodes } from '../../motion/carried';
import { MotionFit } from '../../motion/fit';
import { clipWorld } from '../../motion/pose';

/** The clips of a character on other bones, as the motion of the mesh says. */
export function carryClips(
  source: Character,
  target: Character,
  sourceNodeOf: Int32Array,
  newOf: Int32Array,
  trimmed: VerticesOfNodes,
  reference: Character = source,
): Clip[] {
  if (source.clips.length === 0) return [];
  const fit = new MotionFit({ source, target, sourceNodeOf, trimmed, reference });
  return source.clips.map((clip) => carryClip(source, clip, target, fit, newOf));
}

/**
 * A clip as rotations of the new bones, fitted at every key so that the mesh goes as it went; channels of nodes that
 * came along unchanged stay as they are.
 */
function carryClip(
  source: Character,
  clip: Clip,
  target: Character,
  fit: MotionFit,
  newOf: Int32Array,
): Clip {
  const stays = (ch: Channel) =>
    newOf[ch.node] >= 0 &&
    (source.nodes[ch.node].kind !== 'bone' || ch.path === 'weights' || ch.path === 'scale');
  const channels: Channel[] = clip.channels.filter(stays).map((ch) => ({ ...ch, node: newOf[ch.node] }));
  const moving = clip.channels.filter(
    (ch) => source.nodes[ch.node].kind === 'bone' && (ch.path === 'rotation' || ch.path === 'translation'),
  );
  if (moving.length === 0) return { ...clip, channels };
  const affected = target.nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : []));
  const poses = keyPoses(keyTimes(moving), target, affected, (time) =>
    fit.pose(clipWorld(source, clip, time)),
  );
  const keyedAt = Float32Array.from(poses, (pose) => pose.time);
  const rotations = new Map(affected.map((i) => [i, new Float32Array(poses.length * 4)]));
  const translations = new Map(affected.map((i) => [i, new Float32Array(poses.length * 3)]));
  poses.forEach(({ locals }, k) => {
    affected.forEach((i, at) => {
      const { rotation, translation } = locals[at];
      const row = rotations.get(i) as Float32Array;
      const flip =
        k > 0 && [0, 1, 2, 3].reduce((sum, x) => sum + row[(k - 1) * 4 + x] * rotation[x], 0) < 0 ? -1 : 1;
      row.set(
        rotation.map((x) => x * flip),
        k * 4,
      );
      translations.get(i)?.set(translation, k * 3);
    });
  });
  const still = (values: Float32Array, size: number, rest: readonly number[]) =>
    values.every((x, i) => Math.abs(x - rest[i % size]) < 1e-6);
  for (const [i, values] of rotations)
    if (!still(values, 4, target.nodes[i].rotation))
      channels.push({ node: i, path: 'rotation', interpolation: 'LINEAR', times: keyedAt, values });
  for (const [i, values] of translations)
    if (!still(values, 3, target.nodes[i].translation))
      channels.push({ node: i, path: 'translation', interpolation: 'LINEAR', times: keyedAt, values });
  return { ...clip, channels };
}

/** Where the bones stand in their parents at a moment. */
interface KeyPose {
  readonly time: number;
  readonly locals: readonly Local[];
}

type Local = Pick<ReturnType<typeof decompose>, 'translation' | 'rotation'>;

/** A value that jumps gets a key so shortly before, seconds. */
const JUST_BEFORE = 1e-3;

/** Keys are set no closer than this where those of the clip are not enough, seconds. */
const CLOSEST = 1 / 60;

/** Between linear keys that lie so close nothing is looked for, seconds. */
const CLOSE = 1 / 20;

/** What bones may be off between two keys: radians, and metres. */
const TURNED_OFF = 2e-3;
const SHIFTED_OFF = 1e-4;

/** Times of all keys, and of the moments right before a value jumps, seconds. */
function keyTimes(channels: readonly Channel[]): {
  readonly times: readonly number[];
  readonly isCurved: boolean;
} {
  const times = new Set<number>();
  for (const ch of channels) {
    ch.times.forEach((time, k) => {
      times.add(time);
      if (ch.interpolation === 'STEP' && k > 0 && time - ch.times[k - 1] > 2 * JUST_BEFORE)
        times.add(time - JUST_BEFORE);
    });
  }
  const isCurved = channels.some((ch) => ch.interpolation !== 'LINEAR');
  return { times: [...times].sort((a, b) => a - b), isCurved };
}

/**
 * Poses at the keys of a clip, and between them where a straight way from one to the next would miss the motion: a
 * curve that was keyed sparsely, or turns of several bones that one takes over.
 */
function keyPoses(
  { times, isCurved }: ReturnType<typeof keyTimes>,
  target: Character,
  affected: readonly number[],
  worldAt: (time: number) => Float64Array,
): KeyPose[] {
  const poseAt = (time: number): KeyPose => {
    const world = worldAt(time);
    const locals = affected.map((i) => {
      const parent = target.nodes[i].parent;
      return decompose(
        parent < 0
          ? world.subarray(i * 16, i * 16 + 16)
          : product(inverseOr(world, parent * 16), world, 0, i * 16),
      );
    });
    return { time, locals };
  };
  const least = isCurved ? 2 * CLOSEST : CLOSE;
  const out: KeyPose[] = [];
  const fill = (from: KeyPose, to: KeyPose) => {
    if (to.time - from.time < least) return;
    const middle = poseAt((from.time + to.time) / 2);
    if (!misses(from, middle, to)) return;
    fill(from, middle);
    out.push(middle);
    fill(middle, to);
  };
  times.forEach((time, k) => {
    const pose = poseAt(time);
    if (k > 0) fill(out[out.length - 1], pose);
    out.push(pose);
  });
  return out;
}

/** Whether the straight way between two poses misses the one in their middle. */
const misses = (from: KeyPose, middle: KeyPose, to: KeyPose): boolean =>
  middle.locals.some(({ rotation, translation }, at) => {
    const [a, b] = [from.locals[at], to.locals[at]];
    const way = quatSlerp(a.rotation, b.rotation, 0.5);
    const cosine = Math.abs(rotation.reduce((sum, x, k) => sum + x * way[k], 0));
    if (2 * Math.acos(Math.min(1, cosine)) > TURNED_OFF) return true;
    return translation.some((x, k) => Math.abs(x - (a.translation[k] + b.translation[k]) / 2) > SHIFTED_OFF);
  });
