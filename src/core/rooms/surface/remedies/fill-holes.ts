import { object } from 'yup';
import { type Mesh, positionsOf } from '../../../character/model';
import { pieceOfFace, remadeMesh } from '../../../character/remake-mesh';
import { topologyOf } from '../../../character/topology';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';
import { type Hole, soundnessOf } from '../soundness';

/** Closes gaps that missing faces left, over the points that are there. */
export const fillHoles = defineRemedy({
  id: 'fill-holes',
  room: 'surface',
  title: 'Fill in missing faces',
  does: 'Gaps of up to eight edges are closed with quads, and a triangle where their number is odd, over the points round them. No point is added or moved; openings that are meant stay open.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = meshOf(character, node);
    return [
      { label: 'Faces', value: mesh.polygonOffsets.length - 1, unit: 'faces' },
      { label: 'Gaps', value: soundnessOf(mesh).holes.length, unit: 'gaps' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node }) {
    const mesh = meshOf(character, node);
    const { holes } = soundnessOf(mesh);
    if (holes.length === 0) throw new NothingToDo('No face is missing; there is nothing to fill in.');
    const added = holes.flatMap((hole) => {
      const piece = pieceOfHole(mesh, hole);
      return piece < 0 ? [] : facesOver(mesh, hole.vertices).map((corners) => ({ piece, corners }));
    });
    if (added.length === 0)
      throw new RemedyError(
        'The gaps lie between parts of different materials, so that no face can have all their points; merge those parts first.',
      );
    return withMeshOf(character, node, remadeMesh(mesh, { added }));
  },
});

/** The run of faces that has all vertices of a gap; −1 where none has. */
function pieceOfHole(mesh: Mesh, { halfEdges, vertices }: Hole): number {
  const { polygon } = topologyOf(mesh).halfEdges;
  const around = Array.from(halfEdges, (half) => pieceOfFace(mesh, polygon[half]));
  const isIn = (piece: number) => {
    const { vertexStart, vertexCount } = mesh.pieces[piece];
    return vertices.every((vertex) => vertex >= vertexStart && vertex < vertexStart + vertexCount);
  };
  return around.find((piece) => piece >= 0 && isIn(piece)) ?? -1;
}

/** Quads over a ring, rung by rung as on a ladder, with a triangle at its end where their number is odd: the shortest rungs. */
function facesOver(mesh: Mesh, ring: Uint32Array): number[][] {
  const count = ring.length;
  if (count <= 4) return [Array.from(ring)];
  const points = positionsOf(mesh);
  const apart = (one: number, other: number) =>
    Math.hypot(...[0, 1, 2].map((k) => points[one * 3 + k] - points[other * 3 + k]));
  const ladders = Array.from({ length: count }, (_, turn) => ladderOver(ring, turn));
  const lengthOf = ({ rungs }: Ladder) => rungs.reduce((sum, [one, other]) => sum + apart(one, other), 0);
  return ladders.reduce((best, ladder) => (lengthOf(ladder) < lengthOf(best) ? ladder : best)).faces;
}

interface Ladder {
  readonly faces: number[][];
  /** The two vertices of every new edge. */
  readonly rungs: readonly (readonly [number, number])[];
}

function ladderOver(ring: Uint32Array, turn: number): Ladder {
  const count = ring.length;
  const at = (i: number) => ring[(i + turn) % count];
  const faces: number[][] = [];
  const rungs: (readonly [number, number])[] = [];
  let [low, high] = [0, count - 1];
  while (high - low >= 2) {
    if (high - low === 2) faces.push([at(low), at(low + 1), at(high)]);
    else faces.push([at(low), at(low + 1), at(high - 1), at(high)]);
    low++;
    high--;
    if (high - low >= 2) rungs.push([at(low), at(high)]);
  }
  return { faces, rungs };
}
