/** Dockets: what was handed over, kept once and for all. */
import { randomUUID } from 'node:crypto';
import { type Kysely, type Transaction, sql } from 'kysely';
import type { HandedMotion } from '../core/contracts/handed-motion';
import { docketIn } from '../core/house/docket';
import { bendsWorseCheck } from '../core/rooms/trials/checks/bends-worse';
import type { Receiver } from '../core/rooms/docket/receivers';
import { briefKey } from '../core/house/brief';
import type { DocketEntry } from '../routes/dockets';
import type { HandedOverAnswer } from '../routes/jobs';
import { type Db, getBlob, putBlob } from './blobs';
import { characterById } from './characters';
import { type Database, lockForKeeping } from './database';
import { lineTo } from './delivery';
import { fileStem } from './file-names';
import { houseKey, signDocket } from './house-key';
import { type RunOptions, runTask } from './pool';
import { Refused } from './refused';
import { factsOf } from './report-facts';
import { wireOf } from './revisions';
import { tellAll } from './told';
import { standing, today } from './waivers';

/** All dockets, or those of a character; the newest first. */
export async function listDockets(db: Db, character?: string): Promise<DocketEntry[]> {
  const all = db.selectFrom('dockets').selectAll().orderBy('created_at', 'desc');
  const rows = await (character ? all.where('character_id', '=', character) : all).execute();
  return rows.map((row) => ({
    id: row.id,
    character: row.character_id,
    name: row.name,
    revision: row.revision,
    brief: row.brief,
    briefTitle: row.brief_title,
    by: row.by,
    note: row.note,
    counts: row.counts,
    waived: row.waived,
    leftOut: row.left_out,
    fileName: row.file_name,
    fileBytes: row.file_bytes,
    sha256: row.file,
    picture: row.picture,
    at: row.created_at.toISOString(),
  }));
}

/** How a character bent when it was handed over last; null where it never was, or nobody asked it of motion. */
export async function lastHandedMotion(db: Db, character: string): Promise<HandedMotion | null> {
  const row = await db
    .selectFrom('dockets')
    .select('docket')
    .where('character_id', '=', character)
    .orderBy('created_at', 'desc')
    .limit(1)
    .executeTakeFirst();
  const bytes = row ? await getBlob(db, row.docket) : null;
  return bytes ? (docketIn(new TextDecoder().decode(bytes)).motion ?? null) : null;
}

/**
 * Lets go of audits in motion that are held against the docket before: what was handed over last is another revision now. That
 * one's own stays, unless it was told to bend worse than what it takes the place of.
 */
const forgetHeldAgainst = (trx: Transaction<Database>, character: string, handed: string) =>
  trx
    .deleteFrom('audits')
    .where('revision_id', 'in', (query) =>
      query.selectFrom('revisions').select('id').where('character_id', '=', character),
    )
    .where('moved', '=', true)
    .where((either) =>
      either.or([
        either('revision_id', '!=', handed),
        sql<boolean>`told @> ${JSON.stringify([{ check: bendsWorseCheck.id }])}::jsonb`,
      ]),
    )
    .execute();

/** What is to be handed over. */
export interface HandOverOrder {
  readonly revision: string;
  readonly items: readonly string[] | null;
  readonly format: string;
  readonly by: string;
  readonly note: string;
  readonly receiver?: Receiver;
}

/**
 * Hands a revision over: the file is written, read back and audited, and all that belongs to it is sealed
 * and kept. Broken off, nothing is kept. Throws {@link Refused}.
 */
export async function handOver(
  db: Kysely<Database>,
  character: string,
  { revision, items, format, by, note, receiver }: HandOverOrder,
  {
    ended,
    ...options
  }: RunOptions & { ended?: (trx: Transaction<Database>, done: HandedOverAnswer) => Promise<void> },
): Promise<HandedOverAnswer> {
  const record = await characterById(db, character);
  const line = lineTo(record, revision);
  const last = line[line.length - 1];
  const move = line.findLast((row) => row.step.kind === 'remap')?.step;
  const stem = fileStem(record.name, last.number);
  const [id, at] = [randomUUID(), new Date()];
  const key = await houseKey(db);
  const input = async () => ({
    wire: await wireOf(db, revision),
    brief: record.wants,
    waivers: standing(record.waivers),
    handed: await lastHandedMotion(db, character),
    moment: { today: today(), revision: last.number },
    items,
    format,
    stem,
    facts: factsOf(record, line),
    label: last.label,
    crosswalk: move?.kind === 'remap' ? (move.crosswalk as object) : null,
    receiver,
    by,
    note,
    id,
    at: at.toISOString(),
    key: key.publicHalf,
  });
  const made = await runTask('handover', input, options);
  const done = { id, name: record.name, number: last.number, counts: made.counts, waived: made.waived };
  const { file } = made;
  const docket = signDocket(key, made.docket);
  const text = (text: string) => new TextEncoder().encode(text);
  const leftOut = (JSON.parse(made.docket) as { leftOut: unknown[] }).leftOut.length;
  const seal = async (trx: Transaction<Database>) => {
    await trx
      .insertInto('dockets')
      .values({
        id,
        character_id: character,
        name: record.name,
        revision: last.number,
        brief: briefKey(record.wants),
        brief_title: record.wants.title,
        by,
        note,
        counts: JSON.stringify(made.counts),
        waived: made.waived,
        left_out: leftOut,
        file_name: file.name,
        file_type: file.type,
        file_bytes: file.bytes.length,
        file: await putBlob(trx, file.bytes),
        docket: await putBlob(trx, text(docket)),
        report: await putBlob(trx, text(made.report)),
        picture: await putBlob(trx, made.picture),
        created_at: at,
      })
      .execute();
    await forgetHeldAgainst(trx, character, revision);
    await ended?.(trx, done);
    await tellAll(trx, { what: 'docket', docket: id, character });
  };
  await lockForKeeping(db, seal, options.signal);
  return done;
}

/**
 * What a docket keeps of one kind, with the name that it goes out under. Throws 404 where there is no such
 * docket.
 */
export async function docketPart(
  db: Db,
  id: string,
  part: 'file' | 'docket' | 'report',
): Promise<{ bytes: Uint8Array; name: string; type: string }> {
  const row = await db.selectFrom('dockets').selectAll().where('id', '=', id).executeTakeFirst();
  const bytes = row ? await getBlob(db, row[part]) : null;
  if (!row || !bytes)
    throw new Refused('There is no such docket in the house; go back to the list of dockets.', 404);
  const stem = fileStem(row.name, row.revision);
  if (part === 'file') return { bytes, name: row.file_name, type: row.file_type };
  if (part === 'docket') return { bytes, name: `${stem}-docket.json`, type: 'application/json' };
  return { bytes, name: `${stem}-report.html`, type: 'text/html; charset=utf-8' };
}
