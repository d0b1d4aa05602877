import { object } from 'yup';
import { type Character, type Mesh, type Skin, replaceAt } from '../../../character/model';
import { withJoint } from '../../../character/point-weights';
import { pointsOf } from '../../../character/points';
import { type RowsParam, refsTo, weightRowsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy } from '../../../contracts/remedy';
import { InfluenceRows } from '../../../geometry/influence-rows';
import { promiseOfEdit } from '../edits';
import type { WeightDelta } from '../painting';

/** Bones whose sums a preview tells. */
const TOLD = 4;

/** Puts rows of weights on points, as the brush left them. What a seam split gets one and the same row. */
export const brushWeights = defineRemedy({
  id: 'brush-weights',
  room: 'weights',
  title: 'Weights by the brush',
  does: 'The brushed points carry the weights that the brush gave them; all others stay as they are.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    points: weightRowsTo('Brushed points').required(),
  }),
  rows(character, { bones, points }) {
    const count = points.reduce((sum, { ids }) => sum + ids.length, 0);
    return [
      { label: 'Points brushed', value: count, unit: '' },
      ...bones.slice(0, TOLD).map((bone) => ({
        label: `Weight of “${character.nodes[bone]?.name ?? ''}” on them`,
        value: sumOf(character, bone, points),
        unit: '',
      })),
    ];
  },
  promises: (character, { points }) =>
    promiseOfEdit(
      character,
      points.map(({ node }) => node),
    ),
  apply(character, { bones, points }) {
    let painted = 0;
    let now = character;
    for (const some of points) {
      const { mesh } = boundAt(now, some.node);
      const { mesh: meshIndex, skin: skinIndex } = now.nodes[some.node];
      // A bone that the skin does not list yet is taken in where a row names it.
      const used = new Set(some.rows.joint);
      const joints = bones.map((bone, i) => {
        if (!used.has(i)) return -1;
        const [listed, joint] = withJoint(now, skinIndex, bone);
        now = listed;
        return joint;
      });
      painted += some.ids.length;
      now = { ...now, meshes: replaceAt(now.meshes, new Map([[meshIndex, withRows(mesh, some, joints)]])) };
    }
    if (painted === 0) throw new NothingToDo('No point was brushed.');
    return now;
  },
});

/** What a stroke changed as the parameters of this remedy. */
export function paramsOfStroke(character: Character, { node, vertices, after }: WeightDelta) {
  const { joints } = character.skins[character.nodes[node].skin];
  const used = [...new Set(after.joint)].sort((a, b) => a - b);
  const placeOf = new Map(used.map((joint, i) => [joint, i]));
  return {
    bones: used.map((joint) => joints[joint]),
    points: [
      {
        node,
        ids: vertices,
        rows: { ...after, joint: after.joint.map((joint) => placeOf.get(joint) as number) },
      },
    ],
  };
}

function boundAt(character: Character, node: number): { mesh: Mesh; skin: Skin } {
  const { mesh, skin, name } = character.nodes[node] ?? { mesh: -1, skin: -1, name: `node ${node}` };
  const found = character.meshes[mesh];
  if (!found?.influences || !character.skins[skin])
    throw new RemedyError(`“${name}” is not bound to bones; bind it before it is brushed.`);
  return { mesh: found, skin: character.skins[skin] };
}

function withRows(mesh: Mesh, { ids, rows }: RowsParam, joints: readonly number[]): Mesh {
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const rowOfPoint = new Int32Array(pointCount).fill(-1);
  Array.from(ids).forEach((vertex, i) => {
    if (vertex >= mesh.vertexCount)
      throw new RemedyError(`“${mesh.name}” has no vertex ${vertex}; draw the stroke anew.`);
    rowOfPoint[pointOfVertex[vertex]] = i;
  });
  const edited = new InfluenceRows(mesh.influences!);
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    const row = rowOfPoint[pointOfVertex[vertex]];
    if (row < 0) continue;
    const from = rows.offsets[row];
    const to = rows.offsets[row + 1];
    const joint = Array.from({ length: to - from }, (_, k) => joints[rows.joint[from + k]]);
    if (joint.some((index) => index === undefined))
      throw new RemedyError('A brushed row names a bone that is not listed; draw the stroke anew.');
    edited.set(vertex, { joint, weight: Array.from({ length: to - from }, (_, k) => rows.weight[from + k]) });
  }
  return { ...mesh, influences: edited.toInfluences() };
}

/** The sum of a bone's weights over some points. */
function sumOf(character: Character, bone: number, points: readonly RowsParam[]): number {
  let sum = 0;
  for (const { node, ids } of points) {
    const { mesh, skin } = boundAt(character, node);
    const joint = skin.joints.indexOf(bone);
    const { offsets, joint: joints, weight } = mesh.influences!;
    for (const vertex of ids)
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) if (joints[k] === joint) sum += weight[k];
  }
  return Number(sum.toPrecision(6));
}
