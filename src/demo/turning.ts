/** Tracks of made-up clips: joints that turn about axes of the world as they stand at rest. */
import { restWorld } from '../core/character/hierarchy';
import type { Channel, Character } from '../core/character/model';
import {
  type Vec3,
  decompose,
  quatAbout,
  quatConjugate,
  quatMultiply,
  quatRotate,
} from '../core/geometry/matrix';

/** The identity of turns. */
const NO_TURN = [0, 0, 0, 1];

/** A track that turns a node about an axis of the world, degrees by seconds. */
export function turningTrack(
  { nodes }: Character,
  node: number,
  times: Float32Array,
  axis: Vec3,
  degreesAt: (seconds: number) => number,
): Channel {
  const { parent, rotation } = nodes[node];
  const above = parent < 0 ? NO_TURN : decompose(restWorld(nodes), parent * 16).rotation;
  const local = quatRotate(quatConjugate(above), axis);
  const values = new Float32Array(times.length * 4);
  times.forEach((time, key) =>
    values.set(quatMultiply(quatAbout(local, (degreesAt(time) * Math.PI) / 180), rotation), key * 4),
  );
  return { node, path: 'rotation', interpolation: 'LINEAR', times, values };
}
