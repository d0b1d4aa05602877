import { object } from 'yup';
import { type Mesh, positionsOf } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { pieceOfFace, remadeMesh } from '../../../character/remake-mesh';
import { topologyOf } from '../../../character/topology';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { flatOutline } from '../../../geometry/face-shape';
import { type Vec3, dot } from '../../../geometry/matrix';
import { putAreaNormal } from '../../../geometry/normals';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';
import { soundnessOf } from '../soundness';

/** Puts the corners of faces that cross themselves in order, or cuts those faces where they fold. */
export const mendCrossedFaces = defineRemedy({
  id: 'mend-crossed-faces',
  room: 'surface',
  title: 'Mend faces that cross themselves',
  does: 'Where the faces round it meet its corners in another order, a face gets that order; one that is folded over itself is cut into triangles along the fold. No point goes or moves.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = meshOf(character, node);
    return [
      { label: 'Faces', value: mesh.polygonOffsets.length - 1, unit: 'faces' },
      { label: 'Crossing themselves', value: soundnessOf(mesh).crossed.length, unit: 'faces' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node }) {
    const mesh = meshOf(character, node);
    const { crossed } = soundnessOf(mesh);
    if (crossed.length === 0) throw new NothingToDo('No face crosses itself; there is nothing to mend.');
    const goneFaces = new Uint8Array(mesh.polygonOffsets.length - 1);
    const edges = edgesBeside(mesh, crossed);
    const added = Array.from(crossed).flatMap((face) => {
      goneFaces[face] = 1;
      const piece = pieceOfFace(mesh, face);
      return mended(mesh, face, edges).map((corners) => ({ piece, corners }));
    });
    return withMeshOf(character, node, remadeMesh(mesh, { goneFaces, added }));
  },
});

/** How a run from one point to another fits the faces beside: 1 where one of them runs the other way along it, −1 the same way. */
type EdgesBeside = (from: number, to: number) => number;

/** Of the edges at the corners of some faces those that other faces have. */
function edgesBeside(mesh: Mesh, faces: Uint32Array): EdgesBeside {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const { origin, next, polygon } = topologyOf(mesh).halfEdges;
  const isNear = new Uint8Array(pointCount);
  const isOwn = new Set(faces);
  for (const face of faces)
    for (let k = mesh.polygonOffsets[face]; k < mesh.polygonOffsets[face + 1]; k++)
      isNear[pointOfVertex[mesh.corners[k]]] = 1;
  const runs = new Set<number>();
  for (let half = 0; half < origin.length; half++)
    if (isNear[origin[half]] && isNear[origin[next[half]]] && !isOwn.has(polygon[half]))
      runs.add(origin[half] * pointCount + origin[next[half]]);
  return (from, to) => {
    const [a, b] = [pointOfVertex[from], pointOfVertex[to]];
    return Number(runs.has(b * pointCount + a)) - Number(runs.has(a * pointCount + b));
  };
}

/** The faces that a crossed one becomes: itself in another order, or the triangles that it folds into. */
function mended(mesh: Mesh, face: number, edges: EdgesBeside): number[][] {
  const own = Array.from(mesh.corners.subarray(mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1]));
  const fit = (ring: readonly number[]) =>
    ring.reduce((sum, vertex, k) => sum + edges(vertex, ring[(k + 1) % ring.length]), 0);
  const round = aroundMiddle(mesh, own);
  const other = round.toReversed();
  const best = fit(other) > fit(round) ? other : round;
  if (fit(best) > fit(own)) return [best];
  return own.length === 4 ? halves(mesh, own) : fan(own);
}

/** Corners in the order in which they stand round their middle. */
function aroundMiddle(mesh: Mesh, corners: readonly number[]): number[] {
  const flat = flatOutline(positionsOf(mesh), corners);
  let [x, y] = [0, 0];
  for (let i = 0; i < flat.length; i += 2) {
    x += flat[i] / corners.length;
    y += flat[i + 1] / corners.length;
  }
  const angleOf = (i: number) => Math.atan2(flat[i * 2 + 1] - y, flat[i * 2] - x);
  return corners
    .map((vertex, i) => ({ vertex, angle: angleOf(i) }))
    .sort((one, another) => one.angle - another.angle)
    .map(({ vertex }) => vertex);
}

const fan = ([first, ...rest]: readonly number[]): number[][] =>
  rest.slice(1).map((vertex, k) => [first, rest[k], vertex]);

/** A quad as two triangles, along the diagonal over which they face each other less. */
function halves(mesh: Mesh, quad: readonly number[]): number[][] {
  const turned = [...quad.slice(1), quad[0]];
  const evenness = ([one, other]: readonly number[][]) => dot(normalOf(mesh, one), normalOf(mesh, other));
  return evenness(fan(turned)) > evenness(fan(quad)) ? fan(turned) : fan(quad);
}

function normalOf(mesh: Mesh, triangle: readonly number[]): Vec3 {
  const normal = [0, 0, 0];
  putAreaNormal(positionsOf(mesh), triangle, 0, 3, normal);
  const length = Math.hypot(...normal) || 1;
  return [normal[0] / length, normal[1] / length, normal[2] / length];
}
