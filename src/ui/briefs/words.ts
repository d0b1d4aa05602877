/** Values of a brief in words. */
import { type LengthUnit, inUnit, unitSign } from '@/core/contracts/units';
import type { FormField } from '@/core/house/brief-form';

/** A value as somebody reads it: lengths in the brief's unit, shares in per cent. */
export function valueWords(
  field: Pick<FormField, 'quantity' | 'choices'> | null,
  value: unknown,
  unit: LengthUnit,
): string {
  if (value === null || value === undefined || value === '') return 'not asked';
  if (typeof value === 'number') return `${numberWords(field, value, unit)}${unitWords(field, unit)}`;
  if (typeof value === 'string') return field?.choices[value] ?? value;
  if (Array.isArray(value)) return value.length === 0 ? 'none' : value.map((x) => titleOf(x)).join(', ');
  return Object.values(value as object).join(' · ');
}

const titleOf = (x: unknown) => (x as { title?: string }).title ?? JSON.stringify(x);

/** How many of the shown unit one of the stored is. */
export function perStored(field: Pick<FormField, 'quantity'> | null, unit: LengthUnit): number {
  if (field?.quantity === 'length') return inUnit(1, unit);
  return field?.quantity === 'share' ? 100 : 1;
}

/** What is smaller is nothing: no file tells it. */
const NOTHING = 1e-7;

export const numberWords = (field: Pick<FormField, 'quantity'> | null, value: number, unit: LengthUnit) =>
  String(Math.abs(value) < NOTHING ? 0 : Number((value * perStored(field, unit)).toPrecision(4)));

const SIGNS: Readonly<Record<string, string>> = { angle: '°', share: ' %', factor: ' ×' };

export function unitWords(field: Pick<FormField, 'quantity'> | null, unit: LengthUnit): string {
  return field?.quantity === 'length' ? ` ${unitSign(unit)}` : (SIGNS[field?.quantity ?? ''] ?? '');
}
