import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import type { BoneKind } from '../../../character/bone-kinds';
import { theCharacter, boneElements } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { WEIGHT_CARRIERS } from '../../../contracts/settings';
import { unweightedBones } from '../kinds';
import { ancestorsOf, bonesOf, childrenOf, meshNodesOf, weightOfNodes } from '../../../character/hierarchy';

/** A bone that somebody says is for something else than deforming may well carry nothing. */
const isMeant = (said: BoneKind | undefined) => !said || said === 'deforming' || said === 'cloth';

/** Joints that a skin lists, that are no ends, controls or roots, and that carry nothing. */
export const idleBonesCheck = defineCheck({
  id: 'idle-bones',
  room: 'weights',
  title: 'Deforming bones that carry nothing',
  why: 'A bone in the skin that moves nothing costs its place in the budget; often it is the sign of a bone that was missed.',
  advice: 'Nothing to do if you know why. Crosswalk releases bones that carry nothing.',
  settings: object({ ...WEIGHT_CARRIERS }),
  reads: [...SHAPE_AT_REST, 'names', 'kind', 'sets'],
  run(character, brief) {
    const weight = weightOfNodes(character);
    const children = childrenOf(character.nodes);
    const whyNot = unweightedBones(character, brief);
    const holds = new Set(meshNodesOf(character).flatMap((node) => ancestorsOf(character.nodes, node)));
    const idle = bonesOf(character).filter(
      (bone) =>
        weight[bone] === 0 &&
        !holds.has(bone) &&
        character.nodes[bone].parent >= 0 &&
        children[bone].length > 0 &&
        isMeant(character.nodes[bone].boneKind) &&
        whyNot(bone) === null &&
        character.nodes[character.nodes[bone].parent].kind === 'bone',
    );
    if (idle.length === 0 || character.meshes.every((mesh) => !mesh.influences)) return [];
    return [
      {
        gravity: 'note',
        subject: theCharacter(character),
        unit: 'bones',
        elements: [boneElements(idle)],
        message: `${idle.length} ${idle.length === 1 ? 'bone inside the skeleton carries' : 'bones inside the skeleton carry'} no weight: ${idle
          .slice(0, 3)
          .map((b) => character.nodes[b].name)
          .join(', ')}${idle.length > 3 ? ' …' : ''}`,
        measured: idle.length,
        expected: 0,
        evidence: [{ label: 'Bones without weight', now: idle.length, brief: 0, unit: 'bones' }],
      },
    ];
  },
});
