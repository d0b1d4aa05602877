/** The form of a brief, put together from the checks' own settings: a new check brings its part along. */
import type { AnyObject, AnyObjectSchema, ArraySchema, Schema } from 'yup';
import { type Character, EMPTY_CARRIED } from '../character/model';
import { briefBaseFields } from '../contracts/brief';
import type { Check } from '../contracts/check';
import type { Quantity } from '../contracts/params';
import { ROOM_WORDS, type RoomId } from '../contracts/rooms';
import type { Bound } from '../contracts/setting';
import { ROOMS } from './rooms';

/** One question of the form, or several that belong together. */
export interface FormField {
  /** Where its value stands in the brief, names joined by dots; within a list from its item on. */
  readonly path: string;
  readonly label: string;
  readonly hint: string;
  readonly kind: 'group' | 'list' | 'names' | 'number' | 'choice' | 'text';
  /** It may be not asked at all. */
  readonly isNullable: boolean;
  readonly quantity?: Quantity;
  readonly bound: Bound;
  readonly isWhole: boolean;
  readonly choices: Readonly<Record<string, string>>;
  /** Of a group, or of one item of a list. */
  readonly fields: readonly FormField[];
  /** Of a list: what an item that is added begins as, and whether items stand as rows of a table. */
  readonly fresh?: object;
  readonly isTable?: boolean;
}

/** What is asked for one check. */
export interface CheckForm {
  readonly id: string;
  readonly title: string;
  readonly why: string;
  /** The settings that stand with it. */
  readonly fields: readonly FormField[];
  /** Labels of settings that it reads as well and that stand with another check. */
  readonly also: readonly string[];
}

/** The whole form: what every brief has, then room by room. */
export interface BriefForm {
  readonly base: readonly FormField[];
  readonly rooms: readonly {
    readonly id: RoomId;
    readonly title: string;
    readonly checks: readonly CheckForm[];
  }[];
}

/** What is said of a brief as a whole, beside its names. */
const BASE = ['unit', 'skeleton', 'skins', 'proofTolerance'] as const;

let made: BriefForm | null = null;

/** The form; made once. */
export function briefForm(): BriefForm {
  made ??= makeForm();
  return made;
}

function makeForm(): BriefForm {
  const owners = ownersOfSettings();
  const rooms = ROOMS.map(({ checks }) => ({
    id: checks[0].room,
    title: ROOM_WORDS[checks[0].room],
    checks: checks.map((check): CheckForm => {
      const all = Object.entries(check.settings.fields as Record<string, Schema>);
      const isOwn = ([name]: readonly [string, Schema]) => owners.get(name) === check.id;
      return {
        id: check.id,
        title: check.title,
        why: check.why,
        fields: all.filter(isOwn).map(([name, field]) => fieldFor(name, field)),
        also: all.filter((field) => !isOwn(field)).map(([name, field]) => labelOf(field, name)),
      };
    }),
  }));
  return { base: BASE.map((name) => fieldFor(name, briefBaseFields[name] as unknown as Schema)), rooms };
}

/** The check that every setting stands with: the first that measures it, else the first that reads it. */
function ownersOfSettings(): Map<string, string> {
  const out = new Map<string, string>();
  const measured = new Set<string>();
  for (const { checks } of ROOMS)
    for (const check of checks as readonly Check[]) {
      const names = new Set(Object.keys(check.measures?.(NOBODY) ?? {}).map((path) => path.split('.')[0]));
      for (const name of Object.keys(check.settings.fields)) {
        if (!out.has(name) || (names.has(name) && !measured.has(name))) out.set(name, check.id);
        if (names.has(name)) measured.add(name);
      }
    }
  return out;
}

/** A character that holds nothing: what is measured of it says which settings a check measures. */
const NOBODY: Character = {
  name: '',
  nodes: [],
  meshes: [],
  skins: [],
  clips: [],
  sets: [],
  carried: EMPTY_CARRIED,
  source: { format: 'made', generator: '', unitMetres: 1, files: [] },
  notes: [],
};

const labelOf = (field: Schema, name: string): string =>
  (field.meta() as { label?: string } | undefined)?.label ?? name;

function fieldFor(path: string, schema: Schema): FormField {
  const meta = (schema.meta() ?? {}) as Partial<
    Pick<FormField, 'label' | 'hint' | 'quantity' | 'bound' | 'fresh' | 'isTable'>
  > & {
    choices?: Readonly<Record<string, string>>;
  };
  const { oneOf, tests } = schema.describe() as { oneOf: unknown[]; tests: { name?: string }[] };
  const words = oneOf.filter((x) => x !== null && x !== undefined).map(String);
  const choices = meta.choices ?? Object.fromEntries(words.map((word) => [word, word]));
  const fields = fieldsIn(path, schema);
  return {
    path,
    label: meta.label ?? path.split('.').at(-1) ?? path,
    hint: meta.hint ?? '',
    kind: kindOf(schema, words),
    isNullable: schema.spec.nullable,
    quantity: meta.quantity,
    bound: meta.bound ?? 'is',
    isWhole: tests.some((test) => test.name === 'integer'),
    choices: words.length > 0 ? choices : {},
    fields,
    fresh: meta.fresh,
    isTable: meta.isTable,
  };
}

function fieldsIn(path: string, schema: Schema): FormField[] {
  if (schema.type === 'array') {
    if (isOfNames(schema)) return [];
    const { innerType } = schema as ArraySchema<unknown[], AnyObject>;
    const { fields } = innerType as unknown as AnyObjectSchema;
    return Object.entries(fields).map(([name, field]) => fieldFor(name, field as Schema));
  }
  if (schema.type !== 'object') return [];
  const { fields } = schema as AnyObjectSchema;
  return Object.entries(fields).map(([name, field]) => fieldFor(`${path}.${name}`, field as Schema));
}

/** A list whose items are words. */
const isOfNames = (schema: Schema): boolean =>
  schema.type === 'array' &&
  ((schema as ArraySchema<unknown[], AnyObject>).innerType as Schema | undefined)?.type === 'string';

function kindOf(schema: Schema, words: readonly string[]): FormField['kind'] {
  const { type } = schema;
  if (type === 'object') return 'group';
  if (isOfNames(schema)) return 'names';
  if (type === 'array') return 'list';
  if (words.length > 0) return 'choice';
  return type === 'number' ? 'number' : 'text';
}

/** Every single question of the checks by its path, labelled with the group that it stands in; a list is one. */
export function leavesOfForm(): ReadonlyMap<string, FormField> {
  const { base, rooms } = briefForm();
  const fields = [...base, ...rooms.flatMap((room) => room.checks.flatMap((check) => check.fields))];
  const out = new Map<string, FormField>();
  const put = (field: FormField, above: string) => {
    const label = above ? `${above}, ${field.label.toLowerCase()}` : field.label;
    if (field.kind === 'group') field.fields.forEach((field) => put(field, label));
    out.set(field.path, { ...field, label });
  };
  fields.forEach((field) => put(field, ''));
  return out;
}

/** The value at a path of a brief; undefined where nothing stands there. */
export const valueAt = (value: object, path: string): unknown =>
  path.split('.').reduce<unknown>((at, name) => (at as AnyObject | null | undefined)?.[name], value);

/** The same with another value at a path; the given one is not changed. */
export function withValueAt<T extends object>(value: T, path: string, next: unknown): T {
  const [name, ...rest] = path.split('.');
  const inner =
    rest.length > 0 ? withValueAt(((value as AnyObject)[name] ?? {}) as object, rest.join('.'), next) : next;
  return { ...value, [name]: inner };
}
