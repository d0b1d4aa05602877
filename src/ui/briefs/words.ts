/** Values of a brief in words. */
import type { LengthUnit } from '@/core/contracts/units';
import type { FormField } from '@/core/house/brief-form';
import { numberWords, signOf } from '../kit/form/numbers';

/** A value as somebody reads it: lengths in the brief's unit, shares in per cent. */
export function valueWords(
  field: Pick<FormField, 'quantity' | 'choices'> | null,
  value: unknown,
  unit: LengthUnit,
): string {
  if (value === null || value === undefined || value === '') return 'not asked';
  if (typeof value === 'number') return numberWithSign(field ?? {}, value, unit);
  if (typeof value === 'string') return field?.choices[value] ?? value;
  if (Array.isArray(value)) return value.length === 0 ? 'none' : value.map((x) => titleOf(x)).join(', ');
  return Object.values(value as object).join(' · ');
}

const titleOf = (x: unknown) => (x as { title?: string }).title ?? JSON.stringify(x);

function numberWithSign(field: Pick<FormField, 'quantity'>, value: number, unit: LengthUnit): string {
  const sign = signOf(field, unit);
  const number = numberWords(field, value, unit);
  return sign && sign !== '°' ? `${number} ${sign}` : `${number}${sign}`;
}
