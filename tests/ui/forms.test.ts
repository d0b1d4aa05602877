/** Numbers as forms show and read them, and what they say of what cannot be taken. */
import fc from 'fast-check';
import { number, object, string } from 'yup';
import type { ValidationError } from 'yup';
import { type LengthUnit, LENGTH_UNITS, ownUnit } from '@/core/contracts/units';
import { numberWords, readNumber, signOf, stepped } from '@/ui/kit/form/numbers';
import { sentenceOf } from '@/ui/kit/form/sentence';

const UNITS_SHOWN: readonly LengthUnit[] = [...LENGTH_UNITS, ownUnit(100)!];

describe('numbers of a form', () => {
  it('are read as they are shown, in every unit and quantity', () =>
    fc.assert(
      fc.property(
        fc.double({ min: 1e-4, max: 1e4, noNaN: true }),
        fc.constantFrom(...UNITS_SHOWN),
        fc.constantFrom('length' as const, 'share' as const, 'angle' as const, 'factor' as const, undefined),
        (value, unit, quantity) => {
          const shown = numberWords({ quantity }, value, unit, 12);
          expect(readNumber(shown, { quantity }, unit) / value).toBeCloseTo(1, 9);
        },
      ),
    ));
  it.each([
    ['176 cm', 'length', 1.76],
    ['5 ft 9 in', 'length', 1.7526],
    ['0,5', undefined, 0.5],
    ['40 %', 'share', 0.4],
    ['−30°', 'angle', -30],
    ['2 ×', 'factor', 2],
  ] as const)('%s is taken', (text, quantity, value) =>
    expect(readNumber(text, { quantity }, 'm')).toBeCloseTo(value, 12),
  );
  it.each([
    ['three parsecs', 'length'],
    ['', 'length'],
    ['', undefined],
    ['1..2', undefined],
    ['4 m', 'share'],
  ] as const)('“%s” is none', (text, quantity) => expect(readNumber(text, { quantity }, 'm')).toBeNaN());
  it('go up and down by their second digit, whole ones by one', () => {
    expect(stepped(0.002, { quantity: 'length' }, 'm', 1)).toBeCloseTo(0.0021, 12);
    expect(stepped(1.76, { quantity: 'length' }, 'cm', -1)).toBeCloseTo(1.66, 12);
    expect(stepped(4, { isWhole: true }, 'm', -10)).toBe(-6);
    expect(stepped(0, {}, 'm', 1)).toBeCloseTo(0.1, 12);
  });
  it('have the sign of what they are', () => {
    expect(signOf({ quantity: 'length' }, 'cm')).toBe('cm');
    expect([signOf({ quantity: 'share' }, 'cm'), signOf({}, 'cm')]).toEqual(['%', '']);
  });
});

describe('what a form says of what it does not take', () => {
  const schema = object({
    reach: number().min(0.02).required(),
    share: number().max(1).required(),
    bones: number().integer().min(1).required(),
    name: string().required(),
  });
  const fieldOf = (label: string, quantity?: 'length' | 'share', isWhole = false) => ({
    label,
    kind: 'number',
    quantity,
    isWhole,
  });
  const right = { reach: 1, share: 0.5, bones: 4, name: 'a' };
  const errorOf = (values: object): { type: string; message: string } => {
    try {
      schema.validateSync({ ...right, ...values });
    } catch (error) {
      const { type, message } = error as ValidationError;
      return { type: type ?? '', message };
    }
    throw new Error('The schema took it.');
  };
  it.each([
    [{ reach: 0.01 }, fieldOf('Reach', 'length'), 'Reach must be greater than or equal to 2 cm.'],
    [{ reach: Number.NaN }, fieldOf('Reach', 'length'), 'Reach is a length, as 1.76 m, 176 cm or 5 ft 9 in.'],
    [{ share: 1.2 }, fieldOf('Share', 'share'), 'Share must be less than or equal to 100 %.'],
    [{ bones: 0 }, fieldOf('Bones', undefined, true), 'Bones must be greater than or equal to 1.'],
    [{ bones: undefined }, fieldOf('Bones', undefined, true), 'Bones is a whole number.'],
    [{ name: '' }, { label: 'Its name', kind: 'text' }, 'Its name is a required field.'],
  ])('%j: in the words and the unit that people read', (values, field, said) =>
    expect(sentenceOf(field, errorOf(values), 'cm')).toBe(said),
  );
});
