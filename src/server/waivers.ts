/** Findings of characters that somebody has accepted. */
import { type Kysely, sql } from 'kysely';
import {
  type FindingTold,
  type Waiver,
  type WaiversTaken,
  applyWaivers,
  takeWaivers,
  waiverFor,
} from '../core/contracts/waiver';
import { type Counts, countGravity } from '../core/contracts/finding';
import { briefKey } from '../core/house/brief';
import type { WaiverRecord } from '../routes/waivers';
import { toldOn } from './audits';
import type { Db } from './blobs';
import { briefById } from './briefs';
import type { Database } from './database';
import { Refused } from './refused';
import { revisionById } from './revisions';

/** All waivers of a character, also those that were withdrawn, in the order in which they came. */
export async function waiversOf(db: Db, character: string): Promise<WaiverRecord[]> {
  const rows = await db
    .selectFrom('waivers')
    .selectAll()
    .where('character_id', '=', character)
    .orderBy('created_at')
    .execute();
  return rows.map(({ id, waiver, findings, revision, created_at: at, withdrawn_at, withdrawn_by }) => ({
    id,
    waiver,
    findings,
    revision,
    at: at.toISOString(),
    withdrawn: withdrawn_at ? { at: withdrawn_at.toISOString(), by: withdrawn_by ?? '' } : null,
  }));
}

/** Those that stand. */
export const standing = (records: readonly WaiverRecord[]): Waiver[] =>
  records.filter((record) => record.withdrawn === null).map((record) => record.waiver);

/** The waivers that stand, by character. */
export async function allStanding(db: Db): Promise<Map<string, Waiver[]>> {
  const rows = await db
    .selectFrom('waivers')
    .select(['character_id as character', 'waiver'])
    .where('withdrawn_at', 'is', null)
    .orderBy('created_at')
    .execute();
  const out = new Map<string, Waiver[]>();
  for (const { character, waiver } of rows) {
    const known = out.get(character);
    if (known) known.push(waiver);
    else out.set(character, [waiver]);
  }
  return out;
}

/** Today, as waivers count days. */
export const today = (): string => new Date().toISOString().slice(0, 10);

/** How a revision stands: what is open of each gravity, and how many findings are waived. */
export function countOpen(
  told: readonly FindingTold[],
  waivers: readonly Waiver[],
  revision: number,
): { counts: Counts; waived: number } {
  const { open, waived } = applyWaivers(told, waivers, { today: today(), revision });
  return { counts: countGravity(open), waived: waived.length };
}

/** How many waivers a character keeps at most: all of them go to the page with it. */
const MOST = 10_000;

/**
 * Accepts findings of a revision as its audit tells them. Throws {@link Refused}.
 * @param inMotion what shows when the figure is moved, which no audit that is kept tells
 */
export async function waive(
  db: Kysely<Database>,
  character: string,
  revision: string,
  { keys, ...words }: Pick<Waiver, 'keys' | 'reason' | 'by' | 'until' | 'untilRevision'>,
  inMotion: readonly FindingTold[] = [],
): Promise<void> {
  const { number, told } = await foundOn(db, character, revision);
  const byKey = new Map([...(told ?? []), ...inMotion].map((finding) => [finding.key, finding]));
  const findings = [...new Set(keys)].flatMap((key) => byKey.get(key) ?? []);
  if (findings.length < new Set(keys).size)
    throw new Refused(
      'A finding that you wanted to waive is not there any more; reload the page and look again. Nothing was waived.',
      409,
    );
  if (words.until !== undefined && words.until < today())
    throw new Refused(`The day ${words.until} has passed; choose one that is still to come.`, 400);
  if (words.untilRevision !== undefined && words.untilRevision < number)
    throw new Refused(
      `Revision ${words.untilRevision} has passed, this is revision ${number}; choose a later one.`,
      400,
    );
  await db.transaction().execute(async (trx) => {
    // Whoever waives the same at the same time waits, and finds it waived.
    await trx.selectFrom('characters').select('id').where('id', '=', character).forUpdate().execute();
    const { waived } = applyWaivers(findings, standing(await waiversOf(trx, character)), {
      today: today(),
      revision: number,
    });
    if (waived.length === findings.length)
      throw new Refused(
        `${waived.length === 1 ? 'It is' : 'All of them are'} waived already, by ${waived[0].waiver.by}; reload the page.`,
        409,
      );
    const isWaived = new Set(waived.map((item) => item.finding.key));
    const open = findings.filter((finding) => !isWaived.has(finding.key));
    await insertWaivers(trx, character, number, [{ waiver: waiverFor(open, words), findings: open }]);
  });
}

/**
 * Takes waivers that were made elsewhere, as far as a revision has their findings. All or none of them are kept.
 * Throws {@link Refused}.
 */
export async function bringIn(
  db: Kysely<Database>,
  character: string,
  revision: string,
  offered: readonly Waiver[],
): Promise<{ taken: number; left: WaiversTaken['left'] }> {
  return db.transaction().execute(async (trx) => {
    // Whoever brings the same file in at the same time waits, and finds it there.
    await trx.selectFrom('characters').select('id').where('id', '=', character).forUpdate().execute();
    const { number, told } = await foundOn(trx, character, revision);
    if (!told)
      throw new Refused(
        'This revision has not been audited yet; wait until it has been, then bring the waivers in again.',
        409,
      );
    const stands = standing(await waiversOf(trx, character));
    const { taken, left } = takeWaivers(offered, told, stands, { today: today(), revision: number });
    if (taken.length > 0) await insertWaivers(trx, character, number, taken);
    return { taken: taken.length, left };
  });
}

/** What was found on a character's revision under its brief. Throws {@link Refused}. */
async function foundOn(db: Db, character: string, revision: string) {
  const { characterId, number, brief } = await revisionById(db, revision);
  if (characterId !== character)
    throw new Refused('That revision does not belong to this character; reload the page.', 404);
  return { number, told: await toldOn(db, revision, briefKey(await briefById(db, brief))) };
}

async function insertWaivers(
  db: Db,
  character: string,
  revision: number,
  taken: WaiversTaken['taken'],
): Promise<void> {
  const { n: name } = await db
    .selectFrom('waivers')
    .select((expression) => expression.fn.countAll<string>().as('n'))
    .where('character_id', '=', character)
    .executeTakeFirstOrThrow();
  if (Number(name) + taken.length > MOST)
    throw new Refused(
      `A character keeps ${MOST} waivers at most, withdrawn ones too, and this one has ${name}; change the brief instead of waiving one by one. Nothing was waived.`,
      409,
    );
  const rows = taken.map(({ waiver, findings }) => ({
    character_id: character,
    revision,
    waiver: JSON.stringify(waiver),
    findings: JSON.stringify(findings),
  }));
  await db.insertInto('waivers').values(rows).execute();
}

/** Takes a waiver back. One that was taken back before stays as it is. Throws {@link Refused}. */
export async function withdraw(db: Db, character: string, waiver: string, by: string): Promise<void> {
  const { numUpdatedRows } = await db
    .updateTable('waivers')
    .set({
      withdrawn_at: sql`coalesce(withdrawn_at, now())` as never,
      withdrawn_by: sql`coalesce(withdrawn_by, ${by})` as never,
    })
    .where('id', '=', waiver)
    .where('character_id', '=', character)
    .executeTakeFirst();
  if (Number(numUpdatedRows) === 0)
    throw new Refused('This waiver is not in the house any more; reload the page.', 404);
}

/** Gives a copy of a character the waivers that stand on it. */
export async function copyWaivers(db: Db, from: string, to: string): Promise<void> {
  await db
    .insertInto('waivers')
    .columns(['character_id', 'waiver', 'findings', 'revision'])
    .expression((expression) =>
      expression
        .selectFrom('waivers')
        // The copy counts its revisions anew; up to which one a waiver was to hold cannot be told there.
        .select([sql.lit(to).as('character_id'), 'waiver', 'findings', sql.lit(1).as('revision')])
        .where('character_id', '=', from)
        .where('withdrawn_at', 'is', null)
        .where(sql<boolean>`not waiver ? 'untilRevision'`),
    )
    .execute();
}
