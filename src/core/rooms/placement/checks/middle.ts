import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theCharacter } from '../../../contracts/finding';
import { allowedText, inUnit, lengthText, unitSign } from '../../../contracts/units';
import { defineCheck } from '../../../contracts/check';
import { MIDDLE } from '../settings';
import { SYMMETRIC, footprintOf, middleOf } from '../survey';

/** The plane of symmetry through the middle of the world. Bodies that are not symmetric are not asked. */
export const middleCheck = defineCheck({
  id: 'middle',
  room: 'placement',
  title: 'In the middle',
  why: 'Mirroring, pairing of left and right, and the game’s own turning point all count from the middle: a body beside it is mirrored onto somewhere else.',
  settings: object({ ...MIDDLE }),
  reads: [...SHAPE_AT_REST, 'names'],
  measures(character) {
    const middle = middleOf(character);
    const foot = footprintOf(character);
    const sideways = middle && middle.share >= SYMMETRIC ? Math.abs(middle.offset) : 0;
    return { middleTolerance: foot ? Math.max(sideways, Math.hypot(...foot.outside)) : null };
  },
  run(character, brief) {
    const middle = middleOf(character);
    const most = brief.middleTolerance;
    if (most === null || !middle || middle.share < SYMMETRIC || Math.abs(middle.offset) <= most) return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: unitSign(brief.unit),
        count: 1,
        message: `Its plane of symmetry runs ${lengthText(Math.abs(middle.offset), brief.unit)} to the ${middle.offset > 0 ? 'left' : 'right'} of the middle; ${allowedText(most, brief.unit)}`,
        measured: inUnit(middle.offset, brief.unit),
        expected: 0,
        evidence: [
          {
            label: 'Plane of symmetry from the middle',
            now: inUnit(middle.offset, brief.unit),
            brief: 0,
            unit: unitSign(brief.unit),
          },
          { label: 'Points with a twin', now: middle.share * 100, brief: '—', unit: '%' },
        ],
        remedies: [{ id: 'centre', params: {} }],
      },
    ];
  },
});

/** The origin between the feet: inside of what the body stands on. */
export const pivotCheck = defineCheck({
  id: 'pivot',
  room: 'placement',
  title: 'Origin between the feet',
  why: 'The game turns and places the character by its origin: away from the feet it swings round like a door.',
  kinds: ['two-legged', 'four-legged', 'winged', 'hand', 'machine', 'unknown'],
  settings: object({ ...MIDDLE }),
  reads: [...SHAPE_AT_REST, 'names'],
  run(character, brief) {
    const foot = footprintOf(character);
    const most = brief.middleTolerance;
    const middle = middleOf(character);
    const away = foot ? Math.hypot(...foot.outside) : 0;
    if (most === null || !foot || away <= most) return [];
    // Sideways the plane of symmetry has said it already.
    if (middle && middle.share >= SYMMETRIC && Math.abs(middle.offset) > most && foot.outside[1] <= most)
      return [];
    return [
      {
        gravity: 'stops',
        subject: theCharacter(character),
        unit: unitSign(brief.unit),
        count: 1,
        message: `The origin lies ${lengthText(away, brief.unit)} beside the ground that it stands on; ${allowedText(most, brief.unit)}`,
        measured: inUnit(away, brief.unit),
        expected: 0,
        evidence: [
          {
            label: 'Beside it, along x',
            now: inUnit(foot.outside[0], brief.unit),
            brief: 0,
            unit: unitSign(brief.unit),
          },
          {
            label: 'Beside it, along z',
            now: inUnit(foot.outside[1], brief.unit),
            brief: 0,
            unit: unitSign(brief.unit),
          },
        ],
        remedies: [{ id: 'centre', params: {} }],
      },
    ];
  },
});
