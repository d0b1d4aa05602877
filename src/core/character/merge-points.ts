/** Points of a mesh made one. */
import type { Attribute, Mesh, Piece } from './model';
import { pickInfluences, pickRows } from './pick';
import { pointsOf } from './points';

/**
 * A mesh with some points become others: the survivor keeps its place and weights; a vertex of a merged point that a seam needs
 * (other texture place, other normal) stays a vertex of its own on the same point. Polygons left with fewer than three points go.
 * @param becomes for every point the one that it becomes, which becomes itself
 */
export function mergedPoints(mesh: Mesh, becomes: Uint32Array): Mesh {
  const { vertexBecomes, sits } = mergeVertices(mesh, becomes);
  const polygons = mergePolygons(mesh, becomes, vertexBecomes);
  const keep: number[] = [];
  const place = new Int32Array(mesh.vertexCount).fill(-1);
  const ranges = new Map<number, [number, number]>();
  for (const piece of mesh.pieces) {
    if (ranges.has(piece.vertexStart)) continue;
    const start = keep.length;
    for (let vertex = piece.vertexStart; vertex < piece.vertexStart + piece.vertexCount; vertex++)
      if (vertexBecomes[vertex] === vertex) {
        place[vertex] = keep.length;
        keep.push(vertex);
      }
    ranges.set(piece.vertexStart, [start, keep.length - start]);
  }
  let polygonStart = 0;
  const pieces = mesh.pieces.map((piece, i): Piece => {
    const [vertexStart, vertexCount] = ranges.get(piece.vertexStart) as [number, number];
    const polygonCount = polygons.counts[i];
    const carriedIndices = piece.carriedIndices?.map(
      (index) => place[vertexBecomes[index + piece.vertexStart]] - vertexStart,
    );
    const out = { ...piece, vertexStart, vertexCount, polygonStart, polygonCount };
    polygonStart += polygonCount;
    return carriedIndices ? { ...out, carriedIndices } : out;
  });
  const from = (value: number) => (sits[value] >= 0 ? sits[value] : value);
  const pickAll = (set: Readonly<Record<string, Attribute>>) =>
    Object.fromEntries(
      Object.entries(set).map(([name, attribute]) => [
        name,
        pickRows(attribute, name === 'POSITION' ? keep.map(from) : keep),
      ]),
    );
  return {
    ...mesh,
    vertexCount: keep.length,
    pieces,
    attributes: pickAll(mesh.attributes),
    morphs: mesh.morphs.map((morph) => ({ attributes: pickAll(morph.attributes) })),
    corners: Uint32Array.from(polygons.corners, (corner) => place[corner]),
    polygonOffsets: Uint32Array.from(polygons.offsets),
    influences: mesh.influences && pickInfluences(mesh.influences, keep.map(from)),
  };
}

/**
 * What becomes of every vertex: a vertex of a merged point becomes the survivor's vertex that looks alike, or
 * stays and moves onto the survivor (`sits`: the vertex whose place and weights it takes, −1 for its own).
 */
function mergeVertices(mesh: Mesh, becomes: Uint32Array): { vertexBecomes: Uint32Array; sits: Int32Array } {
  const { pointOfVertex, vertexOfPoint, pointCount } = pointsOf(mesh);
  const survivors = new Set<number>();
  for (let point = 0; point < pointCount; point++)
    if (becomes[point] !== point) survivors.add(becomes[point]);
  const verticesOf = new Map<number, number[]>();
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    const point = pointOfVertex[vertex];
    if (survivors.has(point)) verticesOf.set(point, [...(verticesOf.get(point) ?? []), vertex]);
  }
  const pieceOf = (vertex: number) =>
    mesh.pieces.findIndex(
      (piece) => vertex >= piece.vertexStart && vertex < piece.vertexStart + piece.vertexCount,
    );
  const vertexBecomes = new Uint32Array(mesh.vertexCount).map((_, value) => value);
  const sits = new Int32Array(mesh.vertexCount).fill(-1);
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    const target = becomes[pointOfVertex[vertex]];
    if (target === pointOfVertex[vertex]) continue;
    const twin = (verticesOf.get(target) ?? []).find(
      (candidate) => pieceOf(candidate) === pieceOf(vertex) && alike(mesh, vertex, candidate),
    );
    if (twin === undefined) sits[vertex] = vertexOfPoint[target];
    else vertexBecomes[vertex] = twin;
  }
  return { vertexBecomes, sits };
}

/** Polygons over what the vertices became; one that is left with fewer than three points goes. */
function mergePolygons(mesh: Mesh, becomes: Uint32Array, vertexBecomes: Uint32Array) {
  const { pointOfVertex } = pointsOf(mesh);
  const point = (vertex: number) => becomes[pointOfVertex[vertex]];
  const corners: number[] = [];
  const offsets = [0];
  const counts = mesh.pieces.map(() => 0);
  mesh.pieces.forEach((piece, i) => {
    for (let polygon = piece.polygonStart; polygon < piece.polygonStart + piece.polygonCount; polygon++) {
      const row: number[] = [];
      for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++) {
        const become = vertexBecomes[mesh.corners[k]];
        if (row.length === 0 || point(row[row.length - 1]) !== point(become)) row.push(become);
      }
      while (row.length > 1 && point(row[0]) === point(row[row.length - 1])) row.pop();
      if (row.length < 3) continue;
      for (const vertex of row) corners.push(vertex);
      offsets.push(corners.length);
      counts[i]++;
    }
  });
  return { corners, offsets, counts };
}

/** An attribute of the given vertices, in their order. */
function alike(mesh: Mesh, vertex: number, weight: number): boolean {
  return Object.entries(mesh.attributes).every(([name, attribute]) => {
    if (name === 'POSITION') return true;
    const ofNumbers = attribute.data instanceof Float32Array ? 1e-4 : 1;
    const tolerance = name === 'NORMAL' || name === 'TANGENT' ? 0.35 : ofNumbers;
    for (let k = 0; k < attribute.size; k++)
      if (
        Math.abs(attribute.data[vertex * attribute.size + k] - attribute.data[weight * attribute.size + k]) >
        tolerance
      )
        return false;
    return true;
  });
}
