/** Revisions: written once, never changed, found by their ids. */
import { type Kysely, type Transaction, sql } from 'kysely';
import { type StoredCharacter, bonesStored } from '../core/character/stored';
import { type Effects } from '../core/contracts/effects';
import type { Step } from '../core/contracts/step';
import type { Audited, Wire } from '../tasks/task';
import { keepArrays, sharedArrays } from './arrays';
import { insertAudit } from './audits';
import { type Db, getBlob, putBlob, putBlobs } from './blobs';
import { type Database, lockForKeeping } from './database';
import { Refused } from './refused';
import { tellAll } from './told';

/** All that a new revision consists of. */
export interface NewRevision {
  readonly stored: StoredCharacter;
  readonly bytes: ReadonlyMap<string, Uint8Array>;
  /** Null: the picture of the revision that it was made from. */
  readonly picture: Uint8Array | null;
  readonly label: string;
  readonly step: Step;
  readonly effects: Effects;
  /** Files that are kept with it, by their sha-256. */
  readonly kept?: ReadonlyMap<string, Uint8Array>;
  /** The audit that was made along with it, and under which brief. */
  readonly audited?: Audited;
  readonly brief?: string;
}

/** Writes a revision with all that it needs, and makes it the head. Within a transaction of the caller's. */
export async function insertRevision(
  trx: Transaction<Database>,
  characterId: string,
  parent: string | null,
  made: NewRevision,
): Promise<{ id: string; number: number }> {
  const kept = made.kept ?? new Map<string, Uint8Array>();
  for (const bytes of kept.values()) await putBlob(trx, bytes);
  const needed = new Set(made.stored.arrays);
  await putBlobs(
    trx,
    [...made.bytes].filter(([hash]) => needed.has(hash)),
  );
  const manifest = await putBlob(trx, new TextEncoder().encode(JSON.stringify(made.stored)));
  const picture = made.picture ? await putBlob(trx, made.picture) : await pictureOf(trx, parent);
  const last = await trx
    .selectFrom('revisions')
    .select((expression) => expression.fn.max('number').as('n'))
    .where('character_id', '=', characterId)
    .executeTakeFirst();
  const number = Number(last?.n ?? 0) + 1;
  const row = await trx
    .insertInto('revisions')
    .values({
      character_id: characterId,
      number,
      parent,
      label: made.label,
      step: JSON.stringify(made.step),
      manifest,
      picture,
      effects: JSON.stringify(made.effects),
      bones: bonesStored(made.stored),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const held = [...new Set([...needed, ...kept.keys()])];
  // One parameter, however many there are.
  await sql`
    insert into revision_blobs (revision_id, hash) select ${row.id}::uuid, unnest(${held}::text[])
  `.execute(trx);
  if (made.audited && made.brief) await insertAudit(trx, row.id, made.brief, made.audited);
  await trx
    .updateTable('characters')
    .set({ head: row.id, updated_at: sql`now()` as never })
    .where('id', '=', characterId)
    .execute();
  await tellAll(trx, { what: 'head', character: characterId, head: row.id });
  keepArrays(made.bytes);
  return { id: row.id, number };
}

async function pictureOf(trx: Transaction<Database>, revision: string | null): Promise<string | null> {
  if (!revision) return null;
  const row = await trx
    .selectFrom('revisions')
    .select('picture')
    .where('id', '=', revision)
    .executeTakeFirst();
  return row?.picture ?? null;
}

/** The revision's number and label, for a message or a copy. */
export async function revisionById(db: Db, id: string) {
  const row = await db
    .selectFrom('revisions as r')
    .innerJoin('characters as c', 'c.id', 'r.character_id')
    .select(['r.id', 'r.character_id as characterId', 'r.number', 'r.label', 'r.step', 'c.name', 'c.brief'])
    .where('r.id', '=', id)
    .executeTakeFirst();
  if (!row) throw new Refused('This revision is not in the house any more; reload the page.', 404);
  return row;
}

/**
 * Puts a new delivery beside the line that is there: a revision without a parent, which becomes the head.
 * Broken off, it leaves nothing.
 */
export async function addDelivery(
  db: Kysely<Database>,
  characterId: string,
  base: string,
  made: NewRevision,
  { ended, signal }: Pick<RevisionExtras, 'ended' | 'signal'> = {},
): Promise<{ id: string; number: number }> {
  const add = async (trx: Transaction<Database>) => {
    await guardHead(trx, characterId, base);
    const revision = await insertRevision(trx, characterId, null, made);
    await ended?.(trx, revision);
    return revision;
  };
  return lockForKeeping(db, add, signal);
}

/** What goes along with a new revision: what is written with it or not at all, and what breaks it off. */
export interface RevisionExtras {
  readonly along?: (trx: Transaction<Database>) => Promise<void>;
  /** What is written once the revision is there, with it or not at all. */
  readonly ended?: (trx: Transaction<Database>, revision: { id: string; number: number }) => Promise<void>;
  readonly signal?: AbortSignal;
}

/**
 * A new revision on top of `base`. If the head has moved meanwhile nothing is written, and the answer is 409
 * with both revisions named. The character's row is locked for the length of the transaction.
 */
export async function addRevision(
  db: Kysely<Database>,
  characterId: string,
  base: string,
  made: NewRevision,
  { along, ended, signal }: RevisionExtras = {},
): Promise<{ id: string; number: number }> {
  const add = async (trx: Transaction<Database>) => {
    await guardHead(trx, characterId, base);
    await along?.(trx);
    const revision = await insertRevision(trx, characterId, base, made);
    await ended?.(trx, revision);
    return revision;
  };
  return lockForKeeping(db, add, signal);
}

/** Undo, redo, go back: the head becomes another revision of the same character. */
export async function moveHead(
  db: Kysely<Database>,
  characterId: string,
  base: string,
  to: string,
  along?: (trx: Transaction<Database>) => Promise<void>,
): Promise<void> {
  await db.transaction().execute(async (trx) => {
    await guardHead(trx, characterId, base);
    await along?.(trx);
    const target = await trx
      .selectFrom('revisions')
      .select('id')
      .where('id', '=', to)
      .where('character_id', '=', characterId)
      .executeTakeFirst();
    if (!target) throw new Refused('That revision does not belong to this character; reload the page.', 404);
    await trx
      .updateTable('characters')
      .set({ head: to, updated_at: sql`now()` as never })
      .where('id', '=', characterId)
      .execute();
    await tellAll(trx, { what: 'head', character: characterId, head: to });
  });
}

/** Which revision a character stands at; 404 where there is no such character, or nothing has come into it yet. */
export async function headOf(db: Db, characterId: string): Promise<{ head: string; number: number }> {
  const row = await db
    .selectFrom('characters')
    .innerJoin('revisions', 'revisions.id', 'characters.head')
    .select(['revisions.id as head', 'revisions.number'])
    .where('characters.id', '=', characterId)
    .executeTakeFirst();
  if (!row) throw new Refused('This character is not in the house any more; go back to the shelf.', 404);
  return row;
}

/** Throws 409 with both revisions named when the head is no longer `base`; takes the row's lock. */
async function guardHead(trx: Transaction<Database>, characterId: string, base: string): Promise<void> {
  const row = await trx
    .selectFrom('characters')
    .select('head')
    .where('id', '=', characterId)
    .forUpdate()
    .executeTakeFirst();
  if (!row) throw new Refused('This character is not in the house any more; go back to the shelf.', 404);
  if (row.head !== base)
    throw stale(await numberOf(trx, base), await numberOf(trx, row.head), base, row.head);
}

async function numberOf(db: Db, id: string | null): Promise<number | null> {
  const row = id
    ? await db.selectFrom('revisions').select('number').where('id', '=', id).executeTakeFirst()
    : undefined;
  return row?.number ?? null;
}

/** The refusal of a step that was made on a revision that is no longer the head; both are named. */
export function stale(
  base: number | null,
  head: number | null,
  baseId: string,
  headId: string | null,
): Refused {
  return new Refused(
    `This step was made on revision ${base ?? '?'}, and revision ${head ?? '?'} has come since; look at that one and do the step again. Nothing was lost.`,
    409,
    { base: { id: baseId, number: base }, head: { id: headId, number: head } },
  );
}

/** The manifest of a revision as it is stored. Throws 404 where it is not there. */
export async function manifestOf(
  db: Db,
  revisionId: string,
): Promise<{ bytes: Uint8Array; address: string }> {
  const row = await db
    .selectFrom('revisions')
    .select('manifest')
    .where('id', '=', revisionId)
    .executeTakeFirst();
  const bytes = row ? await getBlob(db, row.manifest) : null;
  if (!row || !bytes) throw new Refused('This revision is not in the house any more; reload the page.', 404);
  return { bytes, address: row.manifest };
}

/** Everything a thread needs to open a revision. Throws 404 where it is not there. */
export async function wireOf(db: Db, revisionId: string): Promise<Wire> {
  const { bytes, address } = await manifestOf(db, revisionId);
  const stored = JSON.parse(new TextDecoder().decode(bytes)) as StoredCharacter;
  return { address, stored, bytes: await sharedArrays(db, stored.arrays) };
}

/** Changes the words on a revision; what it holds never changes. */
export async function writeOnRevision(
  db: Db,
  id: string,
  words: { label?: string; note?: string },
): Promise<void> {
  const { numUpdatedRows } = await db
    .updateTable('revisions')
    .set(words)
    .where('id', '=', id)
    .executeTakeFirst();
  if (Number(numUpdatedRows) === 0)
    throw new Refused('This revision is not in the house any more; reload the page.', 404);
}
