/** Briefs from files: nothing unknown, nothing wrong, no pattern that never ends. */
import type { AnyObject, AnyObjectSchema, ArraySchema, Schema } from 'yup';
import { whyNoSkeleton } from '../anatomy/skeletons/wanted';
import { checkedBy } from '../contracts/checked';
import { whyNot } from '../contracts/pattern';
import { type Brief, briefSchema, withoutOldFields } from './brief';

/**
 * Reads a brief from what a file holds. Throws an Error whose sentence names the first field that is
 * unknown, missing or wrong.
 */
export function readBrief(file: unknown): Brief {
  const json = withoutOldFields(file);
  const stray = strayFieldOf(briefSchema, json, '');
  if (stray) throw new Error(`it has a field “${stray}” that no brief has`);
  const brief = validated(json);
  const why = whyNoSkeleton(brief);
  if (why) throw new Error(`it ${why}`);
  const bad = badPatternOf(brief);
  if (bad) throw new Error(`its pattern “${bad.field}” ${bad.why}`);
  return brief;
}

function validated(json: unknown): Brief {
  try {
    return checkedBy(briefSchema, json);
  } catch (error) {
    // What cannot even be written down as a word is no number and no name.
    if (error instanceof TypeError) throw new Error('it holds a thing where a number or a word belongs');
    throw error;
  }
}

/** The path of the first field of a value that a schema does not know; null for none. */
function strayFieldOf(schema: Schema, value: unknown, path: string): string | null {
  if (typeof value !== 'object' || value === null) return null;
  if (schema.type === 'array') {
    const { innerType } = schema as ArraySchema<unknown[], AnyObject>;
    const items = Array.isArray(value) ? value : [];
    return firstOf(items, (x, i) => innerType && strayFieldOf(innerType as Schema, x, `${path}[${i}]`));
  }
  if (schema.type !== 'object') return null;
  const { fields } = schema as AnyObjectSchema;
  return firstOf(Object.entries(value), ([name, x]) => {
    const at = path ? `${path}.${name}` : name;
    const field = Object.hasOwn(fields, name) ? (fields[name] as Schema) : null;
    return field ? strayFieldOf(field, x, at) : at;
  });
}

function firstOf<T>(list: readonly T[], ask: (x: T, i: number) => string | null | undefined): string | null {
  for (const [i, x] of list.entries()) {
    const found = ask(x, i);
    if (found) return found;
  }
  return null;
}

/** The first pattern of a brief that is none, or that may take for ever; null where all are fine. */
export function badPatternOf(brief: Brief): { field: string; why: string } | null {
  for (const [field, pattern] of patternsOf(briefSchema, brief, '')) {
    const why = whyNot(pattern);
    if (why) return { field, why };
  }
  return null;
}

/** All patterns of a value, with their paths. */
function patternsOf(schema: Schema, value: unknown, path: string): [string, string][] {
  if (value === null || value === undefined) return [];
  if (schema.type === 'string')
    return schema.meta()?.quantity === 'pattern' && typeof value === 'string' ? [[path, value]] : [];
  if (schema.type === 'array') {
    const { innerType } = schema as ArraySchema<unknown[], AnyObject>;
    return (value as unknown[]).flatMap((x, i) => patternsOf(innerType as Schema, x, `${path}[${i}]`));
  }
  if (schema.type !== 'object') return [];
  return Object.entries((schema as AnyObjectSchema).fields).flatMap(([name, field]) =>
    patternsOf(field as Schema, (value as AnyObject)[name], path ? `${path}.${name}` : name),
  );
}
