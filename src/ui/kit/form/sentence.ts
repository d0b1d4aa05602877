import type { LengthUnit } from '@/core/contracts/units';
import { type NumberKind, numberWords, signOf } from './numbers';

/** What a schema says of a value that it does not take. */
interface SchemaError {
  /** Name of the test that it failed. */
  readonly type: string;
  readonly message?: string;
}

/** Tests that a value fails that is no number at all. */
const NO_NUMBER: ReadonlySet<string> = new Set(['typeError', 'optionality', 'nullable', 'required']);

/**
 * The schema's sentence with the name that people read and its bound as they read numbers; of what is no number at all,
 * what one looks like.
 */
export function sentenceOf(
  field: NumberKind & { readonly label: string; readonly kind: string },
  { type, message }: SchemaError,
  unit: LengthUnit,
): string {
  const { label, kind, quantity } = field;
  if (kind === 'number' && NO_NUMBER.has(type))
    return quantity === 'length'
      ? `${label} is a length, as 1.76 m, 176 cm or 5 ft 9 in.`
      : `${label} is ${field.isWhole ? 'a whole number' : 'a number'}.`;
  const sign = signOf(field, unit);
  const said = (message ?? 'this is not right')
    .replace(/^\S+ /, '')
    .replace(/-?\d[\d.e-]*$/, (bound) => `${numberWords(field, Number(bound), unit)}${sign && ` ${sign}`}`);
  return `${label} ${said}.`;
}
