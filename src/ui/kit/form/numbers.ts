/** Numbers as people read and type them: lengths in the brief's unit or any other, shares in per cent. */
import type { Quantity } from '@/core/contracts/params';
import { type LengthUnit, inUnit, lengthFrom, unitSign } from '@/core/contracts/units';

/** What decides how a number is shown. */
export interface NumberKind {
  readonly quantity?: Quantity;
  readonly isWhole?: boolean;
}

/** How many of the shown unit one of the stored is. */
export function perStored({ quantity }: NumberKind, unit: LengthUnit): number {
  if (quantity === 'length') return inUnit(1, unit);
  return quantity === 'share' ? 100 : 1;
}

/** What is smaller is nothing: no file tells it. */
const NOTHING = 1e-7;

/** A stored number as it is shown, to so many digits. */
export const numberWords = (kind: NumberKind, value: number, unit: LengthUnit, digits = 4): string =>
  String(Math.abs(value) < NOTHING ? 0 : Number((value * perStored(kind, unit)).toPrecision(digits)));

const SIGNS: Partial<Record<Quantity, string>> = { angle: '°', share: '%', factor: '×', seconds: 's' };

/** The sign of the unit that a number is shown in; empty for none. */
export function signOf({ quantity }: NumberKind, unit: LengthUnit): string {
  if (quantity === 'length') return unitSign(unit);
  return (quantity && SIGNS[quantity]) ?? '';
}

/** What somebody typed as the number that is stored, a length in any unit that there is; NaN where it is none. */
export function readNumber(text: string, kind: NumberKind, unit: LengthUnit): number {
  if (kind.quantity === 'length') return lengthFrom(text, unit) ?? Number.NaN;
  const bare = text
    .replace(',', '.')
    .replace('−', '-')
    .replace(/[%°×s]/g, '')
    .trim();
  return bare === '' ? Number.NaN : Number(bare) / perStored(kind, unit);
}

/** The stored number one step of its second digit up or down; of a whole one, the next. */
export function stepped(value: number, kind: NumberKind, unit: LengthUnit, steps: number): number {
  if (kind.isWhole) return value + steps;
  const shown = value * perStored(kind, unit);
  const digit = shown === 0 ? 0.1 : 10 ** (Math.floor(Math.log10(Math.abs(shown))) - 1);
  return Number((shown + steps * digit).toPrecision(8)) / perStored(kind, unit);
}
