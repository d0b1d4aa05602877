/** The brief: what the receiving game wants, put together from what the checks of the house read. */
import { type AnyObjectSchema, type ObjectSchema, object } from 'yup';
import { type BriefBase, briefBaseFields } from '../contracts/brief';
import { type EveryCheck, ROOMS } from './rooms';

type SettingsOf<C> = C extends { run(character: never, settings: infer S): unknown } ? S : never;
/** All of a union at once. */
type All<U> = (U extends unknown ? (x: U) => void : never) extends (x: infer I) => void ? I : never;

export type Brief = BriefBase & All<SettingsOf<EveryCheck>>;

/**
 * The fields of every check's settings. A field that two checks read must be one schema, or they would read
 * different things under one name.
 */
function gatherFields(checks: readonly Pick<EveryCheck, 'id' | 'settings'>[]): AnyObjectSchema['fields'] {
  const fields: AnyObjectSchema['fields'] = { ...briefBaseFields };
  for (const check of checks) {
    for (const [name, field] of Object.entries(check.settings.fields)) {
      if (fields[name] && fields[name] !== field)
        throw new Error(`The setting “${name}” of the check “${check.id}” is defined twice.`);
      fields[name] = field;
    }
  }
  return fields;
}

/** What a brief is, as a schema; its validation names the first field that is wrong. */
export const briefSchema = object(
  gatherFields(ROOMS.flatMap((room): readonly EveryCheck[] => room.checks)),
) as unknown as ObjectSchema<Brief>;
