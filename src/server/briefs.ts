/** Briefs in the database: what came with the house, and what was made here, version by version. */
import { type Kysely, type Transaction, sql } from 'kysely';
import { type Brief, briefAsOfToday } from '../core/house/brief';
import { BRIEFS } from '../core/house/briefs';
import { readBrief } from '../core/house/read-brief';
import type { BriefEntry, BriefOrigin } from '../routes/briefs';
import type { Db } from './blobs';
import type { Database } from './database';
import { Refused } from './refused';

/**
 * The briefs of the house as this house has them; one that has changed is a new version. One that was made
 * here under the same id stays what it is.
 */
export async function bringBriefs(db: Kysely<Database>): Promise<void> {
  await db.transaction().execute(async (trx) => {
    const own = await trx.selectFrom('briefs').select('id').where('origin', '=', 'own').execute();
    const isOwn = new Set(own.map((b) => b.id));
    for (const brief of BRIEFS) {
      if (isOwn.has(brief.id)) continue;
      const known = await newestOf(trx, brief.id);
      if (!known) await insertVersion(trx, 'house', { ...brief, version: 1 });
      else if (!isSame(known, brief))
        await insertVersion(trx, 'house', { ...brief, version: known.version + 1 });
    }
  });
}

const isSame = ({ version: _a, ...a }: Brief, { version: _b, ...b }: Brief) => sorted(a) === sorted(b);

/** JSON whose fields come in the order of their names: what PostgreSQL gives back has one of its own. */
const sorted = (value: unknown): string =>
  JSON.stringify(value, (_, x: unknown) =>
    x && typeof x === 'object' && !Array.isArray(x)
      ? Object.fromEntries(Object.entries(x).sort(([a], [b]) => (a < b ? -1 : 1)))
      : x,
  );

async function insertVersion(db: Db, origin: BriefOrigin, brief: Brief): Promise<void> {
  const { id, version } = brief;
  await db
    .insertInto('briefs')
    .values({ id, origin, version })
    .onConflict((builder) => builder.column('id').doUpdateSet({ version }))
    .execute();
  await db
    .insertInto('brief_versions')
    .values({ brief_id: id, version, file: JSON.stringify(brief) })
    .execute();
}

async function newestOf(db: Db, id: string): Promise<Brief | null> {
  const row = await db
    .selectFrom('briefs as b')
    .innerJoin('brief_versions as v', (builder) =>
      builder.onRef('v.brief_id', '=', 'b.id').onRef('v.version', '=', 'b.version'),
    )
    .select('v.file')
    .where('b.id', '=', id)
    .executeTakeFirst();
  return row ? briefAsOfToday(row.file) : null;
}

/** A brief in its newest version. Throws 404 where there is none of this id. */
export async function briefById(db: Db, id: string): Promise<Brief> {
  const brief = await newestOf(db, id);
  if (!brief) throw new Refused(`There is no brief “${id}” in the house; choose another one.`, 404);
  return brief;
}

/**
 * Holds a brief within a transaction: whoever wants to remove it waits, and then sees who is held against
 * it. Throws 404 where it is not there.
 */
export async function holdBrief(trx: Transaction<Database>, id: string): Promise<void> {
  const row = await trx.selectFrom('briefs').select('id').where('id', '=', id).forShare().executeTakeFirst();
  if (!row) throw new Refused(`There is no brief “${id}” in the house; choose another one.`, 404);
}

/** A brief by its key, `id@version`, or in its newest version by its id. Throws 404 where it is not there. */
export async function briefByKey(db: Db, key: string): Promise<Brief> {
  const [id, version] = key.split('@');
  if (version === undefined) return briefById(db, id);
  const row = await db
    .selectFrom('brief_versions')
    .select('file')
    .where('brief_id', '=', id)
    .where('version', '=', Number(version))
    .executeTakeFirst();
  if (!row)
    throw new Refused(
      `Version ${version} of the brief “${id}” is not in the house any more; take a newer one.`,
      404,
    );
  return briefAsOfToday(row.file);
}

/** All briefs in their newest versions with the characters that are held against them. */
export async function listBriefs(db: Db): Promise<BriefEntry[]> {
  const rows = await db
    .selectFrom('briefs as b')
    .innerJoin('brief_versions as v', (builder) =>
      builder.onRef('v.brief_id', '=', 'b.id').onRef('v.version', '=', 'b.version'),
    )
    .select(['b.id', 'b.origin', 'v.file'])
    .orderBy('b.origin', 'desc')
    .orderBy('b.created_at')
    .execute();
  const users = await db.selectFrom('characters').select(['id', 'name', 'brief']).orderBy('name').execute();
  const order = new Map(BRIEFS.map((brief, i) => [brief.id, i]));
  return rows
    .map(({ id, origin, file }) => ({
      brief: briefAsOfToday(file),
      origin,
      users: users.filter((user) => user.brief === id).map(({ id: user, name }) => ({ id: user, name })),
    }))
    .sort((a, b) => (order.get(a.brief.id) ?? -1) - (order.get(b.brief.id) ?? -1));
}

/** The newest versions of some briefs, by their ids. */
export async function briefsOf(db: Db, ids: ReadonlySet<string>): Promise<Record<string, Brief>> {
  if (ids.size === 0) return {};
  const rows = await db
    .selectFrom('briefs as b')
    .innerJoin('brief_versions as v', (builder) =>
      builder.onRef('v.brief_id', '=', 'b.id').onRef('v.version', '=', 'b.version'),
    )
    .select(['b.id', 'v.file'])
    .where('b.id', 'in', [...ids])
    .execute();
  return Object.fromEntries(rows.map(({ id, file }) => [id, briefAsOfToday(file)]));
}

/** All versions of a brief, the newest first. Throws 404 where there is none of this id. */
export async function versionsOf(db: Db, id: string) {
  const rows = await db
    .selectFrom('brief_versions as v')
    .innerJoin('briefs as b', 'b.id', 'v.brief_id')
    .select(['b.origin', 'v.file', 'v.created_at'])
    .where('b.id', '=', id)
    .orderBy('v.version', 'desc')
    .execute();
  if (rows.length === 0)
    throw new Refused(`There is no brief “${id}” in the house; choose another one.`, 404);
  return {
    origin: rows[0].origin,
    versions: rows.map((row) => ({ brief: briefAsOfToday(row.file), at: row.created_at.toISOString() })),
  };
}

/** A brief as somebody sent it. Throws {@link Refused} with the field that is wrong. */
export function briefSent(json: unknown): Brief {
  try {
    return readBrief(json);
  } catch (error) {
    throw new Refused(
      `This is no brief: ${error instanceof Error ? error.message : 'it cannot be read'}.`,
      400,
    );
  }
}

/** Saves a brief as a new one (`base` 0) or as the next version of one that was made here. */
export async function saveBrief(db: Kysely<Database>, base: number, sent: Brief): Promise<Brief> {
  return db.transaction().execute(async (trx) => {
    await sql`select pg_advisory_xact_lock(${BRIEFS_LOCK})`.execute(trx);
    const known = await trx.selectFrom('briefs').selectAll().where('id', '=', sent.id).executeTakeFirst();
    if (known?.origin === 'house')
      throw new Refused(
        `“${sent.id}” came with the house and stays as it is; save it under a name of your own.`,
        409,
      );
    if (!known && base > 0)
      throw new Refused('This brief is not in the house any more; save it as a new one.', 409);
    if (known && base === 0)
      throw new Refused(`There is a brief “${sent.id}” already; give this one another name.`, 409);
    if (known && known.version !== base)
      throw new Refused(
        `Version ${known.version} of this brief has been saved since you opened version ${base}; look at that one and make the change again. Nothing was lost.`,
        409,
      );
    const brief = { ...sent, version: base + 1 };
    await insertVersion(trx, 'own', brief);
    return brief;
  });
}

/** The lock under which briefs are saved; any number that nobody else uses. */
const BRIEFS_LOCK = 7_290_115;

/** Removes a brief that was made here. Throws 409 where characters are held against it, or it came with the house. */
export async function removeBrief(db: Kysely<Database>, id: string): Promise<void> {
  await db.transaction().execute(async (trx) => {
    await sql`select pg_advisory_xact_lock(${BRIEFS_LOCK})`.execute(trx);
    const known = await trx
      .selectFrom('briefs')
      .select('origin')
      .where('id', '=', id)
      .forUpdate()
      .executeTakeFirst();
    if (known?.origin === 'house') throw new Refused('This brief came with the house, and stays.', 409);
    const users = await trx.selectFrom('characters').select('name').where('brief', '=', id).execute();
    if (users.length > 0)
      throw new Refused(
        `${users.length === 1 ? `“${users[0].name}” is` : `${users.length} characters are`} held against this brief; give ${users.length === 1 ? 'it' : 'them'} another one first.`,
        409,
      );
    // One that is made later under the same id begins at version 1 again: what was audited under this one is not its.
    await trx.deleteFrom('audits').where('brief', 'like', `${id}@%`).execute();
    await trx.deleteFrom('briefs').where('id', '=', id).execute();
  });
}
