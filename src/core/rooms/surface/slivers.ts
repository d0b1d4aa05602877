/** Faces that are very thin for their length. */
import { type Mesh, positionsOf } from '../../character/model';
import { forThinFaces } from '../../geometry/face-shape';
import { polygonsOf, soundnessOf } from './soundness';

/** The faces that are less wide than a share of their length; those without any area are told by themselves. Ascending. */
export function sliversOf(mesh: Mesh, least: number): Uint32Array {
  const out: number[] = [];
  forThinFaces(polygonsOf(mesh), positionsOf(mesh), least, (face) => {
    out.push(face);
    return least;
  });
  if (out.length === 0) return new Uint32Array();
  const isWithout = new Set(soundnessOf(mesh).withoutArea);
  return Uint32Array.from(out.filter((face) => !isWithout.has(face)));
}

/** The width of the thinnest face that has any, as a share of its length; Infinity where there is none thinner than a square. */
export function leastWidth(mesh: Mesh): number {
  let least = Infinity;
  forThinFaces(polygonsOf(mesh), positionsOf(mesh), 1, (_, width) => {
    if (width > 0) least = Math.min(least, width);
    return Math.min(1, least);
  });
  return least;
}
