import { object } from 'yup';
import { boneKindsOf } from '../../../anatomy/bone-kinds';
import { meaningOf } from '../../../anatomy/bones';
import { bonesOf, childrenOf, parentBone, restPlace, weightOfNodes } from '../../../character/hierarchy';
import { skeletonBox } from '../../../character/measure';
import type { Character } from '../../../character/model';
import { LANDMARKS } from '../../../contracts/aspect';
import { defineCheck } from '../../../contracts/check';
import { boneElements, theNode } from '../../../contracts/finding';
import { type Vec3, distance } from '../../../geometry/matrix';
import { PointTree } from '../../../geometry/point-tree';

/** Joints nearer to each other than this share of the skeleton's size stand in one place. */
const ONE_PLACE = 1e-3;

/** A bone that deforms where another one does, as far as names and weights tell. */
interface Stacked {
  readonly bone: number;
  readonly on: number;
}

/**
 * Bones that twist, hold, or end beside another stand in one place with it on purpose; where names say nothing, what has
 * no bone below it may be such a one.
 */
function stackedBones(character: Character): Stacked[] {
  const kinds = boneKindsOf(character);
  const weight = weightOfNodes(character);
  const below = childrenOf(character.nodes);
  const bones = bonesOf(character).filter((bone) => {
    const kind = kinds.get(bone)?.kind;
    const bends = kind === 'deforming' || kind === 'cloth';
    const { kind: role, part } = meaningOf(character, bone);
    const mayTwist = part === '' && below[bone].every((child) => character.nodes[child].kind !== 'bone');
    return bends && weight[bone] > 0 && role === 'bone' && !mayTwist;
  });
  const places = bones.map((bone) => restPlace(character.nodes, bone) as Vec3);
  const box = skeletonBox(character);
  if (bones.length < 2 || !box) return [];
  const within = ONE_PLACE * distance(box.min, box.max);
  const tree = new PointTree(Float64Array.from(places.flat()));
  return bones.flatMap((bone, i): Stacked[] => {
    let on = -1;
    tree.within(...places[i], within, (k) => {
      if (k < i && (on < 0 || k < on)) on = k;
    });
    return on < 0 ? [] : [{ bone, on: bones[on] }];
  });
}

/** Bones that deform and stand in one place with another that does. */
export const stackedBonesCheck = defineCheck({
  id: 'stacked-bones',
  room: 'skeleton',
  title: 'Bones on each other',
  why: 'Two bones that bend the flesh about one place are seldom meant: most often one is what copying or joining left, and takes weight and motion from the other.',
  waiverReasons: ['The two turn by themselves on purpose.'],
  settings: object({}),
  reads: [...LANDMARKS, 'weights'],
  run(character) {
    const weight = weightOfNodes(character);
    return stackedBones(character).map(({ bone, on }) => {
      const { nodes } = character;
      const isBelow = parentBone(nodes, bone) === on;
      const spare = isBelow || weight[bone] <= weight[on] ? bone : on;
      return {
        gravity: 'worth' as const,
        subject: theNode(character, bone),
        unit: '',
        elements: [boneElements([bone, on])],
        count: 2,
        message: `“${nodes[bone].name}” stands where “${nodes[on].name}” stands, and both carry weight`,
        measured: 'in one place',
        expected: 'apart',
        evidence: [bone, on].map((one) => ({
          label: `Weight of ${nodes[one].name}`,
          now: weight[one],
          brief: '—',
          unit: '',
        })),
        remedies:
          parentBone(nodes, spare) >= 0
            ? [{ id: 'fold-bones', params: { bones: [spare], into: spare === bone ? on : bone } }]
            : [],
      };
    });
  },
});
