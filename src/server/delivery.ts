/** A new delivery of a character that is there: the steps that led to a revision, done again on other files. */
import type { Kysely } from 'kysely';
import { remedyById } from '../core/house/registry';
import type { RerunRow, Step, StepFile } from '../core/contracts/step';
import type { ReadOptions } from '../core/formats';
import type { InputFile } from '../core/formats/errors';
import { getBlobs } from './blobs';
import { addDelivery, addRevision, characterById, wireOf } from './characters';
import type { Database } from './database';
import { type Progress, Refused, onThread } from './pool';

type Character = Awaited<ReturnType<typeof characterById>>;
type Revision = Character['revisions'][number];

/** The revisions from the first of its line to the given one. Throws {@link Refused} where it is none of the character's. */
export function lineTo(character: Character, revision: string): Revision[] {
  const line: Revision[] = [];
  for (
    let r = character.revisions.find((x) => x.id === revision);
    r;
    r = character.revisions.find((x) => x.id === r?.parent)
  )
    line.unshift(r);
  if (line.length === 0)
    throw new Refused('That revision does not belong to this character; reload the page.', 404);
  return line;
}

/** What adding files made of a character, with what it takes to do the same on another delivery: the step keeps the files and how they were read. */
export async function added(
  db: Kysely<Database>,
  brief: string,
  base: string,
  files: InputFile[],
  read: ReadOptions,
  listed: StepFile[],
  unit: string,
  options: { onProgress?: (p: Progress) => void; signal?: AbortSignal },
) {
  const made = await onThread(
    { task: 'add', wire: await wireOf(db, base), files, options: read, brief },
    options,
  );
  const step: Step = { kind: 'add', files: listed, notes: [...made.notes], unit, read };
  return {
    made,
    revision: {
      ...made,
      brief,
      label: `added ${made.name}`,
      step,
      kept: new Map(listed.map((f, i) => [f.sha256, files[i].bytes])),
    },
  };
}

/**
 * Begins a line of its own with the files, and does the steps of `line` again on it, with what they name found by name. A step
 * that no longer fits is left out and told, with the reason. Broken off, what came so far is in the ledger, with its rows.
 */
export async function redelivered(
  db: Kysely<Database>,
  character: Character,
  line: readonly Revision[],
  files: InputFile[],
  read: ReadOptions,
  listed: StepFile[],
  say: (p: Progress) => void,
  signal: AbortSignal,
) {
  const base = line[line.length - 1];
  const made = await onThread(
    { task: 'import', files, options: read, brief: character.brief },
    { onProgress: (p) => say({ stage: p.stage, share: p.share * 0.5 }), signal, giving: true },
  );
  const step: Step = { kind: 'delivery', files: listed, notes: [...made.notes], after: base.number };
  const first = await addDelivery(db, character.id, base.id, {
    ...made,
    brief: character.brief,
    label: 'delivered anew',
    step,
  });
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
      const done = await once(db, character, r, head, signal);
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
  return { name: made.name, notes: made.notes, rows, from: base.number };
}

/** One recorded step on the revision that stands; what became of it, and which revision stands now. */
async function once(
  db: Kysely<Database>,
  character: Character,
  r: Revision,
  head: string,
  signal: AbortSignal,
): Promise<{ row: RerunRow; head: string }> {
  const recorded = r.step as Step;
  const { brief } = character;
  const left = (why: string, outcome: RerunRow['outcome'] = 'does not fit') => ({
    row: { label: r.label, outcome, why },
    head,
  });
  const onTop = async (revision: Parameters<typeof addRevision>[3]) => ({
    row: { label: r.label, outcome: 'done' as const },
    head: (await addRevision(db, character.id, head, revision)).id,
  });
  try {
    switch (recorded.kind) {
      case 'import':
      case 'delivery':
      case 'copy':
        return left('it began a line', 'not needed');
      case 'add': {
        const kept = await getBlobs(
          db,
          recorded.files.map((f) => f.sha256),
        );
        const files = recorded.files.flatMap((f) => {
          const bytes = kept.get(f.sha256);
          return bytes ? [{ name: f.name, bytes }] : [];
        });
        if (files.length < recorded.files.length || !recorded.read)
          return left(
            `its files are not kept here; add ${recorded.files.map((f) => f.name).join(', ')} again by hand`,
          );
        const again = await added(db, brief, head, files, recorded.read, recorded.files, recorded.unit, {
          signal,
        });
        return await onTop({ ...again.revision, label: r.label });
      }
      case 'remap': {
        const target = /^[0-9a-f]{8}-/.test(recorded.target)
          ? { wire: await wireOf(db, recorded.target) }
          : { id: recorded.target };
        const made = await onThread(
          {
            task: 'remap',
            wire: await wireOf(db, head),
            target,
            crosswalk: recorded.crosswalk,
            limit: recorded.limit,
          },
          { signal },
        );
        return await onTop({
          ...made,
          label: r.label,
          step: {
            ...recorded,
            notes: [...made.notes],
            proof: (made.effects as { deviation?: { max: number; rms: number; p95: number } }).deviation,
          },
        });
      }
      case 'remedy': {
        if (!remedyById(recorded.remedy))
          return left(`the remedy “${recorded.remedy}” is not known any more`);
        const made = await onThread(
          {
            task: 'again',
            wire: await wireOf(db, head),
            brief,
            remedy: recorded.remedy,
            params: recorded.params,
            names: recorded.names ?? {},
          },
          { signal },
        );
        return await onTop({
          ...made,
          brief,
          label: r.label,
          step: { kind: 'remedy', remedy: recorded.remedy, params: recorded.params, names: made.names },
        });
      }
    }
  } catch (error) {
    if (!(error instanceof Refused) || error.status === 409 || error.status === 499) throw error;
    return left(error.message, error.body.needless ? 'not needed' : 'does not fit');
  }
}
