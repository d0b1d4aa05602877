import { object } from 'yup';
import { type Mesh, positionsOf } from '../../../character/model';
import { remadeMesh } from '../../../character/remake-mesh';
import { topologyOf } from '../../../character/topology';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { type Vec3, dot, normalise } from '../../../geometry/matrix';
import { putAreaNormal } from '../../../geometry/normals';
import { pinchedVertices } from '../../../geometry/soundness';
import { meshOf, promiseOfMesh, withMeshOf } from '../mesh-of';
import { polygonsOf, soundnessOf } from '../soundness';

/** Gives surfaces that are joined in a way that no surface is vertices of their own. */
export const splitJoins = defineRemedy({
  id: 'split-joins',
  room: 'surface',
  title: 'Part surfaces that are joined wrongly',
  does: 'Of the faces at an edge the two that go on most evenly stay joined; others, and surfaces that meet in a point only, get vertices of their own there, which carry the same. Nothing moves.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = meshOf(character, node);
    const { crowded, pinched } = soundnessOf(mesh);
    return [
      { label: 'Vertices', value: mesh.vertexCount, unit: '' },
      { label: 'Edges of more than two faces', value: crowded.length, unit: 'edges' },
      { label: 'Points without an edge between', value: pinched.size, unit: 'pts' },
    ];
  },
  promises: (character, { node }) => promiseOfMesh(character, node),
  apply(character, { node }) {
    const mesh = meshOf(character, node);
    const parted = partedMesh(mesh);
    if (!parted)
      throw new NothingToDo(
        'Every edge has two faces at most, and no surfaces meet in a point; there is nothing to part.',
      );
    return withMeshOf(character, node, parted);
  },
});

function partedMesh(mesh: Mesh): Mesh | null {
  const { halfEdges } = topologyOf(mesh);
  const { crowded } = soundnessOf(mesh);
  const joined = new Map(crowded.map((halves) => [halfEdges.edge[halves[0]], mostEven(mesh, halves)]));
  const fans = pinchedVertices(polygonsOf(mesh), halfEdges, joined);
  const copies: number[] = [];
  const cornerOn = new Map<number, number>();
  for (const [vertex, others] of fans)
    for (const corners of others) {
      for (const corner of corners) cornerOn.set(corner, mesh.vertexCount + copies.length);
      copies.push(vertex);
    }
  return copies.length > 0 ? remadeMesh(mesh, { copies, cornerOn }) : null;
}

/** Of the half-edges along an edge the two whose faces lie most nearly in one plane, wound alike. */
function mostEven(mesh: Mesh, halves: readonly number[]): readonly number[] {
  const { origin, polygon } = topologyOf(mesh).halfEdges;
  const normals = halves.map((half): Vec3 => {
    const normal = [0, 0, 0];
    const face = polygon[half];
    putAreaNormal(
      positionsOf(mesh),
      mesh.corners,
      mesh.polygonOffsets[face],
      mesh.polygonOffsets[face + 1],
      normal,
    );
    return normalise(normal);
  });
  let best: readonly number[] = halves.slice(0, 1);
  let most = -Infinity;
  for (let i = 0; i < halves.length; i++)
    for (let j = i + 1; j < halves.length; j++) {
      const even = dot(normals[i], normals[j]);
      if (origin[halves[i]] === origin[halves[j]] || even <= most) continue;
      most = even;
      best = [halves[i], halves[j]];
    }
  return best;
}
