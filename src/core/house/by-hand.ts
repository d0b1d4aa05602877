/**
 * What can be done with what is chosen: every remedy one of whose references fits it, whether or not a finding asks for
 * it. It follows from the metadata of the parameters alone, so that a new remedy is there by itself.
 */
import type { Character } from '../character/model';
import type { RemedyCall } from '../contracts/finding';
import { type Field, type RefKind, fieldsOf } from '../contracts/params';
import type { Params, Remedy } from '../contracts/remedy';
import type { Brief } from './brief';
import { REMEDIES } from './registry';

/** What is chosen: nodes of the character, bones and others alike. */
export type ChosenNodes = readonly number[];

/** A remedy that fits what is chosen. */
export interface RemedyByHand {
  readonly remedy: Remedy<Params, Brief>;
  /** The reference that takes what is chosen; null for a remedy that is about the whole character. */
  readonly field: Field | null;
  /** Indices that fit the reference, as it counts them: nodes, or skins. */
  readonly fitting: readonly number[];
  /** Other references, which are asked for. */
  readonly alsoAsked: readonly Field[];
}

/** The indices of a character that a reference of a kind may be. */
export function candidatesOf({ nodes, skins }: Character, kind: RefKind): number[] {
  if (kind === 'skin') return skins.map((_, i) => i);
  return nodes.flatMap((node, i) => {
    if (kind === 'bone') return node.kind === 'bone' ? [i] : [];
    return kind === 'node' || node.mesh >= 0 ? [i] : [];
  });
}

/** What of a choice fits a kind of reference. */
function fittingOf(character: Character, chosen: ChosenNodes, kind: RefKind): number[] {
  if (kind === 'skin')
    return [...new Set(chosen.map((node) => character.nodes[node].skin))].filter((skin) => skin >= 0);
  const candidates = new Set(candidatesOf(character, kind));
  return chosen.filter((node) => candidates.has(node));
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
  return fields.every(({ name, kind, isList, isOptional }) => {
    const hasField = kind === 'ref' || (kind !== 'other' && !isList);
    return hasField || isOptional || defaults[name] !== undefined;
  });
}

/**
 * The remedies that fit a choice, those of the room first; for an empty choice those that are about the whole character.
 */
export function remediesByHand(character: Character, chosen: ChosenNodes, room: string): RemedyByHand[] {
  const offers = REMEDIES.flatMap((remedy): RemedyByHand[] => {
    const fields = fieldsOf(remedy.params);
    if (!canBeAsked(remedy, fields)) return [];
    const [field, ...alsoAsked] = fields.filter(({ kind }) => kind === 'ref');
    // One that may be about some of them is about all where none is chosen.
    if (chosen.length === 0)
      return !field || (field.isList && field.isOptional)
        ? [{ remedy, field: null, fitting: [], alsoAsked: [] }]
        : [];
    if (!field) return [];
    const fitting = field.ref ? fittingOf(character, chosen, field.ref) : [];
    return fitting.length > 0 ? [{ remedy, field, fitting, alsoAsked }] : [];
  });
  const isHere = ({ remedy }: RemedyByHand) => remedy.room === room;
  return [...offers.filter(isHere), ...offers.filter((offer) => !isHere(offer))];
}

/** The calls that do a remedy to all that fits: one that takes a list, or one for each. */
export function callsByHand({ remedy, field, fitting }: RemedyByHand, values: Params): RemedyCall[] {
  if (!field) return [{ id: remedy.id, params: values }];
  if (field.isList) return [{ id: remedy.id, params: { ...values, [field.name]: [...fitting] } }];
  return fitting.map((index) => ({ id: remedy.id, params: { ...values, [field.name]: index } }));
}
