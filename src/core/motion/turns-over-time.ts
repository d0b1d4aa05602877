/** How a joint turns and where it goes over the time of a motion: what charts over the clock show. */
import { decompose, quatConjugate, quatMultiply } from '../geometry/matrix';
import type { Character } from '../character/model';
import { degreesOfTurn } from './hand-pose';

export interface TurnsOverTime {
  /** Seconds, evenly from 0 to the end. */
  readonly times: Float32Array;
  /** 3 a time: degrees about x, then y, then z of the frame that the bone has at rest under its parent; they go on past ±180. */
  readonly degrees: Float32Array;
  /** 3 a time: where the joint is, world space, metres. */
  readonly places: Float32Array;
}

/** A turn of zero, for the frame of a bone itself. */
const NO_TURN = [0, 0, 0, 1];

/**
 * Samples a motion at evenly spaced times.
 * @param node index of the bone
 * @param worldAt world matrices of all nodes at a time in seconds, 16 each
 * @param seconds length of the motion
 * @param count times, 2 or more
 */
export function turnsOverTime(
  { nodes }: Pick<Character, 'nodes'>,
  node: number,
  worldAt: (time: number) => Float64Array,
  seconds: number,
  count: number,
): TurnsOverTime {
  const { parent, rotation: rest } = nodes[node];
  const times = Float32Array.from({ length: count }, (_, i) => (seconds * i) / (count - 1));
  const degrees = new Float32Array(count * 3);
  const places = new Float32Array(count * 3);
  let last: readonly number[] = [0, 0, 0];
  times.forEach((time, i) => {
    const world = worldAt(time);
    const { translation, rotation } = decompose(world, node * 16);
    const above = parent < 0 ? NO_TURN : decompose(world, parent * 16).rotation;
    const turn = quatMultiply(quatConjugate(quatMultiply(above, rest)), rotation);
    last = nearestTo(last, degreesOfTurn(turn, 'own', NO_TURN));
    degrees.set(last, i * 3);
    places.set(translation, i * 3);
  });
  return { times, degrees, places };
}

/**
 * The three angles of one and the same turn that are nearest to others: every triple of angles has a twin (x + 180°,
 * 180° − y, z + 180°), and each may go round any number of times.
 */
function nearestTo(before: readonly number[], [x, y, z]: readonly number[]): number[] {
  const round = (angles: readonly number[]) =>
    angles.map((angle, k) => angle + 360 * Math.round((before[k] - angle) / 360));
  const way = (angles: readonly number[]) =>
    angles.reduce((sum, angle, k) => sum + Math.abs(angle - before[k]), 0);
  const [one, twin] = [round([x, y, z]), round([x + 180, 180 - y, z + 180])];
  return way(one) <= way(twin) ? one : twin;
}
