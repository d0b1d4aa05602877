import { object } from 'yup';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { theCharacter } from '../../../contracts/finding';
import {
  inUnit,
  lengthText,
  likelierUnit,
  UNITS,
  heightIn,
  unitWord,
  unitSign,
} from '../../../contracts/units';
import { type Found, defineCheck } from '../../../contracts/check';
import { HEIGHT } from '../settings';
import { bodyHeight, skeletonHeight } from '../survey';

/** Metres between which anything that a game calls a character stands. */
const SMALLEST = 0.02;
const LARGEST = 60;

/**
 * A height this many times the brief's, or as small a part of it, is no matter of taste where nobody stated a
 * unit.
 */
const FAR = 3;

/**
 * A unit that cannot be right: the height is off by about the ratio of two units, or beyond anything that
 * lives; and units that nobody stated.
 */
export const unitsCheck = defineCheck({
  id: 'units',
  room: 'placement',
  title: 'Unit of the file',
  why: 'A file made in one unit and read in another is off by their ratio everywhere: the size, the clips and every tolerance that is counted in lengths.',
  settings: object({ ...HEIGHT }),
  reads: [...SHAPE_AT_REST, 'names', 'source'],
  run(character, brief) {
    const height = bodyHeight(character) ?? skeletonHeight(character);
    if (!height) return [];
    const { unitMetres, stated, format } = character.source;
    const target = brief.height?.target ?? null;
    const likelier = target === null ? null : likelierUnit(height, unitMetres, target);
    const beyond = height < SMALLEST || height > LARGEST;
    const said = stated?.unit !== false;
    if (!likelier && !beyond && said) return [];
    const evidence = UNITS.map((unit) => ({
      label: `Read in ${unit.word}`,
      now: inUnit(heightIn(height, unitMetres, unit), brief.unit),
      brief: target === null ? '—' : inUnit(target, brief.unit),
      unit: unitSign(brief.unit),
      isCandidate: true,
    }));
    const best =
      likelier ??
      (target === null
        ? null
        : UNITS.reduce((unit, otherUnit) =>
            Math.abs(Math.log(heightIn(height, unitMetres, otherUnit) / target)) <
            Math.abs(Math.log(heightIn(height, unitMetres, unit) / target))
              ? otherUnit
              : unit,
          ));
    const read = `${said ? 'Read' : `${format} does not say a unit; read`} in ${unitWord(unitMetres)}, it`;
    const draft: Omit<Found, 'gravity' | 'message'> = {
      subject: theCharacter(character),
      unit: unitSign(brief.unit),
      count: 1,
      evidence,
      measured: inUnit(height, brief.unit),
      expected: target === null ? 'a size that can be' : inUnit(target, brief.unit),
      remedies: best ? [{ id: 'change-unit', params: { metres: best.metres } }] : [],
    };
    const stands = `${read} stands ${lengthText(height, brief.unit)} tall`;
    if (likelier) {
      const then = lengthText(heightIn(height, unitMetres, likelier), brief.unit);
      return [{ ...draft, gravity: 'stops', message: `${stands}; in ${likelier.word} it would be ${then}` }];
    }
    if (beyond) return [{ ...draft, gravity: 'stops', message: `${stands}, which can’t be right` }];
    const isFar = target !== null && Math.abs(Math.log(height / target)) > Math.log(FAR);
    if (isFar && best) {
      const then = lengthText(heightIn(height, unitMetres, best), brief.unit);
      // Where no unit with a name is right either, the one that the brief's height asks for is offered as well.
      const fitting = { id: 'change-unit', params: { metres: (unitMetres * target) / height } };
      return [
        {
          ...draft,
          gravity: 'stops',
          message: `${stands}; in ${best.word} it would be ${then}`,
          remedies: [...(draft.remedies ?? []), fitting],
        },
      ];
    }
    const remedies = [{ id: 'change-unit', params: { metres: unitMetres } }];
    return [{ ...draft, gravity: 'note', message: stands, remedies }];
  },
});
