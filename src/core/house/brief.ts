/** The brief: what the receiving game wants, put together from what the checks of the house read. */
import { type AnyObjectSchema, type ObjectSchema, mixed, object } from 'yup';
import { type BriefBase, briefBaseFields } from '../contracts/brief';
import { GRAVITIES, type Gravity } from '../contracts/finding';
import { BODY_CARRIERS, type WeightCarriers } from '../contracts/settings';
import { type EveryCheck, ROOMS } from './rooms';

type SettingsOf<C> = C extends { run(character: never, settings: infer S): unknown } ? S : never;
/** All of a union at once. */
type All<U> = (U extends unknown ? (x: U) => void : never) extends (x: infer I) => void ? I : never;

/** What a brief makes of a check: not asked at all, or of another gravity than the check itself gives. */
export type CheckRule = 'off' | Gravity;

/** How a brief changes the checks, by their ids; a check that is not named is asked as it is. */
export type CheckRules = Readonly<Record<string, CheckRule>>;

export type Brief = BriefBase & All<SettingsOf<EveryCheck>> & { readonly checks?: CheckRules };

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

const EVERY_CHECK = ROOMS.flatMap((room): readonly EveryCheck[] => room.checks);

const checkRules = object(
  Object.fromEntries(
    EVERY_CHECK.map((check) => [
      check.id,
      mixed<CheckRule>()
        .oneOf(['off', ...GRAVITIES])
        .optional(),
    ]),
  ),
)
  .optional()
  .default(undefined);

/** What a brief is, as a schema; its validation names the first field that is wrong. */
export const briefSchema = object({
  ...gatherFields(EVERY_CHECK),
  checks: checkRules,
}) as unknown as ObjectSchema<Brief>;

/** How thick the limbs of a figure are at the joints that bend most, as a share of its height; of a hand, metres. */
const LIMB_OF_HEIGHT = 0.0625;
const FINGER = 0.016;

/** What a brief holds, with fields that were once otherwise as they are now. */
export const withoutOldFields = (json: unknown): unknown => carriersForPatterns(shareForLength(json));

/** Patterns that the house once gave its own briefs: words of ends or controls, standing by themselves. */
const isOfTheHouse = (pattern: string) => pattern.startsWith('(^|[_.\\- :])(');

/**
 * Ends and controls were patterns over names, and are read off the bones themselves: what an own pattern named carries
 * no weight all the same.
 */
function carriersForPatterns(json: unknown): unknown {
  if (typeof json !== 'object' || json === null || !('endPattern' in json || 'controlPattern' in json))
    return json;
  const { endPattern, controlPattern, ...rest } = json as Record<string, unknown>;
  const own = [endPattern, controlPattern].filter(
    (pattern): pattern is string => typeof pattern === 'string' && !isOfTheHouse(pattern),
  );
  const before: WeightCarriers = {
    ...BODY_CARRIERS,
    ends: endPattern ? 'none' : 'free',
    controls: controlPattern ? 'none' : 'free',
    never: own.length > 0 ? own.map((pattern) => `(${pattern})`).join('|') : null,
  };
  return { carriers: before, ...rest };
}

/** How near to a joint a polygon lies was a length, and is a share of the limb's thickness. */
function shareForLength(json: unknown): unknown {
  const { surface, height } = (json ?? {}) as Record<string, Record<string, unknown> | null | undefined>;
  if (typeof surface !== 'object' || typeof surface?.nearJoint !== 'number') return json;
  const { nearJoint, ...rest } = surface;
  const thickness = typeof height?.target === 'number' ? LIMB_OF_HEIGHT * height.target : FINGER;
  const share = Math.round(((nearJoint as number) / thickness) * 100) / 100;
  return { ...(json as object), surface: { nearJointShare: share, ...rest } };
}

/** A brief that was kept before some of its fields came, with these as they are where nothing is said of them. */
export const briefAsOfToday = (kept: Brief): Brief =>
  briefSchema.cast(withoutOldFields(kept), { assert: false }) as Brief;

/** Names a brief with its version: audits under one are no audits under another. */
export const briefKey = ({ id, version }: Pick<BriefBase, 'id' | 'version'>): string => `${id}@${version}`;
