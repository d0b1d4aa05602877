/** Characters on the shelf, with their ledgers and pins. */
import { type Kysely, type Transaction, sql } from 'kysely';
import type { PinEnd } from '../core/character/pin';
import { NO_EFFECTS } from '../core/contracts/effects';
import type { Step } from '../core/contracts/step';
import type { CharacterRecord, ShelfEntry } from '../routes/characters';
import type { Waiver } from '../core/contracts/waiver';
import { briefKey } from '../core/house/brief';
import { copyAudits } from './audits';
import { briefById, holdBrief } from './briefs';
import { type Db, dropUnneeded } from './blobs';
import { type Database, lockForClearing, lockForKeeping } from './database';
import { Refused } from './refused';
import { type RevisionExtras, type NewRevision, insertRevision, revisionById } from './revisions';
import { tellAll } from './told';
import { allStanding, copyWaivers, countOpen, standing, waiversOf } from './waivers';

/** Every character with its newest picture and counts, in the order in which they came; or those of the given ids. */
export async function listCharacters(db: Db, only?: readonly string[]): Promise<ShelfEntry[]> {
  const all = db
    .selectFrom('characters as c')
    .leftJoin('revisions as r', 'r.id', 'c.head')
    .leftJoin('briefs as b', 'b.id', 'c.brief')
    .leftJoin('audits as a', (builder) =>
      builder
        .onRef('a.revision_id', '=', 'c.head')
        .on('a.brief', '=', sql<string>`c.brief || '@' || b.version`),
    )
    .select([
      'c.id',
      'c.name',
      'c.brief',
      'c.head',
      'c.updated_at as updatedAt',
      'r.number',
      'r.label',
      'r.picture',
      'r.bones',
      'a.counts',
      'a.moved',
    ])
    .orderBy('c.created_at');
  const rows = await (only ? all.where('c.id', 'in', [...only]) : all).execute();
  const waivers = await allStanding(db);
  const open = await openWithout(db, waivers, new Set(rows.map((row) => row.id)));
  return rows.map(({ updatedAt, moved, ...row }) => ({
    ...row,
    moved: moved ?? false,
    waived: 0,
    ...open.get(row.id),
    updatedAt: updatedAt.toISOString(),
  }));
}

/** What is open on characters without what is waived on them; what was found is fetched only where something is waived. */
async function openWithout(
  db: Db,
  waivers: ReadonlyMap<string, readonly Waiver[]>,
  among: ReadonlySet<string>,
): Promise<Map<string, ReturnType<typeof countOpen>>> {
  const ids = [...waivers.keys()].filter((id) => among.has(id));
  if (ids.length === 0) return new Map();
  const rows = await db
    .selectFrom('characters as c')
    .innerJoin('revisions as r', 'r.id', 'c.head')
    .innerJoin('briefs as b', 'b.id', 'c.brief')
    .innerJoin('audits as a', (builder) =>
      builder
        .onRef('a.revision_id', '=', 'c.head')
        .on('a.brief', '=', sql<string>`c.brief || '@' || b.version`),
    )
    .select(['c.id', 'r.number', 'a.told'])
    .where('c.id', 'in', ids)
    .execute();
  return new Map(
    rows.flatMap(({ id, number, told }) =>
      told ? [[id, countOpen(told, waivers.get(id) ?? [], number)] as const] : [],
    ),
  );
}

/** A character with its ledger and its pins. Throws 404 where it is not there. */
export async function characterById(db: Db, id: string): Promise<CharacterRecord> {
  const character = await db
    .selectFrom('characters')
    .select(['id', 'name', 'brief', 'head'])
    .where('id', '=', id)
    .executeTakeFirst();
  if (!character)
    throw new Refused('This character is not in the house any more; go back to the shelf.', 404);
  const wants = await briefById(db, character.brief);
  const revisions = await db
    .selectFrom('revisions as r')
    .leftJoin('audits as a', (builder) =>
      builder.onRef('a.revision_id', '=', 'r.id').on('a.brief', '=', briefKey(wants)),
    )
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
      'a.told',
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
  const poses = await db
    .selectFrom('poses')
    .select(['id', 'name', 'stands'])
    .where('character_id', '=', id)
    .orderBy('name')
    .execute();
  const waivers = await waiversOf(db, id);
  const stands = standing(waivers);
  return {
    ...character,
    wants,
    head: character.head ?? '',
    working: await isWorkedOn(db, id),
    waivers,
    revisions: revisions.map(({ createdAt, told, counts, ...row }) => ({
      ...row,
      counts: told && stands.length > 0 ? countOpen(told, stands, row.number).counts : counts,
      createdAt: createdAt.toISOString(),
    })),
    pins: pins.map(({ ends, ...pin }) => ({ ...pin, ...ends })),
    poses: poses.map(({ stands, ...pose }) => ({ ...pose, ...stands })),
  };
}

/** True while a job is at work that will bring the character to another revision. */
async function isWorkedOn(db: Db, id: string): Promise<boolean> {
  const job = await db
    .selectFrom('jobs')
    .select('id')
    .where('character_id', '=', id)
    .where('changes', '=', true)
    .where('state', '=', 'running')
    .executeTakeFirst();
  return job !== undefined;
}

/** Changes the name or the brief. */
export async function changeCharacter(
  db: Kysely<Database>,
  id: string,
  change: { name?: string; brief?: string },
): Promise<void> {
  await characterById(db, id);
  if (Object.keys(change).length === 0) return;
  await db.transaction().execute(async (trx) => {
    if (change.brief !== undefined) await holdBrief(trx, change.brief);
    await trx.updateTable('characters').set(change).where('id', '=', id).execute();
  });
}

/** A new character with its first revision: rows and blobs in one transaction. Broken off, it leaves nothing. */
export async function createCharacter(
  db: Kysely<Database>,
  name: string,
  brief: string,
  made: NewRevision,
  {
    signal,
    ended,
  }: Pick<RevisionExtras, 'signal'> & {
    ended?: (trx: Transaction<Database>, id: string) => Promise<void>;
  } = {},
): Promise<{ id: string; revision: string }> {
  const add = async (trx: Transaction<Database>) => {
    await holdBrief(trx, brief);
    const { id } = await trx
      .insertInto('characters')
      .values({ name, brief, head: null })
      .returning('id')
      .executeTakeFirstOrThrow();
    const revision = await insertRevision(trx, id, null, made);
    await ended?.(trx, id);
    return { id, revision: revision.id };
  };
  return lockForKeeping(db, add, signal);
}

/**
 * The same under a new name: a character of its own whose first revision is one of another's. Nothing is
 * stored twice.
 */
export async function copyCharacter(
  db: Kysely<Database>,
  revision: string,
  name: string,
): Promise<{ id: string; revision: string }> {
  return lockForKeeping(db, async (trx) => {
    const from = await revisionById(trx, revision);
    await holdBrief(trx, from.brief);
    const old = await trx
      .selectFrom('revisions')
      .select(['manifest', 'picture', 'bones'])
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
        bones: old.bones,
        effects: JSON.stringify(NO_EFFECTS),
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await trx
      .insertInto('revision_blobs')
      .columns(['revision_id', 'hash'])
      .expression((expression) =>
        expression
          .selectFrom('revision_blobs')
          .select([sql.lit(made.id).as('revision_id'), 'hash'])
          .where('revision_id', '=', revision),
      )
      .execute();
    await copyAudits(trx, revision, made.id);
    await copyWaivers(trx, from.characterId, id);
    await copyKept(trx, from.characterId, id);
    await trx.updateTable('characters').set({ head: made.id }).where('id', '=', id).execute();
    return { id, revision: made.id };
  });
}

/** What a person keeps with a character beside its ledger goes along: measures that are pinned, and poses. */
async function copyKept(trx: Transaction<Database>, from: string, to: string): Promise<void> {
  const own = sql.lit(to).as('character_id');
  await trx
    .insertInto('pins')
    .columns(['character_id', 'label', 'ends', 'created_at'])
    .expression((builder) =>
      builder
        .selectFrom('pins')
        .select([own, 'label', 'ends', 'created_at'])
        .where('character_id', '=', from),
    )
    .execute();
  await trx
    .insertInto('poses')
    .columns(['character_id', 'name', 'stands', 'created_at'])
    .expression((builder) =>
      builder
        .selectFrom('poses')
        .select([own, 'name', 'stands', 'created_at'])
        .where('character_id', '=', from),
    )
    .execute();
}

/** Removes a character, its revisions, and the blobs that nothing else needs. */
export async function removeCharacter(db: Kysely<Database>, id: string): Promise<void> {
  await lockForClearing(db, async (trx) => {
    // Only what was this character's is looked at: who keeps something meanwhile waits no longer than that takes.
    const { rows } = await sql<{ hash: string }>`
      with mine as (select id, manifest, picture from revisions where character_id = ${id})
      select hash from revision_blobs where revision_id in (select id from mine)
      union select manifest from mine
      union select picture from mine where picture is not null
      union select findings from audits where revision_id in (select id from mine)
    `.execute(trx);
    await trx.updateTable('characters').set({ head: null }).where('id', '=', id).execute();
    await trx.updateTable('revisions').set({ parent: null }).where('character_id', '=', id).execute();
    await trx.deleteFrom('characters').where('id', '=', id).execute();
    await dropUnneeded(
      trx,
      rows.map((row) => row.hash),
    );
    await tellAll(trx, { what: 'gone', character: id });
  });
}

/** Pins a measure to a character. Throws 404 where that is not there. */
export async function addPin(
  db: Db,
  id: string,
  label: string,
  ends: { from: PinEnd; to: PinEnd },
): Promise<void> {
  await characterById(db, id);
  await db
    .insertInto('pins')
    .values({ character_id: id, label, ends: JSON.stringify(ends) })
    .execute();
}

/** Names a measure. Throws 404 where it is not there. */
export async function labelPin(db: Db, id: string, pin: string, label: string): Promise<void> {
  const { numUpdatedRows } = await db
    .updateTable('pins')
    .set({ label })
    .where('id', '=', pin)
    .where('character_id', '=', id)
    .executeTakeFirst();
  if (Number(numUpdatedRows) === 0)
    throw new Refused('This measure is not pinned any more; reload the page.', 404);
}

/** Takes a measure away. */
export async function removePin(db: Db, id: string, pin: string): Promise<void> {
  await db.deleteFrom('pins').where('id', '=', pin).where('character_id', '=', id).execute();
}
