import type { AnyObjectSchema, InferType } from 'yup';
import type { BodyKind } from '../character/body-kinds';
import type { Character } from '../character/model';
import type { BriefBase } from './brief';
import type { Finding, Subject } from './finding';
import type { Aspect } from './aspect';
import type { HandedMotion } from './handed-motion';
import type { RoomId } from './rooms';

/**
 * What a check says of one thing; {@link defineCheck} fills in the rest. `mark` tells apart two answers on
 * one subject.
 */
export type Found = Partial<Omit<Finding, 'check' | 'room' | 'why' | 'key'>> &
  Pick<Finding, 'gravity' | 'subject' | 'message' | 'measured' | 'expected'> & { readonly mark?: string };

/** A measured value: a number in the unit of its setting, a word, a list; null for nothing. */
export type Measured = number | string | readonly object[] | object | null;

/**
 * One pure question asked of a character under a brief. `S` are its settings: the part of the brief that it
 * reads.
 */
export interface Check<S extends object = object> {
  readonly id: string;
  readonly room: RoomId;
  readonly title: string;
  readonly why: string;
  /** What to do about a finding for which there is no remedy. */
  readonly advice?: string;
  /** Reasons for which its findings are accepted as they are, offered to whoever waives one. */
  readonly waiverReasons?: readonly string[];
  /** The room where it is mended, where that is another one than its own. */
  readonly leadsTo?: RoomId;
  /** The kinds of bodies that it speaks for; all where it does not say. It is not asked of the others. */
  readonly kinds?: readonly BodyKind[];
  /** It moves the figure, which takes seconds: it is asked apart from the others. */
  readonly isInMotion?: boolean;
  /** It holds a figure against what of it was handed over last, and says nothing where that is not known. */
  readonly isSinceHandedOver?: boolean;
  /** Its part of the brief. A field that two checks read is one and the same schema. */
  readonly settings: AnyObjectSchema;
  /**
   * The aspects of a character that its answer follows from: while none of them changes, the answer stays.
   */
  readonly reads: readonly Aspect[];
  run(character: Character, settings: S & BriefBase, handed?: HandedMotion | null): Finding[];
  /**
   * What it measures of a character, by the paths of the settings that it is held against and in their
   * units; null where there is nothing to measure. Forms show it, and a brief is learned from it.
   */
  measures?(character: Character): Readonly<Record<string, Measured>>;
}

/**
 * Makes a check. A new one is one file and one line in its room's list.
 *
 * @example
 * export const flatCheck = defineCheck({
 *   id: 'flat', room: 'surface', title: 'Not flat', why: 'Paper dolls have no sides.',
 *   settings: object({ thinnest: number().min(0).default(0.001).label('Thinnest body, metres') }),
 *   reads: ['points', 'places', 'tree', 'shows'],
 *   run: (character, { thinnest }) => …,
 * });
 */
export function defineCheck<S extends AnyObjectSchema>(
  check: Omit<Check, 'run' | 'settings'> & {
    readonly settings: S;
    run(
      character: Character,
      settings: InferType<S> & BriefBase,
      handed?: HandedMotion | null,
    ): readonly Found[];
  },
): Check<InferType<S>> {
  return {
    ...check,
    run: (character, settings, handed) =>
      check.run(character, settings, handed).map((found) => completeFinding(check, found)),
  };
}

/** There is one character; it is called after its file, which every delivery may name otherwise. */
const nameInKey = ({ kind, name }: Subject): string => (kind === 'character' ? '' : name);

/** A finding of a check, with what it does not say filled in. */
export function completeFinding(
  check: Pick<Check, 'id' | 'room' | 'why'>,
  { mark = '', ...found }: Found,
): Finding {
  const elements = found.elements ?? [];
  return {
    check: check.id,
    room: check.room,
    why: check.why,
    unit: '',
    evidence: [],
    remedies: [],
    count: elements.reduce((sum, element) => sum + element.ids.length, 0),
    key: [check.id, found.subject.kind, nameInKey(found.subject), mark].filter(Boolean).join('/'),
    ...found,
    elements,
  };
}
