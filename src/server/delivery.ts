/**
 * A new delivery of a character that is there: the steps that led to a revision, done again on other files.
 */
import type { Kysely } from 'kysely';
import type { RerunRow, Step, StepFile } from '../core/contracts/step';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { briefKey } from '../core/house/brief';
import { remedyById } from '../core/house/registry';
import type { CharacterRecord, Revision } from '../routes/characters';
import { getBlob, getBlobs } from './blobs';
import type { Database } from './database';
import { type Progress, runTask } from './pool';
import { Refused } from './refused';
import { addDelivery } from './revisions';
import { type StepDone, addFiles, applyEdit, applyRemedy, remapCharacter } from './steps';

/**
 * The revisions from the first of its line to the given one. Throws {@link Refused} where it is none of the
 * character's.
 */
export function lineTo(character: CharacterRecord, revision: string): Revision[] {
  const byId = new Map(character.revisions.map((r) => [r.id, r]));
  const line: Revision[] = [];
  for (let r = byId.get(revision); r; r = r.parent ? byId.get(r.parent) : undefined) line.unshift(r);
  if (line.length === 0)
    throw new Refused('That revision does not belong to this character; reload the page.', 404);
  return line;
}

/** The files of a new delivery, and how they are read. */
export interface Delivery {
  readonly files: InputFile[];
  readonly options: ReadOptions;
  readonly listed: StepFile[];
}

/**
 * Begins a line of its own with the files, and does the steps of `line` again on it, with what they name
 * found by name. A step that no longer fits is left out and told, with the reason. Broken off, what came so
 * far is in the ledger, with its rows.
 */
export async function deliverAgain(
  db: Kysely<Database>,
  character: CharacterRecord,
  line: readonly Revision[],
  { files, options, listed }: Delivery,
  say: (p: Progress) => void,
  signal: AbortSignal,
) {
  const base = line[line.length - 1];
  const made = await runTask(
    'import',
    { files, options, brief: character.wants },
    { onProgress: (p) => say({ stage: p.stage, share: p.share * 0.5 }), signal, giving: true },
  );
  const step: Step = { kind: 'delivery', files: listed, notes: [...made.notes], after: base.number };
  const first = await addDelivery(
    db,
    character.id,
    base.id,
    {
      ...made,
      brief: briefKey(character.wants),
      label: 'delivered anew',
      step,
    },
    signal,
  );
  const rows: RerunRow[] = [];
  const again = line.slice(1);
  let head = first.id;
  try {
    for (const [k, r] of again.entries()) {
      if (signal.aborted)
        throw new Refused(
          `Cancelled: ${rows.length} of ${again.length} steps were done again, and are in the ledger.`,
          499,
        );
      say({ stage: `doing again: ${r.label}`, share: 0.5 + 0.5 * (k / again.length) });
      const done = await redoStep(db, character, r, head, signal);
      rows.push(done.row);
      head = done.head;
    }
  } finally {
    await db
      .updateTable('revisions')
      .set({ step: JSON.stringify({ ...step, rows }) })
      .where('id', '=', first.id)
      .execute();
  }
  return { name: made.name, notes: [...made.notes], rows, from: base.number };
}

/** Says why a recorded step is left out. */
class LeftOut extends Error {
  constructor(
    message: string,
    readonly outcome: RerunRow['outcome'] = 'does not fit',
  ) {
    super(message);
  }
}

/** One recorded step on the revision that stands; what became of it, and which revision stands now. */
async function redoStep(
  db: Kysely<Database>,
  character: CharacterRecord,
  recorded: Revision,
  head: string,
  signal: AbortSignal,
): Promise<{ row: RerunRow; head: string }> {
  const { label } = recorded;
  try {
    const { revision, misfits } = await doAgain(db, character, recorded, head, signal);
    const row: RerunRow =
      misfits.length > 0
        ? { label, outcome: 'in part', why: misfits.join('; ') }
        : { label, outcome: 'done' };
    return { row, head: revision.id };
  } catch (error) {
    if (error instanceof LeftOut) return { row: { label, outcome: error.outcome, why: error.message }, head };
    if (!(error instanceof Refused) || error.status === 409 || error.status === 499) throw error;
    const outcome = error.body.needless ? 'not needed' : 'does not fit';
    return { row: { label, outcome, why: error.message }, head };
  }
}

async function doAgain(
  db: Kysely<Database>,
  character: CharacterRecord,
  { step, label }: Revision,
  head: string,
  signal: AbortSignal,
): Promise<StepDone> {
  switch (step.kind) {
    case 'import':
    case 'delivery':
    case 'copy':
      throw new LeftOut('it began a line', 'not needed');
    case 'add': {
      const files = await keptFiles(db, step.files);
      if (!files || !step.read) {
        const names = step.files.map((f) => f.name).join(', ');
        throw new LeftOut(`its files are not kept here; add ${names} again by hand`);
      }
      const { read, unit } = step;
      return addFiles(db, character, head, { files, listed: step.files, read, unit, label }, { signal });
    }
    case 'remap': {
      const { crosswalk, limit, how, motion, skeletonOf } = step;
      const isRevision = /^[0-9a-f]{8}-/.test(step.target);
      const skeleton = isRevision ? { revision: step.target } : { id: step.target, skeletonOf };
      const target = { title: step.target, ...skeleton };
      const again = { target, crosswalk, limit, how, motion, label };
      return remapCharacter(db, character, head, again, { signal });
    }
    case 'remedy': {
      const { remedy, params, names = {} } = step;
      if (!remedyById(remedy)) throw new LeftOut(`the remedy “${remedy}” is not known any more`);
      return applyRemedy(db, character, head, { remedy, params, names, label }, { signal });
    }
    case 'edit': {
      const patches = await getBlob(db, step.patch);
      if (!patches) throw new LeftOut('what the hand did is not kept here; do it again by hand');
      return applyEdit(db, character, head, { patches, names: step.names, label }, { signal });
    }
  }
}

async function keptFiles(db: Kysely<Database>, listed: readonly StepFile[]): Promise<InputFile[] | null> {
  const kept = await getBlobs(
    db,
    listed.map((f) => f.sha256),
  );
  const files = listed.flatMap((f) => {
    const bytes = kept.get(f.sha256);
    return bytes ? [{ name: f.name, bytes }] : [];
  });
  return files.length === listed.length ? files : null;
}
