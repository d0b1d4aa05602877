/** A mesh in as many draws as a machine needs that knows only so many bones and vertices at a time. */
import type { Influences, Mesh, Piece } from '../../character/model';

/** What is drawn at once: polygons of one piece. */
export interface Draw {
  readonly piece: number;
  readonly polygons: readonly number[];
  /** Vertices of the mesh, in the order in which they are met. */
  readonly vertices: readonly number[];
  /** Joints of the mesh's skin that they hang on. */
  readonly joints: readonly number[];
}

/** How a mesh is drawn. */
export interface Draws {
  /** Runs of polygons that it has. */
  readonly pieces: number;
  readonly draws: readonly Draw[];
  /** Vertices that stand in more than one draw, counted once for every further one. */
  readonly added: number;
  /** Faces that need more bones, or vertices, by themselves than a draw knows: they are in none. */
  readonly impossible: number;
  /** Which limit divides it, in words. */
  readonly reason: string;
}

/**
 * Divides every run of polygons into draws, face by face in their order: one is ended when the next face
 * would bring a bone, or a vertex, too many.
 */
export function drawsOf(mesh: Mesh, bonesPerDraw: number, verticesPerDraw: number): Draws {
  const { polygonOffsets, corners: all } = mesh;
  const draws: Draw[] = [];
  const reasons = new Set<string>();
  let impossible = 0;
  mesh.pieces.forEach((piece, at) => {
    if (piece.polygonCount === 0) return;
    let open = new OpenDraw();
    const end = () => {
      if (open.polygons.length > 0) draws.push(open.as(at));
      open = new OpenDraw();
    };
    for (const polygon of polygonsOf(piece)) {
      const corners = all.subarray(polygonOffsets[polygon], polygonOffsets[polygon + 1]);
      const joints = jointsOf(mesh.influences, corners);
      if (joints.size > bonesPerDraw || new Set(corners).size > verticesPerDraw) {
        impossible++;
        continue;
      }
      const isBones = open.joints.size + countNew(joints, open.joints) > bonesPerDraw;
      const isVertices = open.vertices.size + countNew(new Set(corners), open.vertices) > verticesPerDraw;
      if (isBones) reasons.add(`a draw knows ${bonesPerDraw} bones`);
      else if (isVertices) reasons.add(`a draw holds ${verticesPerDraw} vertices`);
      if (isBones || isVertices) end();
      open.add(polygon, corners, joints);
    }
    end();
  });
  const drawn = new Set(draws.flatMap((draw) => draw.vertices));
  return {
    pieces: mesh.pieces.filter((piece) => piece.polygonCount > 0).length,
    draws,
    added: draws.reduce((sum, draw) => sum + draw.vertices.length, 0) - drawn.size,
    impossible,
    reason: [...reasons].join(' and '),
  };
}

class OpenDraw {
  readonly polygons: number[] = [];
  readonly joints = new Set<number>();
  readonly vertices = new Set<number>();

  add(polygon: number, corners: Iterable<number>, joints: Iterable<number>): void {
    this.polygons.push(polygon);
    for (const j of joints) this.joints.add(j);
    for (const corner of corners) this.vertices.add(corner);
  }

  as(piece: number): Draw {
    const { polygons, joints, vertices } = this;
    return { piece, polygons, vertices: [...vertices], joints: [...joints].sort((a, b) => a - b) };
  }
}

const polygonsOf = ({ polygonStart, polygonCount }: Piece) =>
  Array.from({ length: polygonCount }, (_, k) => polygonStart + k);

function jointsOf(influences: Influences | null, corners: Iterable<number>): Set<number> {
  const out = new Set<number>();
  if (!influences) return out;
  for (const corner of corners)
    for (let k = influences.offsets[corner]; k < influences.offsets[corner + 1]; k++)
      if (influences.weight[k] > 0) out.add(influences.joint[k]);
  return out;
}

function countNew(some: ReadonlySet<number>, known: ReadonlySet<number>): number {
  let count = 0;
  for (const x of some) if (!known.has(x)) count++;
  return count;
}
