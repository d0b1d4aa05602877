import { type Check, type Finding, finding, theCharacter } from '../../../contracts/types';
import { inUnit, lengthText } from '../../../contracts/brief';
import { bodyHeight, skeletonHeight } from '../survey';
import { UNITS, heightIn, likelierUnit, unitWord } from '../../../contracts/units';

/** Metres between which anything that a game calls a character stands. */
const SMALLEST = 0.02;
const LARGEST = 60;

/** A unit that cannot be right: the height is off by about the ratio of two units, or beyond anything that lives; and units that nobody stated. */
export const unitsCheck: Check = {
  id: 'units',
  room: 'placement',
  title: 'Unit of the file',
  why: 'A file made in one unit and read in another is off by their ratio everywhere: the size, the clips and every tolerance that is counted in lengths.',
  run(character, brief) {
    const height = bodyHeight(character) ?? skeletonHeight(character);
    if (!height) return [];
    const { unitMetres, stated, format } = character.source;
    const target = brief.height?.target ?? null;
    const likelier = target === null ? null : likelierUnit(height, unitMetres, target);
    const beyond = height < SMALLEST || height > LARGEST;
    const said = stated?.unit !== false;
    if (!likelier && !beyond && said) return [];
    const evidence = UNITS.map((u) => ({
      label: `Read in ${u.word}`,
      now: inUnit(heightIn(height, unitMetres, u), brief.unit),
      brief: target === null ? '—' : inUnit(target, brief.unit),
      unit: brief.unit,
    }));
    const best =
      likelier ??
      (target === null
        ? null
        : UNITS.reduce((b, u) =>
            Math.abs(Math.log(heightIn(height, unitMetres, u) / target)) <
            Math.abs(Math.log(heightIn(height, unitMetres, b) / target))
              ? u
              : b,
          ));
    const read = `${said ? 'Read' : `${format} does not say a unit; read`} in ${unitWord(unitMetres)}, it`;
    const draft: Omit<Parameters<typeof finding>[1], 'gravity' | 'message'> = {
      subject: theCharacter(character),
      unit: brief.unit,
      count: 1,
      evidence,
      measured: inUnit(height, brief.unit),
      expected: target === null ? 'a size that can be' : inUnit(target, brief.unit),
      remedies: best ? [{ id: 'change-unit', params: { metres: best.metres } }] : [],
    };
    const out: Finding[] = [];
    if (likelier)
      out.push(
        finding(unitsCheck, {
          ...draft,
          gravity: 'stops',
          message: `${read} stands ${lengthText(height, brief.unit)} tall; in ${likelier.word} it would be ${lengthText(heightIn(height, unitMetres, likelier), brief.unit)}`,
        }),
      );
    else if (beyond)
      out.push(
        finding(unitsCheck, {
          ...draft,
          gravity: 'stops',
          message: `${read} stands ${lengthText(height, brief.unit)} tall, which can’t be right`,
        }),
      );
    else
      out.push(
        finding(unitsCheck, {
          ...draft,
          gravity: 'note',
          message: `${read} stands ${lengthText(height, brief.unit)} tall`,
          remedies: [{ id: 'change-unit', params: { metres: unitMetres } }],
        }),
      );
    return out;
  },
};
