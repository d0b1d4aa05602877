import { type Check, boneElements, finding, theCharacter } from '../../audit/types';
import { bonesOf, weightOfNodes } from '../../character/hierarchy';

/** Number of joints that a skin lists against the brief's budget. */
export const boneBudgetCheck: Check = {
  id: 'bone-budget', room: 'skeleton', title: 'Bone budget',
  why: 'The machine moves only so many bones a character at once; those beyond the budget cost a second draw or are dropped.',
  run(character, brief) {
    const bones = bonesOf(character);
    if (bones.length <= brief.limits.bones) return [];
    const weight = weightOfNodes(character);
    const idle = bones.filter((b) => weight[b] === 0);
    return [finding(boneBudgetCheck, {
      gravity: 'worth', subject: theCharacter(character), unit: 'bones', elements: [boneElements(idle.length > 0 ? idle : bones)], count: bones.length - brief.limits.bones,
      message: `${bones.length} bones; the brief allows ${brief.limits.bones}, and ${idle.length} carry no weight`,
      measured: bones.length, expected: brief.limits.bones,
      evidence: [{ label: 'Bones', now: bones.length, brief: brief.limits.bones, unit: 'bones' }, { label: 'Bones that carry no weight', now: idle.length, brief: '—', unit: 'bones' }],
    })];
  },
};
