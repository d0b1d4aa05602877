import { object } from 'yup';
import { meshSidesOf } from '../../../anatomy/mesh-sides';
import type { Character, Mesh } from '../../../character/model';
import { withJoint } from '../../../character/point-weights';
import { choiceOf, elementsTo, refTo } from '../../../contracts/params';
import { RemedyError, defineRemedy } from '../../../contracts/remedy';
import { dot } from '../../../geometry/matrix';
import { type WeightShares, blendedShares, normalisedShares } from '../../../geometry/row-edits';
import { boundMesh, promiseOfEdit, wholeMeshes, withEditedRows } from '../edits';
import { jointsOfUnknownTwins, oddTwins, twinNodesOf } from '../sides';

const FROM = { left: 'the right side as the left', right: 'the left side as the right' } as const;

/** Weights of one side on the other: by twin points and by twin bones. */
export const mirrorWeights = defineRemedy({
  id: 'mirror-weights',
  room: 'weights',
  title: 'Mirror the weights',
  does: 'Every point gets the weights of its twin on the other side, with left and right bones exchanged. Points on the middle become the mean of both. Points without a twin stay, and so do those that bones pull of which it is not known which is whose twin; both are counted.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    from: choiceOf('Made alike', FROM).default('left'),
    vertices: elementsTo('vertices', 'Only these points'),
  }),
  rows(character, { node }) {
    const { twins, differing, unknown } = oddTwins(character, node);
    return [
      {
        label: 'Points without a twin',
        value: twins.reduce((sum, twin) => sum + Number(twin < 0), 0),
        unit: 'pts',
      },
      { label: 'Points whose bones have no known twin', value: unknown, unit: 'pts' },
      { label: 'Points that differ from their twins', value: differing.length, unit: 'pts' },
    ];
  },
  promises: (character, { node }) => promiseOfEdit(character, [node]),
  apply(character, { node, from, vertices }) {
    const { mesh, skin, skinIndex } = boundMesh(character, node);
    const sides = meshSidesOf(character, node);
    if (!sides)
      throw new RemedyError(
        'The figure is not the same on both sides of any plane; there are no sides to mirror weights between.',
      );
    const [listed, twinJoint] = withTwinJoints(character, skinIndex, carryingJoints(mesh));
    const isUnknown = jointsOfUnknownTwins(character, skin.joints, sides.plane);
    const { plane, places, twins } = sides;
    const own = (vertices ?? []).filter((some) => some.node === node);
    return withEditedRows(listed, own.length > 0 ? own : wholeMeshes(character, [node]), {
      nothing: 'Both sides carry the same weights already.',
      edit({ weights }, points) {
        const made = points.flatMap((point): [number, WeightShares][] => {
          const twin = twins[point];
          if (twin < 0) return [];
          const theirs = normalisedShares(weights.rowOf(twin));
          const row = normalisedShares(weights.rowOf(point));
          if (theirs.size === 0 || [...theirs.keys()].some((joint) => isUnknown[joint])) return [];
          const mirrored = exchanged(theirs, twinJoint);
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

/** The joints that carry something of a mesh. */
function carryingJoints({ influences }: Mesh): ReadonlySet<number> {
  const carrying = new Set<number>();
  influences?.joint.forEach((joint, k) => {
    if (influences.weight[k] > 0) carrying.add(joint);
  });
  return carrying;
}

/** A skin that lists the twin of every joint that carries something, and of each joint its twin, or itself where it has none. */
function withTwinJoints(
  character: Character,
  skinIndex: number,
  carrying: ReadonlySet<number>,
): [Character, Int32Array] {
  const twinNode = twinNodesOf(character);
  let now = character;
  character.skins[skinIndex].joints.forEach((joint, at) => {
    if (carrying.has(at)) [now] = withJoint(now, skinIndex, twinNode(joint));
  });
  const listed = now.skins[skinIndex].joints;
  const twinJoint = Int32Array.from(listed, (joint, at) => {
    const twin = listed.indexOf(twinNode(joint));
    return twin >= 0 ? twin : at;
  });
  return [now, twinJoint];
}
