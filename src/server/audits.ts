/** Audits that were made: findings of a revision under a brief, by the checks of this house. */
import { type Kysely, type Transaction, sql } from 'kysely';
import type { FindingTold } from '../core/contracts/waiver';
import type { Audited, EarlierAudit } from '../tasks/task';
import { type Db, getBlob, putBlob } from './blobs';
import { type Database, lockForKeeping } from './database';
import { houseStamp } from './house';

/** The findings of a revision under a brief as a bundle; null where these checks have not been asked. */
export async function findingsOf(db: Db, revisionId: string, brief: string): Promise<Uint8Array | null> {
  const row = await db
    .selectFrom('audits')
    .select('findings')
    .where('revision_id', '=', revisionId)
    .where('brief', '=', brief)
    .where('house', '=', houseStamp())
    .executeTakeFirst();
  return row ? getBlob(db, row.findings) : null;
}

/** The same for a step that begins from that revision: checks that it does not concern keep their answers. */
export async function earlierAudit(
  db: Db,
  revisionId: string,
  brief: string,
): Promise<EarlierAudit | undefined> {
  const findings = await findingsOf(db, revisionId, brief);
  return findings ? { brief, findings } : undefined;
}

/** Keeps an audit within a transaction of the caller's; one that was there under the brief is replaced. */
export async function insertAudit(
  trx: Transaction<Database>,
  revisionId: string,
  brief: string,
  { findings, counts, told, isMoved }: Audited,
): Promise<void> {
  const made = {
    findings: await putBlob(trx, findings),
    counts: JSON.stringify(counts),
    house: houseStamp(),
    told: JSON.stringify(told),
    moved: isMoved,
  };
  await trx
    .insertInto('audits')
    .values({ revision_id: revisionId, brief, ...made })
    .onConflict((builder) => builder.columns(['revision_id', 'brief']).doUpdateSet(made))
    .execute();
}

/** Keeps an audit; one that was there under the brief is replaced. */
export async function saveAudit(
  db: Kysely<Database>,
  revisionId: string,
  brief: string,
  audited: Audited,
  { ended, signal }: { ended?: (trx: Transaction<Database>) => Promise<void>; signal?: AbortSignal } = {},
): Promise<void> {
  const save = async (trx: Transaction<Database>) => {
    await insertAudit(trx, revisionId, brief, audited);
    await ended?.(trx);
  };
  await lockForKeeping(db, save, signal);
}

/** Gives a revision the audits of another that holds the same. */
export async function copyAudits(trx: Transaction<Database>, from: string, to: string): Promise<void> {
  await trx
    .insertInto('audits')
    .columns(['revision_id', 'brief', 'findings', 'counts', 'house', 'told', 'moved'])
    .expression((expression) =>
      expression
        .selectFrom('audits')
        .select([sql.lit(to).as('revision_id'), 'brief', 'findings', 'counts', 'house', 'told', 'moved'])
        .where('revision_id', '=', from),
    )
    .execute();
}

/**
 * What an audit found on a revision under a brief, as far as waivers look at it; null where none was made.
 * @param house where given, only what its checks found
 */
export async function toldOn(
  db: Db,
  revisionId: string,
  brief: string,
  house?: string,
): Promise<readonly FindingTold[] | null> {
  const row = await db
    .selectFrom('audits')
    .select(['told', 'house'])
    .where('revision_id', '=', revisionId)
    .where('brief', '=', brief)
    .executeTakeFirst();
  return row && (house === undefined || row.house === house) ? row.told : null;
}
