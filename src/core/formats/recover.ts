/**
 * One rule for every format: a mesh that came as nothing but triangles has its quads recovered from triangle pairs,
 * since tools that know polygons cut them on the way out. What was recovered is written as the triangles that came.
 */
import { type Character, type Mesh, type Piece, positionsOf, replaceAt } from '../character/model';
import { pointsOf } from '../character/points';
import { recoverQuads } from '../geometry/quads';
import { trianglesAsPolygons } from './gltf/polygons';

/** Formats whose reader decides by itself, run by run, since they say whether triangles encode polygons. */
const SAYS_POLYGONS = 'glTF';

/** The same character with the quads of its triangulated meshes; itself where it has none. */
export function recoverPolygons(character: Character): Character {
  if (character.source.format.startsWith(SAYS_POLYGONS)) return character;
  const better = new Map<number, Mesh>();
  character.meshes.forEach((mesh, i) => {
    if (isTriangulated(mesh)) better.set(i, recoverMesh(mesh));
  });
  return better.size > 0 ? { ...character, meshes: replaceAt(character.meshes, better) } : character;
}

function isTriangulated({ polygonOffsets: offsets, pieces }: Mesh): boolean {
  if (offsets.length < 2 || pieces.some((piece) => piece.carriedIndices)) return false;
  for (let polygon = 1; polygon < offsets.length; polygon++)
    if (offsets[polygon] - offsets[polygon - 1] !== 3) return false;
  return true;
}

/** The mesh with its quads, run by run; runs that were modelled in triangles keep them. Polygons stay with their piece. */
function recoverMesh(mesh: Mesh): Mesh {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const triangles = mesh.polygonOffsets.length - 1;
  const parts = mesh.pieces.map(({ polygonStart, polygonCount }) => {
    const own = mesh.corners.slice(polygonStart * 3, (polygonStart + polygonCount) * 3);
    const recovered = recoverQuads(own, positionsOf(mesh), pointOfVertex, pointCount);
    return recovered.isQuadMesh ? recovered : { ...trianglesAsPolygons(own), quads: 0 };
  });
  const quads = parts.reduce((sum, part) => sum + part.quads, 0);
  if (quads === 0) return { ...mesh, polygonOrigin: 'triangles' };
  const count = triangles - quads;
  const polygonOffsets = new Uint32Array(count + 1);
  const corners = new Uint32Array(triangles * 3 - quads * 2);
  const pieces: Piece[] = [];
  let polygon = 0;
  let corner = 0;
  mesh.pieces.forEach((piece, k) => {
    const { offsets, corners: own } = parts[k];
    pieces.push({ ...piece, polygonStart: polygon, polygonCount: offsets.length - 1 });
    corners.set(own, corner);
    for (let otherPolygon = 1; otherPolygon < offsets.length; otherPolygon++)
      polygonOffsets[++polygon] = corner + offsets[otherPolygon];
    corner += own.length;
  });
  return { ...mesh, pieces, polygonOffsets, corners, polygonOrigin: 'recovered' };
}

/** The polygons of a run as they are written, corner by corner: quads that were recovered are two triangles again. */
export function writtenPolygons(mesh: Mesh, { polygonStart, polygonCount }: Piece): number[][] {
  const out: number[][] = [];
  for (let polygon = polygonStart; polygon < polygonStart + polygonCount; polygon++) {
    const row = Array.from(
      mesh.corners.subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]),
    );
    if (mesh.polygonOrigin === 'recovered')
      for (let k = 1; k + 1 < row.length; k++) out.push([row[0], row[k], row[k + 1]]);
    else out.push(row);
  }
  return out;
}
