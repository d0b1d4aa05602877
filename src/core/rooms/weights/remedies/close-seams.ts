import { object } from 'yup';
import { type Mesh, replaceAt } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { influencesFrom } from '../../../geometry/influences';
import { sharesOf, tornSeams } from '../seams';

/** Gives the vertices of points on seams the mean of their weights. */
export const closeSeams = defineRemedy({
  id: 'close-seams',
  room: 'weights',
  title: 'Give seams the same weights on both sides',
  does: 'The vertices of a point on a seam that carry different weights all take the mean of them. Other points, and the seams themselves, stay.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = character.meshes[character.nodes[node]?.mesh];
    return [
      { label: 'Points on seams that tear', value: mesh ? tornSeams(mesh).points : 0, unit: 'pts' },
      {
        label: 'Most bones at a vertex',
        value: mesh?.influences ? mostBones(mesh.influences.offsets) : 0,
        unit: '',
      },
    ];
  },
  promises: ({ nodes }, { node }) =>
    promise(['weights'], {
      meant: nodes.flatMap((user, i) => (user.mesh >= 0 && user.mesh === nodes[node]?.mesh ? [i] : [])),
    }),
  apply(character, { node }) {
    const index = character.nodes[node]?.mesh ?? -1;
    const mesh = character.meshes[index];
    if (!mesh) throw new RemedyError('The mesh is not there any more; run the audit again.');
    if (tornSeams(mesh).points === 0)
      throw new NothingToDo('All vertices of every point carry the same weights; no seam tears.');
    return { ...character, meshes: replaceAt(character.meshes, new Map([[index, closed(mesh)]])) };
  },
});

const mostBones = (offsets: Uint32Array): number => {
  let most = 0;
  for (let i = 1; i < offsets.length; i++) most = Math.max(most, offsets[i] - offsets[i - 1]);
  return most;
};

function closed(mesh: Mesh): Mesh {
  const { influences } = mesh;
  if (!influences) return mesh;
  const { pointOfVertex } = pointsOf(mesh);
  const verticesOf = new Map<number, number[]>();
  for (const vertex of tornSeams(mesh).vertices)
    verticesOf.set(pointOfVertex[vertex], [...(verticesOf.get(pointOfVertex[vertex]) ?? []), vertex]);
  const rows = Array.from({ length: mesh.vertexCount }, (_, vertex): [number, number][] => {
    const row: [number, number][] = [];
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
      row.push([influences.joint[k], influences.weight[k]]);
    return row;
  });
  for (const vertices of verticesOf.values()) {
    const sum = new Map<number, number>();
    const carrying = vertices.map((vertex) => sharesOf(influences, vertex)).filter(({ size }) => size > 0);
    for (const shares of carrying)
      for (const [joint, share] of shares) sum.set(joint, (sum.get(joint) ?? 0) + share / carrying.length);
    for (const vertex of vertices) rows[vertex] = [...sum];
  }
  return { ...mesh, influences: influencesFrom(rows) };
}
