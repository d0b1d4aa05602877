/**
 * How far points are from having moved as one stiff thing: what is left when the best rotation and shift are taken off
 * (Kabsch 1976; the rotation by {@link rotationOf}).
 */
import { quatRotate } from './matrix';
import { rotationOf } from './rotation';

/** Distances that no stiff motion explains, in the unit of the places. */
export interface RigidResidual {
  readonly rms: number;
  readonly most: number;
}

/**
 * @param rest places at rest, 3 per vertex
 * @param posed places in the pose, 3 per vertex
 * @param vertices those that are to move as one
 */
export function rigidResidual(
  rest: ArrayLike<number>,
  posed: ArrayLike<number>,
  vertices: ArrayLike<number>,
): RigidResidual {
  const count = vertices.length;
  if (count === 0) return { rms: 0, most: 0 };
  const before = middleOf(rest, vertices);
  const after = middleOf(posed, vertices);
  const spread = new Float64Array(9);
  for (let i = 0; i < count; i++)
    for (let row = 0; row < 3; row++)
      for (let column = 0; column < 3; column++)
        spread[row * 3 + column] +=
          (posed[vertices[i] * 3 + row] - after[row]) * (rest[vertices[i] * 3 + column] - before[column]);
  const scale = Math.hypot(...spread);
  if (scale > 0) for (let k = 0; k < 9; k++) spread[k] /= scale;
  const turn = rotationOf(spread);
  let [sum, most] = [0, 0];
  for (let i = 0; i < count; i++) {
    const at = vertices[i] * 3;
    const turned = quatRotate(turn, [
      rest[at] - before[0],
      rest[at + 1] - before[1],
      rest[at + 2] - before[2],
    ]);
    const off = Math.hypot(
      posed[at] - after[0] - turned[0],
      posed[at + 1] - after[1] - turned[1],
      posed[at + 2] - after[2] - turned[2],
    );
    sum += off * off;
    most = Math.max(most, off);
  }
  return { rms: Math.sqrt(sum / count), most };
}

function middleOf(points: ArrayLike<number>, vertices: ArrayLike<number>): [number, number, number] {
  const middle: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < vertices.length; i++)
    for (let k = 0; k < 3; k++) middle[k] += points[vertices[i] * 3 + k] / vertices.length;
  return middle;
}
