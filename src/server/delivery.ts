/**
 * A new delivery of a character that is there: the steps that led to a revision, done again on other files.
 */
import type { Kysely, Transaction } from 'kysely';
import type { RerunRow, Step, StepFile } from '../core/contracts/step';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { briefKey } from '../core/house/brief';
import type { CharacterRecord, Revision } from '../routes/characters';
import type { Database } from './database';
import { type RunOptions, runTask } from './pool';
import { Refused } from './refused';
import { addDelivery, moveHead, wireOf } from './revisions';
import { LeftOut, type StepDone, doStepAgain } from './steps';

/**
 * The revisions from the first of its line to the given one. Throws {@link Refused} where it is none of the
 * character's.
 */
export function lineTo(character: CharacterRecord, revision: string): Revision[] {
  const byId = new Map(character.revisions.map((revision) => [revision.id, revision]));
  const line: Revision[] = [];
  for (
    let ancestor = byId.get(revision);
    ancestor;
    ancestor = ancestor.parent ? byId.get(ancestor.parent) : undefined
  )
    line.unshift(ancestor);
  if (line.length === 0)
    throw new Refused('That revision does not belong to this character; reload the page.', 404);
  return line;
}

/** The files of a new delivery, and how they are read. */
export interface DeliveredFiles {
  readonly files: InputFile[];
  readonly options: ReadOptions;
  readonly listed: StepFile[];
}

type DeliveryStep = Extract<Step, { kind: 'delivery' }>;

/** What came of a delivery. */
export interface Delivered {
  readonly name: string;
  readonly notes: string[];
  readonly rows: RerunRow[];
  /** Number of the revision that it was made from. */
  readonly from: number;
}

type Trx = Transaction<Database>;

/** Who is told of a delivery, who can end it, and what is written along with what it keeps. */
export interface DeliveryOptions extends RunOptions {
  /** Written with the last of it. */
  readonly ended: (trx: Trx, delivered: Delivered) => Promise<void>;
  /** Takes part in every transaction before that; throws where the delivery is another's meanwhile. */
  readonly stillMine: (trx: Trx) => Promise<void>;
  /** Takes part where it is set back; throws where another goes on with it from where it stands. */
  readonly notOthers: (trx: Trx) => Promise<void>;
}

/**
 * Begins a line of its own with the files, and does the steps of `line` again on it, with what they name found by
 * name. A step that no longer fits is left out and told, with the reason. Broken off, the line stands aside in the
 * ledger, told by what is left of it, and the character is where it was; {@link goOnWithDelivery} goes on with it.
 * @param asked an id of what was asked for; begun again with the same one, it goes on
 */
export async function deliverAgain(
  db: Kysely<Database>,
  character: CharacterRecord,
  line: readonly Revision[],
  { files, options: read, listed }: DeliveredFiles,
  asked: string,
  options: DeliveryOptions,
): Promise<Delivered> {
  const begunBefore = character.revisions.find(
    (revision) => revision.step.kind === 'delivery' && revision.step.asked === asked,
  );
  if (begunBefore) return goOnWithDelivery(db, character, begunBefore.id, options);
  const base = line[line.length - 1];
  const { onProgress, signal, bounds } = options;
  const made = await runTask(
    'import',
    { files, options: read, brief: character.wants, setsOf: await wireOf(db, line[0].id) },
    {
      onProgress: (progress) => onProgress?.({ stage: progress.stage, share: progress.share * 0.5 }),
      signal,
      bounds,
      giving: true,
    },
  );
  const step: DeliveryStep = {
    kind: 'delivery',
    files: listed,
    notes: [...made.notes],
    after: base.number,
    again: line.slice(1).map((row) => row.id),
    rows: [],
    asked,
  };
  const first = await addDelivery(
    db,
    character.id,
    base.id,
    { ...made, brief: briefKey(character.wants), label: 'delivered anew', step },
    { ended: options.stillMine, signal },
  );
  return doStepsAgain(
    db,
    character,
    { id: first.id, name: made.name, step, head: first.id, back: base.id },
    {
      ...options,
      onProgress: (progress) => onProgress?.({ ...progress, share: 0.5 + progress.share * 0.5 }),
    },
  );
}

/** A delivery on which steps are being done again. */
interface Begun {
  /** The revision that it began with, its step, and the last one that it has come to. */
  readonly id: string;
  readonly step: DeliveryStep;
  readonly name: string;
  readonly head: string;
  /** Where the character stands again if it is broken off. */
  readonly back: string;
}

/**
 * Goes on with a delivery that was broken off, from where it had come to. Throws {@link Refused} where it is none of
 * the character's.
 */
export async function goOnWithDelivery(
  db: Kysely<Database>,
  character: CharacterRecord,
  revision: string,
  options: DeliveryOptions,
): Promise<Delivered> {
  const found = character.revisions.find((candidate) => candidate.id === revision);
  if (found?.step.kind !== 'delivery')
    throw new Refused('That delivery does not belong to this character; reload the page.', 404);
  const { step } = found;
  const last = lastOf(character, found);
  const isInside = lineTo(character, character.head).some((row) => row.id === found.id);
  const before = character.revisions.find((revision) => revision.number === step.after)?.id ?? character.head;
  const back = isInside ? before : character.head;
  if (last.id !== character.head)
    await moveHead(db, character.id, character.head, last.id, options.stillMine);
  return doStepsAgain(
    db,
    character,
    { id: found.id, name: character.name, step, head: last.id, back },
    options,
  );
}

/** The newest revision of the line that begins with a delivery. */
function lastOf(character: CharacterRecord, first: Revision): Revision {
  let last = first;
  for (;;) {
    const next = character.revisions
      .filter((revision) => revision.parent === last.id)
      .sort((a, b) => b.number - a.number)[0];
    if (!next) return last;
    last = next;
  }
}

/** Does the steps of a delivery again that are left; each is kept in one transaction with its row. */
async function doStepsAgain(
  db: Kysely<Database>,
  character: CharacterRecord,
  { id, step, name, head: from, back }: Begun,
  options: DeliveryOptions,
): Promise<Delivered> {
  const { onProgress, signal, stillMine } = options;
  let rows: readonly RerunRow[] = step.rows ?? [];
  const again = step.again ?? [];
  const byId = new Map(character.revisions.map((revision) => [revision.id, revision]));
  const keepRow = async (trx: Trx, row: RerunRow) => {
    await stillMine(trx);
    await trx
      .updateTable('revisions')
      .set({ step: JSON.stringify({ ...step, rows: [...rows, row] }) })
      .where('id', '=', id)
      .execute();
  };
  let head = from;
  try {
    for (const recorded of again.slice(rows.length)) {
      if (signal?.aborted) throw new Refused('The delivery was broken off.', 499);
      const revision = byId.get(recorded);
      if (!revision) throw new Refused('A step of the line is not there any more; reload the page.', 404);
      onProgress?.({ stage: `doing again: ${revision.label}`, share: rows.length / again.length });
      const done = await redoStep(db, character, revision, head, keepRow, options);
      head = done.head;
      rows = [...rows, done.row];
    }
    const delivered = { name, notes: step.notes, rows: [...rows], from: step.after };
    await db.transaction().execute((trx) => options.ended(trx, delivered));
    return delivered;
  } catch (error) {
    // Half a line is no place to go on from: the character stands where it stood, the delivery beside it.
    await moveHead(db, character.id, head, back, options.notOthers).catch(() => {});
    if (!(error instanceof Refused)) throw error;
    throw new Refused(
      `Broken off after ${rows.length} of ${again.length} steps; the delivery stands aside in the ledger, where it can go on.`,
      error.status,
      error.body,
    );
  }
}

/** One recorded step on the revision that stands; what became of it, and which revision stands now. */
async function redoStep(
  db: Kysely<Database>,
  character: CharacterRecord,
  recorded: Revision,
  head: string,
  keepRow: (trx: Trx, row: RerunRow) => Promise<void>,
  { signal, bounds }: DeliveryOptions,
): Promise<{ row: RerunRow; head: string }> {
  const { label } = recorded;
  const rowOf = ({ misfits }: StepDone): RerunRow =>
    misfits.length > 0 ? { label, outcome: 'in part', why: misfits.join('; ') } : { label, outcome: 'done' };
  const ended = (trx: Trx, done: StepDone) => keepRow(trx, rowOf(done));
  const leave = async (outcome: RerunRow['outcome'], why: string) => {
    const row: RerunRow = { label, outcome, why };
    await db.transaction().execute((trx) => keepRow(trx, row));
    return { row, head };
  };
  try {
    const options = { signal, bounds, ended };
    const done = await doStepAgain({ db, character, head, label, options }, recorded.step);
    return { row: rowOf(done), head: done.revision.id };
  } catch (error) {
    if (error instanceof LeftOut) return leave(error.outcome, error.message);
    if (!(error instanceof Refused) || error.status === 409 || error.status === 499) throw error;
    return leave(error.body.needless ? 'not needed' : 'does not fit', error.message);
  }
}
