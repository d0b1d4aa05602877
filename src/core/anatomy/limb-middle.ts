import { childrenOf, parentBone, restPlace } from '../character/hierarchy';
import { bodyMeshes } from '../character/measure';
import type { Character } from '../character/model';
import { pointsOf } from '../character/points';
import { type Loop, cutByPlane } from '../geometry/cross-section';
import { type Vec3, distance, length, normalise, subtract } from '../geometry/matrix';

/**
 * The way of the limb at a joint: half from the bone above it, half towards the bones below. World space,
 * unit length; null for a lone bone.
 */
export function limbDirection(character: Character, bone: number): Vec3 | null {
  const { nodes } = character;
  const here = restPlace(nodes, bone);
  const above = parentBone(nodes, bone);
  const below = childrenOf(nodes)[bone].filter((child) => nodes[child].kind === 'bone');
  const ways = [
    ...(above >= 0 ? [subtract(here, restPlace(nodes, above))] : []),
    ...below.slice(0, 1).map((bone) => subtract(restPlace(nodes, bone), here)),
  ].filter((way) => length(way) > 1e-9);
  if (ways.length === 0) return null;
  const sum = ways
    .map((way) => normalise(way))
    .reduce((a, b) => [a[0] + b[0], a[1] + b[1], a[2] + b[2]] as const);
  return length(sum) > 1e-6 ? normalise(sum) : normalise(ways[0]);
}

/**
 * The middle of the limb's cross-section at a joint: of the loops in which the plane across the limb cuts the
 * body, the one that lies nearest, its area's middle. World space, metres; null where no loop is near enough
 * to be the limb's.
 */
export function limbMiddle(character: Character, bone: number): Vec3 | null {
  const direction = limbDirection(character, bone);
  if (!direction) return null;
  const here = restPlace(character.nodes, bone);
  const loops = bodyMeshes(character).flatMap((placed) =>
    cutByPlane(
      placed.points,
      placed.mesh.polygonOffsets,
      placed.mesh.corners,
      pointsOf(placed.mesh).pointOfVertex,
      here,
      direction,
    ),
  );
  return nearestLoop(loops, here)?.middle ?? null;
}

/** A loop farther away than so many of its own radii is another limb's. */
const NEAR = 2.5;

/** The loop that is the limb's own at a joint; undefined where none is near enough. */
export function nearestLoop(loops: readonly Loop[], here: Vec3): Loop | undefined {
  const near = loops.filter((loop) => distance(loop.middle, here) < NEAR * radiusOf(loop));
  // The body's own loop and not that of a hem or a pocket around it: of those that reach as near, the
  // smallest.
  return near.sort(
    (a, b) => distance(a.middle, here) + radiusOf(a) - distance(b.middle, here) - radiusOf(b),
  )[0];
}

/** Radius of the circle of a loop's area, metres. */
export const radiusOf = (loop: Loop) => Math.sqrt(loop.area / Math.PI);
