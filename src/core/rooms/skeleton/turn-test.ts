/** How a bone and its twin turn: whether the same turn about an own axis moves both as mirror images. */
import { degreesBetween } from '../../anatomy/bearing';
import type { Character } from '../../character/model';
import { type Vec3, dot, quatRotate } from '../../geometry/matrix';
import { judgedPairs } from './pairs';

/** What one own axis of a pair does. */
export interface AxisOfPair {
  readonly axis: 'x' | 'y' | 'z';
  /** The same turn, or the opposite one, makes the twin the mirror image; whichever is nearer. */
  readonly way: 'same' | 'opposite';
  /** Degrees between the axes about which the two then turn; 0 where they are mirror images. */
  readonly off: number;
}

export interface TurnTest {
  /** Node of the twin. */
  readonly twin: number;
  readonly axes: readonly AxisOfPair[];
}

/** Nearer to a right angle than this, degrees, neither turn makes a mirror image. */
export const UNLIKE = 45;

/**
 * The turn test of a bone with its twin; null for one without, or whose sides its names do not tell. A turn about an axis
 * is mirrored as a turn about the mirror image of that axis, the other way round: axes of turns are axial vectors.
 */
export function turnTestOf(character: Character, node: number): TurnTest | null {
  const judged = judgedPairs(character);
  const found = judged?.pairs.find(({ left, right }) => left.node === node || right.node === node);
  if (!judged || !found) return null;
  const { bones } = judged.skeleton;
  const { normal } = judged.plane;
  const [mine, other] =
    found.left.node === node ? found.pair : ([...found.pair].reverse() as [number, number]);
  const axes = (['x', 'y', 'z'] as const).map((axis, k): AxisOfPair => {
    const unit = [0, 1, 2].map((i) => Number(i === k)) as unknown as Vec3;
    const own = quatRotate(bones[mine].rotation, unit);
    const along = dot(own, normal);
    const wanted = own.map((x, i) => 2 * along * normal[i] - x) as unknown as Vec3;
    const off = degreesBetween(wanted, quatRotate(bones[other].rotation, unit));
    return off <= 90 ? { axis, way: 'same', off } : { axis, way: 'opposite', off: 180 - off };
  });
  return { twin: bones[other].node, axes };
}
