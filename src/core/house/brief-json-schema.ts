/** What a brief is, as a JSON Schema, made from the very schema that reads it. */
import { convertSchema } from '@sodaru/yup-to-json-schema';
import type { AnyObject, AnyObjectSchema, ArraySchema, Schema } from 'yup';
import { briefSchema } from './brief';

type Json = Record<string, unknown>;

/** JSON Schema (draft 7) of a brief’s file. */
export function briefJsonSchema(): Json {
  const { default: _, ...made } = convertSchema(briefSchema as unknown as AnyObjectSchema) as Json;
  return {
    $schema: 'http://json-schema.org/draft-07/schema#',
    title: 'Brief',
    description: 'What a game wants of a character. Lengths are metres, angles degrees.',
    ...closed(briefSchema, made),
  };
}

/** The same without fields that nobody knows, and with what forms say of the fields. */
function closed(schema: Schema, json: Json): Json {
  const { label, hint } = (schema.meta() ?? {}) as { label?: string; hint?: string };
  const said = { ...(label && { title: label }), ...(hint && { description: hint }) };
  const isNullable = schema.spec.nullable;
  if (schema.type === 'array') {
    const { innerType } = schema as ArraySchema<unknown[], AnyObject>;
    return { ...json, ...said, items: closed(innerType as Schema, (json.items ?? {}) as Json) };
  }
  if (schema.type !== 'object') {
    const choices = isNullable && Array.isArray(json.enum) ? { enum: [...json.enum, null] } : {};
    return { ...json, ...said, ...choices };
  }
  const { fields } = schema as AnyObjectSchema;
  const properties = (json.properties ?? {}) as Record<string, Json>;
  return {
    ...json,
    ...said,
    type: isNullable ? ['object', 'null'] : 'object',
    additionalProperties: false,
    properties: Object.fromEntries(
      Object.entries(fields).map(([name, field]) => [name, closed(field as Schema, properties[name] ?? {})]),
    ),
  };
}
