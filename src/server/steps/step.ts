/**
 * What the ledger can hold. A kind of step is one file and one line in the list: what it is called in a report, and how a
 * recorded one is done again on a new delivery.
 */
import type { Kysely, Transaction } from 'kysely';
import type { Effects } from '../../core/contracts/effects';
import type { Counts } from '../../core/contracts/finding';
import type { RerunRow, Step } from '../../core/contracts/step';
import { briefKey } from '../../core/house/brief';
import type { CharacterRecord } from '../../routes/characters';
import type { Made } from '../../tasks/task';
import type { Database } from '../database';
import type { RunOptions } from '../pool';
import { type NewRevision, type RevisionExtras, addRevision, stale } from '../revisions';

/** A recorded step of one kind. */
export type StepOf<K extends Step['kind']> = Extract<Step, { kind: K }>;

/** Where a recorded step is done again. */
export interface Again {
  readonly db: Kysely<Database>;
  readonly character: CharacterRecord;
  /** The revision that stands. */
  readonly head: string;
  readonly label: string;
  readonly options: StepOptions;
}

/** A kind of step. */
export interface StepKind<K extends Step['kind'] = Step['kind']> {
  readonly kind: K;
  /** What it did, in words for a report. */
  words(step: StepOf<K>): string;
  /** Does a recorded one again. Throws {@link LeftOut} where it is none to be done again, {@link Refused} where it no longer fits. */
  doAgain(again: Again, step: StepOf<K>): Promise<StepDone>;
}

/** Makes a kind of step. */
export const defineStep = <K extends Step['kind']>(kind: StepKind<K>): StepKind<K> => kind;

/** Says why a recorded step is left out. */
export class LeftOut extends Error {
  constructor(
    message: string,
    readonly outcome: RerunRow['outcome'] = 'does not fit',
  ) {
    super(message);
  }
}

/** Names of files, in words. */
export const fileNames = (files: readonly { readonly name: string }[]): string =>
  files.map((file) => file.name).join(', ');

/** What came of a step. */
export interface StepDone {
  readonly revision: { readonly id: string; readonly number: number };
  readonly effects: Effects;
  readonly counts: Counts;
  readonly notes: string[];
  readonly name: string;
  /** What could not be done again, in words; empty for a step that is done for the first time. */
  readonly misfits: readonly string[];
}

/** Throws 409, with both revisions named, where a step was made on a revision that is no longer the head. */
export function guardFresh(character: CharacterRecord, base: string): void {
  if (base === character.head) return;
  const numberOf = (id: string) => character.revisions.find((revision) => revision.id === id)?.number ?? null;
  throw stale(numberOf(base), numberOf(character.head), base, character.head);
}

/** Who is told of a step, who can end it, and what is written along with what came of it. */
export interface StepOptions<D extends StepDone = StepDone> extends RunOptions {
  readonly ended?: (trx: Transaction<Database>, done: D) => Promise<void>;
}

/** What goes along with a step that is kept. */
interface Keeping extends Pick<RevisionExtras, 'along' | 'signal'> {
  readonly misfits?: readonly string[];
  readonly ended?: (trx: Transaction<Database>, done: StepDone) => Promise<void>;
}

/** Keeps what a step made as a new revision on top of `base`. */
export async function keep(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  made: Made,
  more: Pick<NewRevision, 'label' | 'step'> & { kept?: NewRevision['kept'] },
  { misfits = [], ended, ...along }: Keeping,
): Promise<StepDone> {
  const all = { ...made, ...more, brief: briefKey(character.wants) };
  const { effects, audited, notes, name } = made;
  if (!audited) throw new Error('A step came back without its audit.');
  const doneWith = (revision: StepDone['revision']): StepDone => ({
    revision,
    effects,
    counts: audited.counts,
    notes: [...notes],
    name,
    misfits,
  });
  const revision = await addRevision(db, character.id, base, all, {
    ...along,
    ...(ended && { ended: (trx, added) => ended(trx, doneWith(added)) }),
  });
  return doneWith(revision);
}
