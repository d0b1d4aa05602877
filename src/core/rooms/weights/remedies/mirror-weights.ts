import { object } from 'yup';
import { meshSidesOf } from '../../../anatomy/mesh-sides';
import type { Character } from '../../../character/model';
import { withJoint } from '../../../character/point-weights';
import { choiceOf, elementsTo, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy } from '../../../contracts/remedy';
import { dot } from '../../../geometry/matrix';
import { type WeightShares, blendedShares, normalisedShares } from '../../../geometry/row-edits';
import { boundMesh, promiseOfEdit, withEditedRows } from '../edits';
import { oddTwins, twinNodesOf } from '../sides';

const FROM = { left: 'the right side as the left', right: 'the left side as the right' } as const;

/** Weights of one side on the other: by twin points and by twin bones. */
export const mirrorWeights = defineRemedy({
  id: 'mirror-weights',
  room: 'weights',
  title: 'Mirror the weights',
  does: 'Every point gets the weights of its twin on the other side, with left and right bones exchanged. Points on the middle become the mean of both. Points without a twin stay, and are counted.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    from: choiceOf('Made alike', FROM).default('left'),
    vertices: elementsTo('vertices', 'Only these points'),
  }),
  rows(character, { node }) {
    const { twins, differing } = oddTwins(character, node);
    return [
      {
        label: 'Points without a twin',
        value: twins.reduce((sum, twin) => sum + Number(twin < 0), 0),
        unit: 'pts',
      },
      { label: 'Points that differ from their twins', value: differing.length, unit: 'pts' },
    ];
  },
  promises: (character, { node }) => promiseOfEdit(character, [node]),
  apply(character, { node, from, vertices }) {
    const { mesh, skinIndex } = boundMesh(character, node);
    const sides = meshSidesOf(character, node);
    if (!sides)
      throw new RemedyError(
        'The figure is not the same on both sides of any plane; there are no sides to mirror weights between.',
      );
    const [listed, twinJoint] = withTwinJoints(character, skinIndex);
    const { plane, places, twins } = sides;
    const own = (vertices ?? []).filter((some) => some.node === node);
    const all = [{ node, ids: new Uint32Array(mesh.vertexCount).map((_, vertex) => vertex) }];
    return withEditedRows(listed, own.length > 0 ? own : all, {
      nothing: 'Both sides carry the same weights already.',
      edit({ weights }, points) {
        const made = points.flatMap((point): [number, WeightShares][] => {
          const twin = twins[point];
          if (twin < 0) return [];
          const mirrored = exchanged(normalisedShares(weights.rowOf(twin)), twinJoint);
          const row = normalisedShares(weights.rowOf(point));
          if (mirrored.size === 0) return [];
          if (twin === point) return [[point, blendedShares(row, mirrored, 0.5)]];
          const isLeft =
            dot(plane.normal, [places[point * 3], places[point * 3 + 1], places[point * 3 + 2]]) >
            plane.offset;
          return (from === 'left') === isLeft ? [] : [[point, mirrored]];
        });
        for (const [point, row] of made) weights.put(point, row);
      },
    });
  },
});

const exchanged = (row: WeightShares, twinJoint: Int32Array): WeightShares => {
  const out: WeightShares = new Map();
  for (const [joint, share] of row) out.set(twinJoint[joint], (out.get(twinJoint[joint]) ?? 0) + share);
  return out;
};

/** A skin in which the twin of every joint that carries something is listed, and of each joint its twin, or itself where it has none. */
function withTwinJoints(character: Character, skinIndex: number): [Character, Int32Array] {
  const twinNode = twinNodesOf(character);
  let now = character;
  const { joints } = character.skins[skinIndex];
  const twinNodes = joints.map(twinNode);
  for (const node of twinNodes) [now] = withJoint(now, skinIndex, node);
  const listed = now.skins[skinIndex].joints;
  const twinJoint = Int32Array.from(listed, (joint) => {
    const at = joints.indexOf(joint);
    const twin = at >= 0 ? twinNodes[at] : joints[twinNodes.indexOf(joint)];
    return listed.indexOf(twin);
  });
  return [now, twinJoint];
}
