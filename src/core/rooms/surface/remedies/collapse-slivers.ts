import { number, object } from 'yup';
import { mergedPoints } from '../../../character/merge-points';
import { type Mesh, positionsOf } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { pieceOfFace, remadeMesh } from '../../../character/remake-mesh';
import { topologyOf } from '../../../character/topology';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';
import { widthOfFace } from '../../../geometry/face-shape';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';
import { SLIVER } from '../../../contracts/surface';
import { sliversOf } from '../slivers';

/** Each pass leaves alone what lies beside something that it changed; more than so many are never needed. */
const MOST_PASSES = 12;

/** Takes faces away that are thin as a splinter: short ends become one point, flat triangles change sides with their neighbour. */
export const collapseSlivers = defineRemedy({
  id: 'collapse-slivers',
  room: 'surface',
  title: 'Take thin faces away',
  does: 'Where a thin face has a short edge its ends become one point; a flat triangle beside another one gets the other diagonal. Borders, seams and what would tear stay as they are. Other points do not move.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    width: number().positive().max(1).default(SLIVER).meta({ label: 'Thinner than', quantity: 'share' }),
  }),
  rows(character, { node, width }) {
    const mesh = meshOf(character, node);
    return [
      { label: 'Faces', value: mesh.polygonOffsets.length - 1, unit: 'faces' },
      { label: 'Points', value: pointsOf(mesh).pointCount, unit: 'pts' },
      { label: 'Thin faces', value: sliversOf(mesh, width).length, unit: 'faces' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node, width }) {
    const mesh = meshOf(character, node);
    const before = sliversOf(mesh, width).length;
    if (before === 0) throw new NothingToDo('No face is as thin as that; there is nothing to take away.');
    let now = mesh;
    for (let pass = 0; pass < MOST_PASSES; pass++) {
      const next = turnedFlat(collapsedShort(now, width), width);
      if (next === now) break;
      now = next;
    }
    if (now === mesh)
      throw new RemedyError(
        `None of the ${before} thin faces can go without tearing a border or a seam, or making its neighbours thin; mend them where the mesh was modelled.`,
      );
    return withMeshOf(character, node, now);
  },
});

/** Thin faces with an edge so short that it is what makes them thin lose that edge. */
function collapsedShort(mesh: Mesh, width: number): Mesh {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const topology = topologyOf(mesh);
  const becomes = new Uint32Array(pointCount).map((_, i) => i);
  const isTouched = new Uint8Array(pointCount);
  const { neighbours, offsets } = topology.neighbours;
  let count = 0;
  for (const face of sliversOf(mesh, width)) {
    const short = shortEdge(mesh, face, width);
    if (short < 0) continue;
    const [one, other] = [short, topology.halfEdges.next[short]].map((k) => pointOfVertex[mesh.corners[k]]);
    if (isTouched[one] || isTouched[other] || !mayJoin(mesh, short)) continue;
    becomes[Math.max(one, other)] = Math.min(one, other);
    count++;
    for (const end of [one, other]) {
      isTouched[end] = 1;
      for (const point of neighbours.subarray(offsets[end], offsets[end + 1])) isTouched[point] = 1;
    }
  }
  return count > 0 ? mergedPoints(mesh, becomes) : mesh;
}

const edgeLength = (mesh: Mesh, from: number, to: number): number => {
  const points = positionsOf(mesh);
  return Math.hypot(...[0, 1, 2].map((k) => points[from * 3 + k] - points[to * 3 + k]));
};

/** The shortest edge of a face, as a half-edge, where it is hardly longer than the face is wide; else −1. */
function shortEdge(mesh: Mesh, face: number, width: number): number {
  const { next } = topologyOf(mesh).halfEdges;
  let [shortest, longest, best] = [Infinity, 0, -1];
  for (let k = mesh.polygonOffsets[face]; k < mesh.polygonOffsets[face + 1]; k++) {
    const length = edgeLength(mesh, mesh.corners[k], mesh.corners[next[k]]);
    longest = Math.max(longest, length);
    if (length >= shortest) continue;
    shortest = length;
    best = k;
  }
  return shortest <= 2 * width * longest ? best : -1;
}

/**
 * Whether the ends of an edge may become one point: only the faces at it have both as neighbours (Dey et al. 1999, *Topology
 * Preserving Edge Contraction*), and no two borders come together.
 */
function mayJoin(mesh: Mesh, half: number): boolean {
  const { halfEdges, neighbours: around } = topologyOf(mesh);
  const { origin, next, twin, faces, edge } = halfEdges;
  const [one, other] = [origin[half], origin[next[half]]];
  if (twin[half] < 0) return false;
  const listOf = (point: number) =>
    around.neighbours.subarray(around.offsets[point], around.offsets[point + 1]);
  const isOnBorder = (point: number) =>
    [...listOf(point)].some((to) => faces[edgeBetween(mesh, point, to)] !== 2);
  if (isOnBorder(one) || isOnBorder(other) || faces[edge[half]] !== 2) return false;
  const both = new Set(listOf(other));
  const common = [...listOf(one)].filter((point) => both.has(point));
  const third = [half, twin[half]]
    .filter((at) => next[next[next[at]]] === at)
    .map((at) => origin[next[next[at]]]);
  return common.every((point) => third.includes(point));
}

/** The edge between two neighbouring points. */
function edgeBetween(mesh: Mesh, one: number, other: number): number {
  const { ends } = topologyOf(mesh).halfEdges;
  const [low, high] = [Math.min(one, other), Math.max(one, other)];
  // Edges stand in the order of their lower point.
  let [from, to] = [0, ends.length / 2];
  while (from < to) {
    const middle = (from + to) >> 1;
    if (ends[middle * 2] < low) from = middle + 1;
    else to = middle;
  }
  while (ends[from * 2] === low && ends[from * 2 + 1] !== high) from++;
  return from;
}

/** Thin triangles whose long edge another triangle lies at get the other diagonal, where both are wider for it. */
function turnedFlat(mesh: Mesh, width: number): Mesh {
  const { next, twin, polygon } = topologyOf(mesh).halfEdges;
  const goneFaces = new Uint8Array(mesh.polygonOffsets.length - 1);
  const added: { piece: number; corners: readonly number[] }[] = [];
  const isTouched = new Set<number>();
  for (const face of sliversOf(mesh, width)) {
    const [from, to] = [mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1]];
    if (to - from !== 3 || goneFaces[face]) continue;
    const lengthAt = (k: number) => edgeLength(mesh, mesh.corners[k], mesh.corners[next[k]]);
    const long = [from, from + 1, from + 2].reduce((a, b) => (lengthAt(b) > lengthAt(a) ? b : a));
    const beside = twin[long];
    if (beside < 0 || goneFaces[polygon[beside]] || next[next[next[beside]]] !== beside) continue;
    const [a, b, tip] = [long, next[long], next[next[long]]].map((k) => mesh.corners[k]);
    const [start, end, far] = [beside, next[beside], next[next[beside]]].map((k) => mesh.corners[k]);
    const piece = pieceOfFace(mesh, face);
    if (a !== end || b !== start || piece !== pieceOfFace(mesh, polygon[beside])) continue;
    const pair = [
      [tip, a, far],
      [tip, far, b],
    ];
    const ends = [a, b, tip, far];
    if (ends.some((vertex) => isTouched.has(vertex)) || areNeighbours(mesh, tip, far)) continue;
    if (Math.min(...pair.map((corners) => widthOf(mesh, corners))) < width) continue;
    for (const vertex of ends) isTouched.add(vertex);
    for (const one of [face, polygon[beside]]) goneFaces[one] = 1;
    added.push(...pair.map((corners) => ({ piece, corners })));
  }
  return added.length > 0 ? remadeMesh(mesh, { goneFaces, added }) : mesh;
}

const widthOf = (mesh: Mesh, corners: readonly number[]): number =>
  widthOfFace(
    { offsets: Uint32Array.of(0, corners.length), corners: Uint32Array.from(corners) },
    positionsOf(mesh),
    0,
  );

function areNeighbours(mesh: Mesh, one: number, other: number): boolean {
  const { pointOfVertex } = pointsOf(mesh);
  const { neighbours, offsets } = topologyOf(mesh).neighbours;
  const point = pointOfVertex[one];
  return neighbours.subarray(offsets[point], offsets[point + 1]).includes(pointOfVertex[other]);
}
