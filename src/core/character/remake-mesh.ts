/** A mesh made anew from its own vertices: some faces left out or put in, some corners on copies of their vertex. */
import type { Mesh, Piece } from './model';
import { pickAll, pickInfluences } from './pick';

/** What is to be otherwise; all else stays as it is. Vertices from `vertexCount` on are the copies, in their order. */
export interface MeshPlan {
  /** Faces that go: 1 per face. */
  readonly goneFaces?: ArrayLike<number>;
  /** Vertices that go: 1 per vertex. No face that stays may have one. */
  readonly goneVertices?: ArrayLike<number>;
  /** Of every copy the vertex that it is of: it carries the same. */
  readonly copies?: readonly number[];
  /** Corners that stand on another vertex than before, by corner. */
  readonly cornerOn?: ReadonlyMap<number, number>;
  /** New faces, each with the piece that it belongs to. */
  readonly added?: readonly { readonly piece: number; readonly corners: readonly number[] }[];
}

/** The mesh as planned. Linear in vertices and corners. */
export function remadeMesh(mesh: Mesh, plan: MeshPlan): Mesh {
  const { order, ranges, place } = orderVertices(mesh, plan);
  const { corners, offsets, counts } = makeFaces(mesh, plan);
  let polygonStart = 0;
  const pieces = mesh.pieces.map((piece, i): Piece => {
    const [vertexStart, vertexCount] = ranges.get(piece.vertexStart) as readonly [number, number];
    const out = { ...piece, vertexStart, vertexCount, polygonStart, polygonCount: counts[i] };
    polygonStart += counts[i];
    if (!piece.carriedIndices) return out;
    const carriedIndices = piece.carriedIndices.map(
      (index) => place[index + piece.vertexStart] - vertexStart,
    );
    return { ...out, carriedIndices };
  });
  const isSame = order.length === mesh.vertexCount && order.every((vertex, i) => vertex === i);
  const pick = (set: Mesh['attributes']) => (isSame ? set : pickAll(set, order));
  return {
    ...mesh,
    vertexCount: order.length,
    attributes: pick(mesh.attributes),
    morphs: isSame ? mesh.morphs : mesh.morphs.map((morph) => ({ attributes: pick(morph.attributes) })),
    influences: isSame ? mesh.influences : mesh.influences && pickInfluences(mesh.influences, order),
    pieces,
    corners: Uint32Array.from(corners, (corner) => place[corner]),
    polygonOffsets: Uint32Array.from(offsets),
  };
}

/** The vertices in their new order: copies stand at the end of the run that they were copied from. */
function orderVertices(mesh: Mesh, { copies = [], goneVertices }: MeshPlan) {
  const place = new Int32Array(mesh.vertexCount + copies.length).fill(-1);
  const order: number[] = [];
  const ranges = new Map<number, readonly [number, number]>();
  const put = (vertex: number, source: number) => {
    place[vertex] = order.length;
    order.push(source);
  };
  for (const { vertexStart, vertexCount } of mesh.pieces) {
    if (ranges.has(vertexStart)) continue;
    const start = order.length;
    const end = vertexStart + vertexCount;
    for (let vertex = vertexStart; vertex < end; vertex++) if (!goneVertices?.[vertex]) put(vertex, vertex);
    copies.forEach((source, i) => {
      if (source >= vertexStart && source < end && place[mesh.vertexCount + i] < 0)
        put(mesh.vertexCount + i, source);
    });
    ranges.set(vertexStart, [start, order.length - start]);
  }
  return { order, ranges, place };
}

/** The faces that stay, piece by piece, each piece's new ones after them. */
function makeFaces(mesh: Mesh, { goneFaces, cornerOn, added = [] }: MeshPlan) {
  const corners: number[] = [];
  const offsets = [0];
  const counts = mesh.pieces.map((piece, i) => {
    const before = offsets.length;
    const end = piece.polygonStart + piece.polygonCount;
    for (let face = piece.polygonStart; face < end; face++) {
      if (goneFaces?.[face]) continue;
      for (let k = mesh.polygonOffsets[face]; k < mesh.polygonOffsets[face + 1]; k++)
        corners.push(cornerOn?.get(k) ?? mesh.corners[k]);
      offsets.push(corners.length);
    }
    for (const face of added) {
      if (face.piece !== i) continue;
      for (const corner of face.corners) corners.push(corner);
      offsets.push(corners.length);
    }
    return offsets.length - before;
  });
  return { corners, offsets, counts };
}

/** The piece that a face belongs to. */
export const pieceOfFace = ({ pieces }: Mesh, face: number): number =>
  pieces.findIndex(
    ({ polygonStart, polygonCount }) => face >= polygonStart && face < polygonStart + polygonCount,
  );

/** Vertices that no face has, nor a run of lines or points that is carried along: 1 per vertex. */
export function looseVertices(mesh: Mesh): Uint8Array {
  const isLoose = new Uint8Array(mesh.vertexCount).fill(1);
  for (const vertex of mesh.corners) isLoose[vertex] = 0;
  for (const { vertexStart, vertexCount, carriedIndices, mode } of mesh.pieces) {
    if (carriedIndices) for (const index of carriedIndices) isLoose[vertexStart + index] = 0;
    // A run of points without indices is all of its vertices.
    else if (mode !== TRIANGLES) isLoose.fill(0, vertexStart, vertexStart + vertexCount);
  }
  return isLoose;
}

/** glTF's primitive mode of polygons. */
const TRIANGLES = 4;
