import { type Kysely, type Transaction, sql } from 'kysely';
import type { StoredCharacter } from '../core/character/stored';
import type { Audited, Wire } from '../worker/main';
import { getBlob, getBlobs, putBlob } from './blobs';
import type { Step } from '../core/contracts/step';
import type { Database } from './database';
import { Refused } from './pool';

type Db = Kysely<Database> | Transaction<Database>;

export interface NewRevision {
  readonly stored: StoredCharacter;
  readonly bytes: ReadonlyMap<string, Uint8Array>;
  readonly picture: Uint8Array;
  readonly label: string;
  readonly step: Step;
  readonly effects: unknown;
  /** Files that are kept with it, by their sha-256. */
  readonly kept?: ReadonlyMap<string, Uint8Array>;
  /** The audit that was made along with it, and under which brief. */
  readonly audited?: Audited;
  readonly brief?: string;
}

async function insertRevision(
  trx: Transaction<Database>,
  characterId: string,
  parent: string | null,
  made: NewRevision,
): Promise<{ id: string; number: number }> {
  const kept = made.kept ?? new Map<string, Uint8Array>();
  for (const bytes of kept.values()) await putBlob(trx, bytes);
  const needed = new Set(made.stored.arrays);
  for (const [hash, bytes] of made.bytes)
    if (needed.has(hash))
      await trx
        .insertInto('blobs')
        .values({
          hash,
          bytes: Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength),
          size: bytes.length,
        })
        .onConflict((c) => c.column('hash').doNothing())
        .execute();
  const manifest = await putBlob(trx, new TextEncoder().encode(JSON.stringify(made.stored)));
  const picture = await putBlob(trx, made.picture);
  const last = await trx
    .selectFrom('revisions')
    .select((e) => e.fn.max('number').as('n'))
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
      effects: JSON.stringify(made.effects ?? {}),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const held = [...new Set([...needed, ...kept.keys()])];
  if (held.length > 0)
    await trx
      .insertInto('revision_blobs')
      .values(held.map((hash) => ({ revision_id: row.id, hash })))
      .execute();
  if (made.audited && made.brief)
    await insertAudit(trx, row.id, made.brief, made.audited.findings, made.audited.counts);
  await trx
    .updateTable('characters')
    .set({ head: row.id, updated_at: sql`now()` as never })
    .where('id', '=', characterId)
    .execute();
  return { id: row.id, number };
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

/** The same under a new name: a character of its own whose first revision is one of another's. Nothing is stored twice. */
export async function copyCharacter(
  db: Kysely<Database>,
  revision: string,
  name: string,
): Promise<{ id: string; revision: string }> {
  return db.transaction().execute(async (trx) => {
    const from = await revisionById(trx, revision);
    const old = await trx
      .selectFrom('revisions')
      .select(['manifest', 'picture'])
      .where('id', '=', revision)
      .executeTakeFirstOrThrow();
    const { id } = await trx
      .insertInto('characters')
      .values({ name, brief: from.brief, head: null })
      .returning('id')
      .executeTakeFirstOrThrow();
    const step: Step = {
      kind: 'copy',
      from: { character: from.name, revision: from.number, label: from.label },
    };
    const made = await trx
      .insertInto('revisions')
      .values({
        character_id: id,
        number: 1,
        parent: null,
        label: `from ${from.name}, revision ${from.number}`,
        step: JSON.stringify(step),
        manifest: old.manifest,
        picture: old.picture,
        effects: '{}',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await trx
      .insertInto('revision_blobs')
      .columns(['revision_id', 'hash'])
      .expression((e) =>
        e
          .selectFrom('revision_blobs')
          .select([sql.lit(made.id).as('revision_id'), 'hash'])
          .where('revision_id', '=', revision),
      )
      .execute();
    await trx
      .insertInto('audits')
      .columns(['revision_id', 'brief', 'findings', 'counts'])
      .expression((e) =>
        e
          .selectFrom('audits')
          .select([sql.lit(made.id).as('revision_id'), 'brief', 'findings', 'counts'])
          .where('revision_id', '=', revision),
      )
      .execute();
    await trx.updateTable('characters').set({ head: made.id }).where('id', '=', id).execute();
    return { id, revision: made.id };
  });
}

/** Puts a new delivery beside the line that is there: a revision without a parent, which becomes the head. */
export async function addDelivery(
  db: Kysely<Database>,
  characterId: string,
  base: string,
  made: NewRevision,
): Promise<{ id: string; number: number }> {
  return db.transaction().execute(async (trx) => {
    await guardHead(trx, characterId, base);
    return insertRevision(trx, characterId, null, made);
  });
}

/** A new character with its first revision: rows and blobs in one transaction. */
export async function createCharacter(
  db: Kysely<Database>,
  name: string,
  brief: string,
  made: NewRevision,
): Promise<{ id: string; revision: string }> {
  return db.transaction().execute(async (trx) => {
    const { id } = await trx
      .insertInto('characters')
      .values({ name, brief, head: null })
      .returning('id')
      .executeTakeFirstOrThrow();
    const revision = await insertRevision(trx, id, null, made);
    return { id, revision: revision.id };
  });
}

/**
 * A new revision on top of `base`. If the head has moved meanwhile nothing is written, and the answer is 409 with both
 * revisions named. The character's row is locked for the length of the transaction.
 */
export async function addRevision(
  db: Kysely<Database>,
  characterId: string,
  base: string,
  made: NewRevision,
): Promise<{ id: string; number: number }> {
  return db.transaction().execute(async (trx) => {
    await guardHead(trx, characterId, base);
    return insertRevision(trx, characterId, base, made);
  });
}

/** Undo, redo, go back: the head becomes another revision of the same character. */
export async function moveHead(
  db: Kysely<Database>,
  characterId: string,
  base: string,
  to: string,
): Promise<void> {
  await db.transaction().execute(async (trx) => {
    await guardHead(trx, characterId, base);
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
  });
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

/** Everything a worker needs to open a revision. Throws 404 where it is not there. */
export async function wireOf(db: Db, revisionId: string): Promise<Wire & { characterId: string }> {
  const row = await db
    .selectFrom('revisions')
    .select(['manifest', 'character_id'])
    .where('id', '=', revisionId)
    .executeTakeFirst();
  const manifest = row ? await getBlob(db, row.manifest) : null;
  if (!row || !manifest)
    throw new Refused('This revision is not in the house any more; reload the page.', 404);
  const stored = JSON.parse(new TextDecoder().decode(manifest)) as StoredCharacter;
  return { stored, bytes: await getBlobs(db, stored.arrays), characterId: row.character_id };
}

export async function findingsOf(db: Db, revisionId: string, brief: string): Promise<Uint8Array | null> {
  const row = await db
    .selectFrom('audits')
    .select('findings')
    .where('revision_id', '=', revisionId)
    .where('brief', '=', brief)
    .executeTakeFirst();
  return row ? getBlob(db, row.findings) : null;
}

async function insertAudit(
  trx: Transaction<Database>,
  revisionId: string,
  brief: string,
  findings: Uint8Array,
  counts: Audited['counts'],
): Promise<void> {
  const hash = await putBlob(trx, findings);
  await trx
    .insertInto('audits')
    .values({ revision_id: revisionId, brief, findings: hash, counts: JSON.stringify(counts) })
    .onConflict((c) =>
      c.columns(['revision_id', 'brief']).doUpdateSet({ findings: hash, counts: JSON.stringify(counts) }),
    )
    .execute();
}

export async function saveAudit(
  db: Kysely<Database>,
  revisionId: string,
  brief: string,
  findings: Uint8Array,
  counts: Audited['counts'],
): Promise<void> {
  await db.transaction().execute((trx) => insertAudit(trx, revisionId, brief, findings, counts));
}

export async function listCharacters(db: Db) {
  return db
    .selectFrom('characters as c')
    .leftJoin('revisions as r', 'r.id', 'c.head')
    .leftJoin('audits as a', (j) => j.onRef('a.revision_id', '=', 'c.head').onRef('a.brief', '=', 'c.brief'))
    .select([
      'c.id',
      'c.name',
      'c.brief',
      'c.head',
      'c.updated_at as updatedAt',
      'r.number',
      'r.label',
      'r.picture',
      'a.counts',
    ])
    .orderBy('c.created_at')
    .execute();
}

export async function characterById(db: Db, id: string) {
  const character = await db
    .selectFrom('characters')
    .select(['id', 'name', 'brief', 'head'])
    .where('id', '=', id)
    .executeTakeFirst();
  if (!character)
    throw new Refused('This character is not in the house any more; go back to the shelf.', 404);
  const revisions = await db
    .selectFrom('revisions as r')
    .leftJoin('audits as a', (j) => j.onRef('a.revision_id', '=', 'r.id').on('a.brief', '=', character.brief))
    .select([
      'r.id',
      'r.number',
      'r.parent',
      'r.label',
      'r.step',
      'r.picture',
      'r.effects',
      'r.note',
      'r.created_at as createdAt',
      'a.counts',
    ])
    .where('r.character_id', '=', id)
    .orderBy('r.number')
    .execute();
  const pins = await db
    .selectFrom('pins')
    .select(['id', 'label', 'ends'])
    .where('character_id', '=', id)
    .orderBy('created_at')
    .execute();
  return { ...character, revisions, pins: pins.map(({ ends, ...p }) => ({ ...p, ...ends })) };
}

/** Removes a character, its revisions, and the blobs that nothing else needs. */
export async function removeCharacter(db: Kysely<Database>, id: string): Promise<void> {
  await db.transaction().execute(async (trx) => {
    await trx.updateTable('characters').set({ head: null }).where('id', '=', id).execute();
    await trx.updateTable('revisions').set({ parent: null }).where('character_id', '=', id).execute();
    await trx.deleteFrom('characters').where('id', '=', id).execute();
    await sql`delete from blobs b where not exists (select 1 from revision_blobs x where x.hash = b.hash) and not exists (select 1 from revisions r where r.manifest = b.hash or r.picture = b.hash) and not exists (select 1 from audits a where a.findings = b.hash)`.execute(
      trx,
    );
  });
}
