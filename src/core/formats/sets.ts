/**
 * Sets, what bones are said to be for and in which order they turn, as they are written into a file: in the extras of a glTF's root, in an
 * `<extra>` of a COLLADA document, the same
 * either way. Things go by their names, points and polygons also by their numbers and places, so that they are found again
 * where another program has put them into another order.
 */
import { array, boolean, mixed, number, object, string } from 'yup';
import { BONE_KINDS } from '../character/bone-kinds';
import type { Character, ElementSet, Json, JsonObject } from '../character/model';
import { PART_KINDS } from '../character/part-kinds';
import { allNamed, finderOf, namedIn } from '../character/named';
import {
  type ElementKind,
  LEAST_TWIG,
  MOST_TWIG,
  type PlacedElements,
  foundElements,
  namedElements,
  saidOfSet,
} from '../character/sets';
import { TURN_ORDERS } from '../geometry/turn-order';
import { printable } from './errors';

/** The name under which sets stand among the extras of a glTF's root. */
const SETS_KEY = 'young_bough_sets';

/** Sets of a file, and numbers in one of them, that are looked at. */
const MOST_SETS = 10_000;
const MOST_NUMBERS = 50_000_000;

const NAMED = object({ name: string().defined(), nth: number().integer().min(0).required() });

/** A list of numbers, looked at in one pass: there may be millions. */
const numbers = () =>
  mixed<number[]>(
    (value): value is number[] =>
      Array.isArray(value) && value.length <= MOST_NUMBERS && value.every((x) => Number.isFinite(x)),
  ).required();

const ELEMENTS = object({
  node: NAMED.required(),
  of: number().integer().min(0).required(),
  ids: numbers(),
  places: numbers(),
});

const SET = object({
  name: string().required(),
  tint: string().matches(/^#[0-9a-f]{6}$/i),
  twigSize: number().min(LEAST_TWIG).max(MOST_TWIG),
  partKind: string().oneOf([...PART_KINDS]),
  isRigid: boolean(),
  isOneSided: boolean(),
  bones: array(NAMED.required()).required(),
  vertices: array(ELEMENTS.required()).required(),
  polygons: array(ELEMENTS.required()).required(),
});

/** The name under which stands what somebody said that bones are for. */
const KINDS_KEY = 'young_bough_bone_kinds';

/** The name under which stands in which order bones turn about their axes. */
const ORDERS_KEY = 'young_bough_turn_orders';

/** All names under which the house keeps something of its own in a file, with what its element is called in XML. */
export const OWN_ELEMENTS = { [SETS_KEY]: 'sets', [KINDS_KEY]: 'kinds', [ORDERS_KEY]: 'orders' } as const;

type OwnKey = keyof typeof OWN_ELEMENTS;

export const OWN_KEYS = Object.keys(OWN_ELEMENTS) as OwnKey[];

/** What is said of single bones: one word each, out of a list. */
interface SaidOfBones {
  readonly key: OwnKey;
  readonly field: 'boneKind' | 'turnOrder';
  /** What the word is called in the file. */
  readonly called: string;
  readonly words: readonly string[];
  /** What is said, for notes. */
  readonly what: string;
  /** The note where it cannot be read. */
  readonly lost: string;
}

const SAID_OF_BONES: readonly SaidOfBones[] = [
  {
    key: KINDS_KEY,
    field: 'boneKind',
    called: 'kind',
    words: BONE_KINDS,
    what: 'what they are for',
    lost: 'What the file says that bones are for cannot be read and is left out.',
  },
  {
    key: ORDERS_KEY,
    field: 'turnOrder',
    called: 'order',
    words: TURN_ORDERS,
    what: 'in which order they turn',
    lost: 'What the file says of the order in which bones turn cannot be read and is left out.',
  },
];

/** What a file carries of what only the house knows, by key; what there is nothing of is not there. */
export function ownToJson(character: Character): Partial<Record<OwnKey, Json>> {
  const sets = setsToJson(character);
  const said = SAID_OF_BONES.map((kind) => [kind.key, saidToJson(character, kind)] as const);
  return {
    ...(sets === null ? {} : { [SETS_KEY]: sets }),
    ...Object.fromEntries(said.filter(([, list]) => list.length > 0)),
  };
}

/** A character with that again; what cannot be read of it, or is not found, is noted. */
export const withReadOwn = (
  character: Character,
  own: Readonly<Partial<Record<OwnKey, unknown>>>,
): Character =>
  SAID_OF_BONES.reduce(
    (read, said) => withReadSaid(read, own[said.key], said),
    withReadSets(character, own[SETS_KEY]),
  );

function saidToJson({ nodes }: Character, { field, called }: SaidOfBones): JsonObject[] {
  const named = allNamed(nodes.map(({ name }) => name));
  return nodes.flatMap((node, i) => {
    const word = node.kind === 'bone' ? node[field] : undefined;
    return word ? [{ ...named[i], [called]: word }] : [];
  });
}

function withReadSaid(
  character: Character,
  json: unknown,
  { field, called, words, what, lost }: SaidOfBones,
): Character {
  if (json === null || json === undefined) return character;
  if (!Array.isArray(json) || json.length > character.nodes.length) return withNotes(character, [lost]);
  const schema = NAMED.shape({
    [called]: string()
      .oneOf([...words])
      .required(),
  });
  const find = finderOf(character.nodes.map(({ name }) => name));
  const said = new Map<number, string>();
  let missing = 0;
  for (const entry of json as Record<string, unknown>[]) {
    if (!schema.isValidSync(entry, { strict: true })) return withNotes(character, [lost]);
    const node = find(NAMED.cast(entry));
    if (character.nodes[node]?.kind === 'bone') said.set(node, String(entry[called]));
    else missing++;
  }
  const bones = missing === 1 ? 'bone' : 'bones';
  const notes = missing > 0 ? [`The file says of ${missing} more ${bones} ${what} than it has.`] : [];
  return {
    ...withNotes(character, notes),
    nodes: character.nodes.map((node, i) => (said.has(i) ? { ...node, [field]: said.get(i) } : node)),
  };
}

/** The sets of a character as JSON; null where it has none. */
function setsToJson(character: Character): Json {
  if (character.sets.length === 0) return null;
  const names = character.nodes.map(({ name }) => name);
  const elements = (set: ElementSet, kind: ElementKind): JsonObject[] =>
    set[kind].flatMap((some) => {
      const named = namedElements(character, kind, some);
      return named ? [named as unknown as JsonObject] : [];
    });
  return character.sets.map((set) => ({
    name: set.name,
    ...saidOfSet(set),
    bones: set.bones.map((bone) => ({ ...namedIn(names, bone) })),
    vertices: elements(set, 'vertices'),
    polygons: elements(set, 'polygons'),
  }));
}

/** A character with the sets that its file holds; what cannot be read of them, or is not found, is noted. */
function withReadSets(character: Character, json: unknown): Character {
  if (json === null || json === undefined) return character;
  if (!Array.isArray(json) || json.length > MOST_SETS)
    return withNotes(character, ['The sets of the file are no list of sets and are left out.']);
  const notes: string[] = [];
  const sets = json.flatMap((entry: unknown): ElementSet[] => {
    try {
      return [readSet(character, SET.validateSync(entry, { strict: true, stripUnknown: false }), notes)];
    } catch {
      notes.push('A set of the file cannot be read and is left out.');
      return [];
    }
  });
  return { ...withNotes(character, [...new Set(notes)]), sets };
}

const withNotes = (character: Character, notes: readonly string[]): Character => ({
  ...character,
  notes: [...character.notes, ...notes],
});

function readSet(
  character: Character,
  set: ReturnType<typeof SET.validateSync>,
  notes: string[],
): ElementSet {
  const find = finderOf(character.nodes.map(({ name }) => name));
  const bones = [...new Set(set.bones.map(find))].filter((bone) => bone >= 0);
  let lost = new Set(set.bones.map(({ name, nth }) => `${nth} ${name}`)).size - bones.length;
  const read = (kind: ElementKind) =>
    set[kind].flatMap((named) => {
      if (named.places.length !== named.ids.length * 3) throw new Error('a place is missing');
      const found = foundElements(character, kind, named as PlacedElements);
      lost += found.lost;
      return found.elements ? [found.elements] : [];
    });
  const out = {
    name: set.name,
    ...saidOfSet(set),
    bones,
    vertices: read('vertices'),
    polygons: read('polygons'),
  };
  if (lost > 0)
    notes.push(`${lost} things of the set “${printable(set.name, 60)}” are not found in this file.`);
  return out;
}
