/** Whether a branch goes with the bone that it hangs on. */
import { branchOf, restPlace, restWorld } from '../character/hierarchy';
import type { Character, Influences } from '../character/model';
import { placedMeshes } from '../character/measure';
import { placedPoints } from '../character/deform';
import { type Numbers, inverseOr, quatAbout, times } from '../geometry/matrix';
import { posedWorld } from './pose';

/** The bone is turned by so much about each of the world's axes in turn. */
const TURN = Math.PI / 6;

/**
 * How far joints and points of a branch are from where the bone would carry them as one rigid piece, metres: the most over
 * a turn of 30° of the bone about each axis of the world. Points that bones outside of the branch move as well do not
 * count. 0 where all follows.
 */
export function leftBehind(character: Character, top: number, bone: number): number {
  const { nodes } = character;
  const rest = restWorld(nodes);
  const inside = branchOf(nodes, [top]);
  let most = 0;
  for (const axis of [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ] as const) {
    const world = posedWorld(character, new Map([[bone, quatAbout(axis, TURN)]]));
    const carry = times(world.subarray(bone * 16, bone * 16 + 16), inverseOr(rest, bone * 16));
    const tell = (from: Numbers, at: Numbers, offset: number) =>
      (most = Math.max(most, apart(carry, from, at, offset)));
    nodes.forEach((_, i) => {
      if (inside[i]) tell(restPlace(nodes, i), world.subarray(i * 16 + 12, i * 16 + 15), 0);
    });
    for (const { mesh, node, skin, points } of placedMeshes(character)) {
      if (!(skin ? skin.joints.some((joint) => inside[joint]) : inside[node])) continue;
      const now = placedPoints(mesh, skin, node, world);
      const isOwn = skin ? carriedInside(mesh.influences, skin.joints, inside) : () => true;
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
        if (isOwn(vertex)) tell(points.subarray(vertex * 3, vertex * 3 + 3), now, vertex * 3);
    }
  }
  return most;
}

/** Whether a point is moved by nothing but bones of the branch. */
function carriedInside(
  influences: Influences | null,
  joints: readonly number[],
  inside: readonly boolean[],
): (vertex: number) => boolean {
  if (!influences) return () => false;
  const { offsets, joint, weight } = influences;
  return (vertex) => {
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
      if (weight[k] > 0 && !inside[joints[joint[k]]]) return false;
    return offsets[vertex + 1] > offsets[vertex];
  };
}

/** How far a place is from where another one is carried, metres. */
function apart(carry: Float64Array, [x, y, z]: Numbers, at: Numbers, offset: number): number {
  const off = (axis: number) =>
    carry[axis] * x + carry[4 + axis] * y + carry[8 + axis] * z + carry[12 + axis] - at[offset + axis];
  return Math.hypot(off(0), off(1), off(2));
}
