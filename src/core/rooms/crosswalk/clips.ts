/** Clips carried over to other bones. */
import type { Channel, Character, Clip } from '../../character/model';
import { decompose, inverseOr, times } from '../../geometry/matrix';
import type { VerticesOfNodes } from '../../motion/carried';
import { MotionFit } from '../../motion/fit';
import { clipWorld } from '../../motion/pose';

/** The clips of a character on other bones, as the motion of the mesh says. */
export function carryClips(
  source: Character,
  target: Character,
  partner: Int32Array,
  newOf: Int32Array,
  trimmed: VerticesOfNodes,
): Clip[] {
  if (source.clips.length === 0) return [];
  const fit = new MotionFit(source, target, partner, trimmed);
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
  const times_ = Float32Array.from([...new Set(moving.flatMap((ch) => [...ch.times]))].sort((a, b) => a - b));
  const affected = target.nodes.flatMap((n, i) => (n.kind === 'bone' ? [i] : []));
  const rotations = new Map(affected.map((i) => [i, new Float32Array(times_.length * 4)]));
  const translations = new Map(affected.map((i) => [i, new Float32Array(times_.length * 3)]));
  times_.forEach((time, k) => {
    const world = fit.pose(clipWorld(source, clip, time));
    for (const i of affected) {
      const p = target.nodes[i].parent;
      const { rotation, translation } = decompose(
        p < 0 ? world.subarray(i * 16, i * 16 + 16) : times(inverseOr(world, p * 16), world, 0, i * 16),
      );
      const row = rotations.get(i) as Float32Array;
      const flip =
        k > 0 && [0, 1, 2, 3].reduce((s, x) => s + row[(k - 1) * 4 + x] * rotation[x], 0) < 0 ? -1 : 1;
      row.set(
        rotation.map((x) => x * flip),
        k * 4,
      );
      translations.get(i)?.set(translation, k * 3);
    }
  });
  const still = (values: Float32Array, size: number, rest: readonly number[]) =>
    values.every((x, i) => Math.abs(x - rest[i % size]) < 1e-6);
  for (const [i, values] of rotations)
    if (!still(values, 4, target.nodes[i].rotation))
      channels.push({ node: i, path: 'rotation', interpolation: 'LINEAR', times: times_, values });
  for (const [i, values] of translations)
    if (!still(values, 3, target.nodes[i].translation))
      channels.push({ node: i, path: 'translation', interpolation: 'LINEAR', times: times_, values });
  return { ...clip, channels };
}
