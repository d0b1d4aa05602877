/**
 * What can be done with what is chosen: every remedy whose references fit it, whether or not a finding asks for it. It
 * follows from the metadata of the parameters alone, so that a new remedy is there by itself.
 */
import type { Character, ElementsOf } from '../character/model';
import type { ElementKind } from '../character/sets';
import type { RemedyCall } from '../contracts/finding';
import { type Field, type RefKind, fieldsOf, listReferredTo, nounOf } from '../contracts/params';
import type { Params, Remedy } from '../contracts/remedy';
import type { Brief } from './brief';
import { REMEDIES } from './registry';

/** What is chosen. */
export interface ChosenThings {
  /** Nodes of the character, bones and others alike. */
  readonly nodes: readonly number[];
  readonly vertices: readonly ElementsOf[];
  readonly polygons: readonly ElementsOf[];
  /** Sets, by their place in the list. */
  readonly sets: readonly number[];
}

export const NOTHING_CHOSEN: ChosenThings = { nodes: [], vertices: [], polygons: [], sets: [] };

export const isNothing = ({ nodes, vertices, polygons, sets }: ChosenThings): boolean =>
  nodes.length + vertices.length + polygons.length + sets.length === 0;

/** A remedy that fits what is chosen. */
export interface RemedyByHand {
  readonly remedy: Remedy<Params, Brief>;
  /**
   * The reference that takes nodes, skins or sets of what is chosen; null for none. Clips are never chosen, but asked
   * for.
   */
  readonly field: Field | null;
  /** Indices that fit the reference, as it counts them: nodes, skins or sets. */
  readonly fitting: readonly number[];
  /** The parameters that take points and polygons, with what they take. */
  readonly elements: Readonly<Record<string, readonly ElementsOf[]>>;
  /** Other references, which are asked for. */
  readonly alsoAsked: readonly Field[];
}

/** The indices of a character that a reference of a kind may be. */
export function candidatesOf(character: Character, kind: RefKind): number[] {
  if (nounOf(kind) !== 'node') return [...listReferredTo(character, kind).keys()];
  return character.nodes.flatMap((node, i) => {
    if (kind === 'bone') return node.kind === 'bone' ? [i] : [];
    return kind === 'node' || node.mesh >= 0 ? [i] : [];
  });
}

/** What of a choice fits a kind of reference; the meshes of chosen points and polygons are chosen too. */
function fittingOf(
  character: Character,
  { nodes, vertices, polygons, sets }: ChosenThings,
  kind: RefKind,
): number[] {
  if (kind === 'set') return [...sets];
  const shown = [...vertices, ...polygons].map(({ node }) => node);
  const all = [...new Set([...nodes, ...shown])];
  if (kind === 'skin')
    return [...new Set(all.map((node) => character.nodes[node].skin))].filter((skin) => skin >= 0);
  const candidates = new Set(candidatesOf(character, kind));
  return all.filter((node) => candidates.has(node));
}

/** What a remedy begins with: the defaults of its parameters. */
export const defaultsOf = (remedy: Remedy<Params, Brief>): Params =>
  remedy.params.cast({}, { assert: false }) as Params;

/**
 * Whether a form can ask for all that a remedy wants: what is neither a number, a word nor a choice, as a place, must have
 * a default.
 */
function canBeAsked(remedy: Remedy<Params, Brief>, fields: readonly Field[]): boolean {
  const defaults = defaultsOf(remedy);
  return fields.every(({ name, kind, isList, isOptional, hasRows }) => {
    const hasField = kind === 'ref' || (kind === 'elements' && !hasRows) || (kind !== 'other' && !isList);
    return hasField || isOptional || defaults[name] !== undefined;
  });
}

/**
 * The remedies that fit a choice, those of the room first; for an empty choice those that are about the whole character.
 */
export function remediesByHand(character: Character, chosen: ChosenThings, room: string): RemedyByHand[] {
  const offers = REMEDIES.flatMap((remedy) => {
    const offer = offerOf(character, remedy, chosen);
    return offer ? [offer] : [];
  });
  const isHere = ({ remedy }: RemedyByHand) => remedy.room === room;
  return [...offers.filter(isHere), ...offers.filter((offer) => !isHere(offer))];
}

function offerOf(
  character: Character,
  remedy: Remedy<Params, Brief>,
  chosen: ChosenThings,
): RemedyByHand | null {
  const fields = fieldsOf(remedy.params);
  if (!canBeAsked(remedy, fields)) return null;
  const allRefs = fields.filter(({ kind }) => kind === 'ref');
  const clips = allRefs.filter(({ ref }) => ref === 'clip');
  const refs = allRefs.filter(({ ref }) => ref !== 'clip');
  if (clips.length > 0 && character.clips.length === 0) return null;
  // A form asks for one thing, not for a list: what need not be said stays as the desk has it.
  const asked = (some: readonly Field[]) => some.filter(({ isList, isOptional }) => !(isList && isOptional));
  const takers = fields.filter(({ kind }) => kind === 'elements');
  const needed = takers.filter(({ isOptional }) => !isOptional);
  if (isNothing(chosen)) {
    // One that may be about some of them is about all where none is chosen.
    const isAboutAll = takers.length === 0 && (refs.length === 0 || (refs[0].isList && refs[0].isOptional));
    return isAboutAll ? { remedy, field: null, fitting: [], elements: {}, alsoAsked: clips } : null;
  }
  const elements = Object.fromEntries(
    takers.map(({ name, elements: kind }) => [name, chosen[kind as ElementKind]]),
  );
  // What is about points or polygons asks for its bones.
  if (needed.length > 0) {
    const isThere = needed.every(({ name }) => elements[name].length > 0);
    return isThere ? { remedy, field: null, fitting: [], elements, alsoAsked: asked(refs) } : null;
  }
  const [field, ...alsoAsked] = refs;
  const fitting = field?.ref ? fittingOf(character, chosen, field.ref) : [];
  const some = Object.values(elements).some((list) => list.length > 0);
  if (fitting.length === 0 && !some) return null;
  return { remedy, field: field ?? null, fitting, elements, alsoAsked: asked(alsoAsked) };
}

/** The calls that do a remedy to all that fits: one that takes a list, or one for each. */
export function callsByHand(
  { remedy, field, fitting, elements }: RemedyByHand,
  values: Params,
): RemedyCall[] {
  const params = { ...values, ...elements };
  if (!field) return [{ id: remedy.id, params }];
  if (field.isList) return [{ id: remedy.id, params: { ...params, [field.name]: [...fitting] } }];
  return fitting.map((index) => ({ id: remedy.id, params: { ...params, [field.name]: index } }));
}
