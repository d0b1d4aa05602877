import { type AnyObjectSchema, type NumberSchema, array, mixed, number, object, string } from 'yup';
import type { Character } from '../character/model';
import type { ElementKind } from '../character/sets';

/** What a parameter points at in a character: an index into its nodes (of that kind), or into another of its lists. */
export type RefKind = 'node' | 'bone' | 'mesh' | 'skin' | 'set' | 'clip';

/** What a reference points into: whatever stands in it has a name. */
export function listReferredTo(
  { nodes, skins, sets, clips }: Pick<Character, 'nodes' | 'skins' | 'sets' | 'clips'>,
  ref: RefKind,
): readonly { readonly name: string }[] {
  const own: Partial<Record<RefKind, readonly { readonly name: string }[]>> = {
    skin: skins,
    set: sets,
    clip: clips,
  };
  return own[ref] ?? nodes;
}

/** What a reference points at, as people call it. */
export const nounOf = (ref: RefKind): string =>
  ref === 'skin' || ref === 'set' || ref === 'clip' ? ref : 'node';

/** What a number is, so that a form can show it in the brief's unit and a command line can take one. */
export type Quantity =
  | 'length'
  | 'angle'
  | 'factor'
  | 'count'
  | 'weight'
  | 'share'
  | 'seconds'
  | 'pattern'
  | 'fileUnit'
  | 'colour';

declare module 'yup' {
  interface CustomSchemaMetadata {
    /** What people read beside it. */
    label?: string;
    ref?: RefKind;
    /** Points or polygons that it takes. */
    elements?: ElementKind;
    /** Each of them has a row of weights. */
    hasRows?: boolean;
    quantity?: Quantity;
    /** Words for the values of a choice. */
    choices?: Readonly<Record<string, string>>;
    /** Asked only while another parameter has this value. */
    when?: Readonly<Record<string, string>>;
    /** Set by what offers the remedy; a form shows it in words and does not ask for it. */
    given?: boolean;
  }
}

/** One parameter of a remedy, as forms, the command line and doing again read it. */
export interface Field {
  readonly name: string;
  readonly label: string;
  readonly kind: 'number' | 'choice' | 'ref' | 'elements' | 'text' | 'flag' | 'colour' | 'other';
  readonly ref?: RefKind;
  readonly elements?: ElementKind;
  readonly hasRows: boolean;
  /** A list of such, for a reference. */
  readonly isList: boolean;
  readonly quantity?: Quantity;
  readonly choices: Readonly<Record<string, string>>;
  readonly when?: Readonly<Record<string, string>>;
  readonly given: boolean;
  /** Whether it may be null: none. */
  readonly mayBeNone: boolean;
  /** Whether it need not be said. */
  readonly isOptional: boolean;
  /** Whether a number must be whole, and the least that it may be; −Infinity for any. */
  readonly isWhole: boolean;
  readonly least: number;
}

interface Described {
  readonly type: string;
  readonly meta?: Record<string, unknown>;
  readonly oneOf?: readonly unknown[];
  readonly innerType?: Described;
  readonly nullable?: boolean;
  readonly optional?: boolean;
  readonly tests?: readonly { readonly name?: string; readonly params?: Record<string, unknown> }[];
}

/** The parameters of a schema with what their metadata says, in the order in which the schema names them. */
export function fieldsOf(params: AnyObjectSchema): Field[] {
  return Object.entries(params.describe().fields).map(([name, described]) =>
    fieldOf(name, described as Described),
  );
}

function fieldOf(name: string, described: Described): Field {
  const isList = described.type === 'array';
  const inner = isList ? described.innerType : described;
  const meta = { ...inner?.meta, ...described.meta } as Partial<Omit<Field, 'name' | 'kind'>>;
  const values = (inner?.oneOf ?? []).map(String);
  return {
    name,
    label: meta.label ?? name,
    kind: kindOf(meta, values, inner?.type),
    ref: meta.ref,
    elements: meta.elements,
    hasRows: meta.hasRows ?? false,
    isList,
    quantity: meta.quantity,
    choices: meta.choices ?? Object.fromEntries(values.map((value) => [value, value])),
    when: meta.when,
    given: meta.given ?? false,
    mayBeNone: described.nullable ?? false,
    isOptional: described.optional ?? false,
    isWhole: described.tests?.some((test) => test.name === 'integer') ?? false,
    least: Number(
      described.tests?.find((test) => test.name === 'min')?.params?.min ?? Number.NEGATIVE_INFINITY,
    ),
  };
}

function kindOf(
  meta: { ref?: RefKind; elements?: ElementKind; quantity?: Quantity },
  values: readonly string[],
  type: string | undefined,
): Field['kind'] {
  if (meta.elements) return 'elements';
  if (meta.ref) return 'ref';
  if (meta.quantity === 'colour') return 'colour';
  if (values.length > 0) return 'choice';
  if (type === 'string') return 'text';
  if (type === 'boolean') return 'flag';
  return type === 'number' ? 'number' : 'other';
}

/** True where a field is asked for while the parameters stand like this. */
export const isAsked = (field: Field, params: Readonly<Record<string, unknown>>): boolean =>
  !field.given && Object.entries(field.when ?? {}).every(([name, value]) => String(params[name]) === value);

/** A parameter that points at something of the character: an index, ≥ 0. */
export const refTo = (ref: RefKind, label: string) =>
  number().integer().min(0).required().meta({ ref, label, given: true });

/** The same for something that may be none: −1. */
export const refOrNone = (ref: RefKind, label: string) =>
  number().integer().min(-1).required().meta({ ref, label, given: true });

/** A list of such. */
export const refsTo = (ref: RefKind, label: string) =>
  array(number().integer().min(0).required()).meta({ ref, label, given: true });

/** Points or polygons of one mesh, as a parameter holds them. */
export interface ElementsParam {
  readonly node: number;
  readonly ids: readonly number[] | Uint32Array;
}

const isNumbers = (value: unknown): value is readonly number[] | Uint32Array =>
  (Array.isArray(value) || value instanceof Uint32Array) &&
  value.every((id: unknown) => Number.isInteger(id) && (id as number) >= 0);

/** Points or polygons, by the node that shows their mesh: what is chosen of them, one or many. */
export const elementsTo = (elements: ElementKind, label: string) =>
  array(
    object({
      node: number().integer().min(0).required(),
      ids: mixed<readonly number[] | Uint32Array>(isNumbers).required(),
    }).required(),
  ).meta({ elements, label, given: true });

/** Rows of weights of some points: row i has the entries offsets[i] … offsets[i + 1]; `joint` counts in a list of bones. */
export interface WeightRowsParam {
  readonly offsets: Uint32Array;
  readonly joint: Uint32Array;
  readonly weight: Float32Array;
}

/** Points of one mesh with a row of weights each. */
export interface RowsParam extends ElementsParam {
  readonly rows: WeightRowsParam;
}

/** Rows that hold together: as many as there are points, ascending, of numbers that are weights. */
function areRows(value: unknown): value is WeightRowsParam {
  const { offsets, joint, weight } = (value ?? {}) as Partial<WeightRowsParam>;
  if (!(offsets instanceof Uint32Array && joint instanceof Uint32Array && weight instanceof Float32Array))
    return false;
  const total = offsets[offsets.length - 1];
  return (
    offsets[0] === 0 &&
    offsets.every((end, i) => i === 0 || end >= offsets[i - 1]) &&
    joint.length === total &&
    weight.length === total &&
    weight.every((x) => x >= 0 && x <= 1.001)
  );
}

/** Points with a row of weights each, as a brush leaves them: only a hand can give such. */
export const weightRowsTo = (label: string) =>
  array(
    object({
      node: number().integer().min(0).required(),
      ids: mixed<readonly number[] | Uint32Array>(isNumbers).required(),
      rows: mixed<WeightRowsParam>(areRows).required(),
    })
      .test(
        'as-many',
        'there are not as many rows as points',
        ({ ids, rows }) => rows.offsets.length === ids.length + 1,
      )
      .required(),
  ).meta({ elements: 'vertices', hasRows: true, label, given: true });

/** A colour, #rrggbb. */
export const colourOf = (label: string) =>
  string()
    .matches(/^#[0-9a-f]{6}$/i, '${label} is a colour as #rrggbb')
    .meta({ quantity: 'colour', label });

/** A length in metres, greater than 0; shown and typed in the brief's unit. */
export const lengthOf = (label: string): NumberSchema =>
  number().positive().meta({ quantity: 'length', label });

/** A parameter that is an angle, degrees. */
export const angleOf = (label: string): NumberSchema => number().meta({ quantity: 'angle', label });

/** A parameter that is a factor: above zero. */
export const factorOf = (label: string): NumberSchema =>
  number().positive().meta({ quantity: 'factor', label });

/** One of several words. `choices`: what people read for each. */
export const choiceOf = <T extends string>(label: string, choices: Readonly<Record<T, string>>) =>
  string<T>()
    .oneOf(Object.keys(choices) as T[])
    .meta({ label, choices });

const finite = () =>
  number()
    .required()
    .test('finite', 'a number must be finite', (x) => Number.isFinite(x));

/** A place in the world: three numbers, metres. */
export const placeOf = (label: string) => array(finite()).length(3).meta({ label });

/** A rotation in the world: a quaternion x y z w. */
export const turnOf = (label: string) =>
  array(finite())
    .length(4)
    .test('turn', 'a rotation must not be 0', (rotation) => !rotation || Math.hypot(...rotation) > 1e-9)
    .meta({ label });
