import type { AnyObjectSchema, InferType } from 'yup';
import type { Character } from '../character/model';
import { withSetsOf } from '../character/sets';
import { STILL, type Similarity } from '../character/similarity';
import type { BriefBase } from './brief';
import type { Aspect } from './aspect';
import type { RoomId } from './rooms';

export type Params = Record<string, unknown>;

/** A number or a word that one state of a character has. */
export interface Row {
  readonly label: string;
  readonly value: number | string;
  readonly unit: string;
}

/**
 * What a step promises: only `changes` differ afterwards; the whole world goes through `similarity`; and of
 * what is shown by nodes that are not `meant`, nothing else moves, in every pose or at rest.
 */
export interface Promised {
  readonly changes: ReadonlySet<Aspect>;
  readonly similarity: Similarity;
  /** Nodes that show a mesh and change on purpose. */
  readonly meant: ReadonlySet<number>;
  readonly holds: 'in every pose' | 'at rest';
}

/** A promise: these parts change, and nothing that is seen moves but what is said. */
export const promise = (
  changes: readonly Aspect[],
  more: Partial<Omit<Promised, 'changes' | 'meant'>> & { readonly meant?: Iterable<number> } = {},
): Promised => ({
  similarity: STILL,
  holds: 'in every pose',
  ...more,
  changes: new Set(changes),
  meant: new Set(more.meant ?? []),
});

/** A fix with parameters. `P` are its parameters, `B` what it reads of a brief. */
export interface Remedy<P = Params, B extends BriefBase = BriefBase> {
  readonly id: string;
  readonly room: RoomId;
  readonly title: string;
  readonly does: string;
  /** Its parameters; form, command line and doing again read their metadata. */
  readonly params: AnyObjectSchema;
  /**
   * The character with the fix; every array it did not touch is the same object. Throws RemedyError with one
   * sentence.
   */
  apply(character: Character, params: P, brief: B): Character;
  /** The numbers of one state that the remedy is about; a preview is those before beside those after. */
  rows(character: Character, params: P, brief: B): Row[];
  /** What may change and what may not. Throws RemedyError where it cannot be applied. */
  promises(character: Character, params: P, brief: B): Promised;
  /** Title and what it does for these parameters, where they make a difference. */
  says?(params: P): { readonly title: string; readonly does: string };
  /**
   * In which order it is done to many nodes: those below before those above where what one gives may arrive at another
   * that gives as well. As they are named where nothing is said.
   */
  readonly order?: 'below first';
  /** References that `rows` can do without: −1 where the step itself took away what they meant. */
  readonly rowsWithout?: readonly string[];
  /** It computes for seconds: a page previews it on another thread than what follows the hand. */
  readonly takesSeconds?: true;
}

/** Makes a remedy. A new one is one file and one line in its room's list. */
export function defineRemedy<S extends AnyObjectSchema, B extends BriefBase = BriefBase>(remedy: {
  readonly id: string;
  readonly room: RoomId;
  readonly title: string;
  readonly does: string;
  readonly params: S;
  apply(character: Character, params: InferType<S>, brief: B): Character;
  rows(character: Character, params: InferType<S>, brief: B): Row[];
  promises(character: Character, params: InferType<S>, brief: B): Promised;
  says?(params: InferType<S>): { readonly title: string; readonly does: string };
  readonly order?: 'below first';
  readonly rowsWithout?: readonly string[];
  readonly takesSeconds?: true;
}): Remedy<InferType<S>, B> {
  // What a step renumbers, sets follow by themselves.
  const apply = (character: Character, params: InferType<S>, brief: B): Character =>
    withSetsOf(character, remedy.apply(character, params, brief));
  return { ...remedy, apply };
}

/** A remedy that cannot be applied as asked; the message says why and what to do. */
export class RemedyError extends Error {}

/** A remedy that finds nothing to do: the character is already as it would make it. */
export class NothingToDo extends RemedyError {}
