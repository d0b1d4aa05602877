/** What comes from outside, held against its schema. */
import { type InferType, type Schema, ValidationError } from 'yup';

/**
 * A value as its schema has it. Throws a ValidationError whose sentence names the field; of a value of another type it says
 * which type belongs there, and does not repeat the value, which may be of any length.
 */
export function checkedBy<S extends Schema>(
  schema: S,
  value: unknown,
  options: { strict?: boolean; stripUnknown?: boolean } = {},
): InferType<S> {
  try {
    return schema.validateSync(value, options) as InferType<S>;
  } catch (error) {
    if (!(error instanceof ValidationError) || error.type !== 'typeError') throw error;
    const { path, params } = error;
    const kind = String(params?.type ?? 'value');
    const message = `${path || 'this'} must be ${/^[aeiou]/.test(kind) ? 'an' : 'a'} ${kind}`;
    throw new ValidationError(message, undefined, path, error.type);
  }
}
