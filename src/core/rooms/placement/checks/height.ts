import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theCharacter } from '../../../contracts/finding';
import { inUnit, lengthText, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import { HEIGHT } from '../settings';
import { bodyBox } from '../../../character/measure';
import { bodyHeight } from '../survey';

/** Height of the body at rest against the brief's target. */
export const heightCheck = defineCheck({
  id: 'height',
  room: 'placement',
  title: 'Height of the body',
  why: 'A character of the wrong height does not fit doors, seats or other characters, and every distance in its clips is off by the same factor.',
  settings: object({ ...HEIGHT }),
  reads: [...SHAPE_AT_REST, 'names'],
  measures: (character) => ({ 'height.target': bodyHeight(character) }),
  run(character, brief) {
    const box = bodyBox(character);
    if (!brief.height || !box) return [];
    const height = box.max[1] - box.min[1];
    const { target, tolerance } = brief.height;
    if (Math.abs(height - target) <= tolerance) return [];
    const factor = target / height;
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: unitSign(brief.unit),
        count: 1,
        message: `The body stands ${lengthText(height, brief.unit)} tall; the brief wants ${lengthText(target, brief.unit)} ± ${lengthText(tolerance, brief.unit)}`,
        measured: inUnit(height, brief.unit),
        expected: inUnit(target, brief.unit),
        evidence: [
          {
            label: 'Height of the body',
            now: inUnit(height, brief.unit),
            brief: inUnit(target, brief.unit),
            unit: unitSign(brief.unit),
          },
          { label: 'Factor to get there', now: factor, brief: 1, unit: '×' },
        ],
        remedies: [{ id: 'rescale', params: { by: 'height', height: target } }],
      },
    ];
  },
});
