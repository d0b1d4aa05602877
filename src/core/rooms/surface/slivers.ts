/** Faces that are very thin for their length. */
import { type Mesh, positionsOf } from '../../character/model';
import { pointsOf } from '../../character/points';
import { widthsOfFaces } from '../../geometry/face-shape';
import { polygonsOf, soundnessOf } from './soundness';

const known = new WeakMap<Uint32Array, { readonly points: object; readonly widths: Float32Array }>();

/** How wide each face of a mesh is for its length, as {@link widthsOfFaces} has it. Made once for its corners and its points. */
export function faceWidths(mesh: Mesh): Float32Array {
  const points = pointsOf(mesh);
  const before = known.get(mesh.corners);
  if (before?.points === points) return before.widths;
  const widths = widthsOfFaces(polygonsOf(mesh), positionsOf(mesh));
  known.set(mesh.corners, { points, widths });
  return widths;
}

/** The faces that are less wide than a share of their length; those without any area are told by themselves. Ascending. */
export function sliversOf(mesh: Mesh, least: number): Uint32Array {
  const widths = faceWidths(mesh);
  const out: number[] = [];
  for (let face = 0; face < widths.length; face++) if (widths[face] < least) out.push(face);
  if (out.length === 0) return new Uint32Array();
  const isWithout = new Set(soundnessOf(mesh).withoutArea);
  return Uint32Array.from(out.filter((face) => !isWithout.has(face)));
}
