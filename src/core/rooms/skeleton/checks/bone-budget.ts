import { object } from 'yup';
import { theCharacter, boneElements } from '../../../contracts/finding';
import { defineCheck } from '../../../contracts/check';
import { LIMITS } from '../../../contracts/settings';
import { weightOfNodes } from '../../../character/hierarchy';

/** Joints that one skin lists against the brief's budget. */
export const boneBudgetCheck = defineCheck({
  id: 'bone-budget',
  room: 'skeleton',
  leadsTo: 'crosswalk',
  title: 'Bone budget',
  why: 'The machine moves only so many bones in one skin; those beyond the budget cost a second draw or are dropped.',
  advice:
    'Moving to the game’s skeleton in Crosswalk leaves out every bone that carries nothing; each skin then lists only the bones it needs.',
  settings: object({ ...LIMITS }),
  reads: ['tree', 'names', 'shows', 'joints', 'weights'],
  measures: ({ skins }) => ({
    'limits.bones': skins.length === 0 ? null : Math.max(...skins.map((skin) => skin.joints.length)),
  }),
  run(character, brief) {
    const largest = character.skins.reduce<readonly number[]>(
      (most, skin) => (skin.joints.length > most.length ? skin.joints : most),
      [],
    );
    if (largest.length <= brief.limits.bones) return [];
    const weight = weightOfNodes(character);
    const idle = largest.filter((b) => weight[b] === 0);
    return [
      {
        gravity: 'worth',
        subject: theCharacter(character),
        unit: 'bones',
        elements: [boneElements(idle.length > 0 ? idle : largest)],
        count: largest.length - brief.limits.bones,
        message: `A skin lists ${largest.length} bones; the brief allows ${brief.limits.bones}, and ${idle.length} of them carry no weight`,
        measured: largest.length,
        expected: brief.limits.bones,
        evidence: [
          {
            label: 'Bones in the largest skin',
            now: largest.length,
            brief: brief.limits.bones,
            unit: 'bones',
          },
          { label: 'Of these without weight', now: idle.length, brief: '—', unit: 'bones' },
        ],
        remedies: [{ id: 'fold-to-budget', params: { most: brief.limits.bones } }],
      },
    ];
  },
});
