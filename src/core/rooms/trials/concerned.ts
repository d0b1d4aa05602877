/** The very polygons that a figure of a pose comes from. */
import type { Character } from '../../character/model';
import { type JointMotion, turnsOfMotion } from '../../anatomy/joint-motions';
import type { Elements } from '../../contracts/finding';
import { surfaceStrain } from '../../geometry/surface-strain';
import { posedWorld } from '../../motion/pose';
import { invertedTriangles, posedLocal } from './figures';
import type { LocalSurface } from './joint-surface';
import { jointSurface, toldAt } from './sweep';

/** Whether a triangle is concerned, by its number among those of a surface. */
export type Concerns = (surface: LocalSurface, posed: Float32Array) => (triangle: number) => boolean;

/** Polygons of every mesh that are concerned when a motion stands at so many degrees. */
export function polygonsOf(
  character: Character,
  motion: JointMotion,
  degrees: number,
  concerns: Concerns,
): Elements[] {
  const world = posedWorld(character, turnsOfMotion(motion, degrees));
  const byNode = new Map<number, Set<number>>();
  for (const bone of toldAt(motion))
    for (const surface of jointSurface(character, bone).surfaces) {
      const isConcerned = concerns(surface, posedLocal(surface, world, motion.skinning));
      const polygons = byNode.get(surface.placed.node) ?? new Set<number>();
      byNode.set(surface.placed.node, polygons);
      surface.polygons.forEach((polygon, triangle) => {
        if (isConcerned(triangle)) polygons.add(polygon);
      });
    }
  return [...byNode].flatMap(([node, polygons]): Elements[] =>
    polygons.size > 0
      ? [{ kind: 'polygon', node, ids: Uint32Array.from(polygons).sort((a, b) => a - b) }]
      : [],
  );
}

/** Triangles that are pressed to less than this are where volume goes. */
const PRESSED = 0.6;

export const pressed: Concerns = ({ rest, triangles }, posed) => {
  const { least } = surfaceStrain(rest, posed, triangles);
  return (triangle) => least[triangle] < PRESSED;
};

export const stretchedBeyond =
  (limit: number): Concerns =>
  ({ rest, triangles }, posed) => {
    const { most } = surfaceStrain(rest, posed, triangles);
    return (triangle) => most[triangle] > limit;
  };

export const turnedOver: Concerns = (surface, posed) => {
  const inverted = invertedTriangles(surface, posed);
  return (triangle) => inverted[triangle] === 1;
};

/** Triangles with an edge that became longer by more than so many metres. */
export const tornBeyond =
  (gap: number): Concerns =>
  ({ rest, triangles }, posed) =>
  (triangle) =>
    [0, 1, 2].some((side) => {
      const a = triangles[triangle * 3 + side] * 3;
      const b = triangles[triangle * 3 + ((side + 1) % 3)] * 3;
      const long = (points: Float32Array) =>
        Math.hypot(points[b] - points[a], points[b + 1] - points[a + 1], points[b + 2] - points[a + 2]);
      return long(posed) - long(rest) > gap;
    });

/**
 * How far the surface round every vertex is stretched when a motion stands at so many degrees: 1 where it only moves. By the node
 * of each mesh that bends, a number per vertex.
 */
export function stretchOfVertices(
  character: Character,
  motion: JointMotion,
  degrees: number,
): Map<number, Float32Array> {
  const world = posedWorld(character, turnsOfMotion(motion, degrees));
  const out = new Map<number, Float32Array>();
  for (const bone of toldAt(motion))
    for (const surface of jointSurface(character, bone).surfaces) {
      const { placed, triangles, vertices, rest } = surface;
      const values = out.get(placed.node) ?? new Float32Array(placed.mesh.vertexCount).fill(1);
      out.set(placed.node, values);
      const { most } = surfaceStrain(rest, posedLocal(surface, world, motion.skinning), triangles);
      for (let corner = 0; corner < triangles.length; corner++) {
        const vertex = vertices[triangles[corner]];
        values[vertex] = Math.max(values[vertex], most[Math.floor(corner / 3)]);
      }
    }
  return out;
}
