/**
 * Steps: what makes a new revision out of one that is there. Used by routes, and by doing a line again on a
 * new delivery.
 */
import type { Kysely, Transaction } from 'kysely';
import { fingerprintOf } from '../core/anatomy/skeleton';
import { OWN_SKELETON, skeletonWanted } from '../core/anatomy/skeletons/wanted';
import { type Effects } from '../core/contracts/effects';
import type { Counts } from '../core/contracts/finding';
import type { Params } from '../core/contracts/remedy';
import type { NamedParams, Step, StepFile, MoveHow } from '../core/contracts/step';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { briefKey } from '../core/house/brief';
import { remedyById } from '../core/house/registry';
import type { CharacterRecord } from '../routes/characters';
import type { Made } from '../worker/task';
import type { WalkSaid } from '../worker/tasks/remap';
import { earlierAudit } from './audits';
import { hashOf } from './blobs';
import { briefByKey } from './briefs';
import { crosswalksOnto, saveCrosswalk } from './crosswalks';
import type { Database } from './database';
import { type RunOptions, runTask } from './pool';
import { Refused } from './refused';
import { type RevisionExtras, type NewRevision, addRevision, stale, wireOf } from './revisions';

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

async function keep(
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

/** A remedy to be applied. */
export interface RemedyStep {
  readonly remedy: string;
  readonly params: Params;
  readonly label?: string;
  /** Given where a recorded step is done again: what its indices stood for. */
  readonly names?: NamedParams;
}

/** Applies a remedy on top of `base`. Throws {@link Refused}. */
export async function applyRemedy(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { remedy: id, params, label, names }: RemedyStep,
  options: StepOptions = {},
): Promise<StepDone> {
  const remedy = remedyById(id);
  if (!remedy) throw new Refused(`There is no remedy “${id}”.`, 400);
  const wire = await wireOf(db, base);
  const earlier = await earlierAudit(db, base, briefKey(character.wants));
  const made = await runTask(
    'remedy',
    { wire, brief: character.wants, remedy: id, params, names, earlier },
    options,
  );
  const step: Step = { kind: 'remedy', remedy: id, params: made.params, names: made.names };
  const title = (remedy.says?.(made.params) ?? remedy).title.toLowerCase();
  return keep(
    db,
    character,
    base,
    made,
    { label: label || title, step },
    { misfits: made.misfits, ...options },
  );
}

/** What the hand did, to be kept. */
export interface EditStep {
  /** A bundle of patches. */
  readonly patches: Uint8Array;
  readonly label?: string;
  readonly names?: readonly NamedParams[];
}

/** Keeps what the hand did on top of `base` as one step. Throws {@link Refused}. */
export async function applyEdit(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { patches, label, names }: EditStep,
  options: StepOptions = {},
): Promise<StepDone> {
  const wire = await wireOf(db, base);
  const earlier = await earlierAudit(db, base, briefKey(character.wants));
  const made = await runTask('edit', { wire, brief: character.wants, patches, names, earlier }, options);
  const patch = hashOf(made.patch);
  const step: Step = { kind: 'edit', title: made.title, patch, names: [...made.names] };
  const kept = new Map([[patch, made.patch]]);
  return keep(
    db,
    character,
    base,
    made,
    { label: label || made.title, step, kept },
    { misfits: made.misfits, ...options },
  );
}

/** Weights to be moved onto another skeleton. */
export interface RemapStep {
  readonly target: {
    readonly id?: string;
    readonly revision?: string;
    readonly title: string;
    /** The brief, as id@version, whose own skeleton it is; absent for the one of the character. */
    readonly skeletonOf?: string;
  };
  /** Absent: what was saved for this skeleton or one nearly like it, else what is suggested. */
  readonly crosswalk?: unknown;
  readonly limit: number;
  readonly how?: MoveHow;
  /** A revision whose clips are examples for the weights as well. */
  readonly motion?: string;
  readonly label?: string;
}

/** As weights were moved before there was a choice. */
const PLAIN: MoveHow = { mode: 'target', lengths: 'kept', weights: 'rules' };

/** What came of a move, and how its crosswalk came about. */
export type WeightsMoved = StepDone & { readonly walk: WalkSaid };

/** Moves the weights onto another skeleton on top of `base`. Throws {@link Refused}. */
export async function remapCharacter(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { target, crosswalk, limit, how = PLAIN, motion, label }: RemapStep,
  options: StepOptions<WeightsMoved> = {},
): Promise<WeightsMoved> {
  const name = target.revision ?? target.id;
  const giver = target.skeletonOf ? await briefByKey(db, target.skeletonOf) : character.wants;
  const ours = target.id
    ? skeletonWanted({ skeleton: target.id, ownSkeleton: giver.ownSkeleton })
    : undefined;
  const saved = crosswalk === undefined && ours ? await crosswalksOnto(db, fingerprintOf(ours)) : [];
  if (!name) throw new Refused('The step names no skeleton to map to.', 400);
  const made = await runTask(
    'remap',
    {
      wire: await wireOf(db, base),
      brief: character.wants,
      target: target.revision ? { wire: await wireOf(db, target.revision) } : { id: name, brief: giver },
      ...(crosswalk === undefined ? { saved } : { crosswalk }),
      limit,
      how,
      ...(motion && { motion: await wireOf(db, motion) }),
    },
    options,
  );
  const { deviation: proof, price } =
    made.effects.kind === 'remapped' ? made.effects : { deviation: undefined, price: undefined };
  const { crosswalk: file, notes } = made;
  const step: Step = {
    kind: 'remap',
    target: name,
    ...(name === OWN_SKELETON && { skeletonOf: briefKey(giver) }),
    limit,
    how,
    ...(motion && { motion }),
    crosswalk: file,
    notes: [...notes],
    proof,
    price,
  };
  const words = { label: label || `moved to ${target.title}`, step };
  const { ended, signal } = options;
  const done = await keep(db, character, base, made, words, {
    along: (trx) => saveCrosswalk(trx, file),
    ...(ended && { ended: (trx, step) => ended(trx, { ...step, walk: made.walk }) }),
    signal,
  });
  return { ...done, walk: made.walk };
}

/** Files to be added. */
export interface AddStep {
  readonly files: InputFile[];
  readonly listed: StepFile[];
  readonly read: ReadOptions;
  /** The unit that the files were read in, in words. */
  readonly unit: string;
  readonly label?: string;
}

/**
 * Adds files on top of `base`; they are kept with the step, so that it can be done again. Throws {@link
 * Refused}.
 */
export async function addFiles(
  db: Kysely<Database>,
  character: CharacterRecord,
  base: string,
  { files, listed, read, unit, label }: AddStep,
  options: StepOptions = {},
): Promise<StepDone> {
  const wire = await wireOf(db, base);
  const made = await runTask('add', { wire, files, options: read, brief: character.wants }, options);
  const step: Step = { kind: 'add', files: listed, notes: [...made.notes], unit, read };
  const kept = new Map(listed.map((file, i) => [file.sha256, files[i].bytes]));
  return keep(db, character, base, made, { label: label || `added ${made.name}`, step, kept }, options);
}
