/** How characters stand under a brief. */
import type { Kysely } from 'kysely';
import type { Counts } from '../core/contracts/finding';
import type { FindingTold } from '../core/contracts/waiver';
import { type Brief, briefKey } from '../core/house/brief';
import { isKeyInMotion } from '../core/house/registry';
import { toldOn } from './audits';
import { briefById } from './briefs';
import type { Database } from './database';
import { houseStamp } from './house';
import { type RunOptions, runTask } from './pool';
import { wireOf } from './revisions';
import { allStanding, countOpen } from './waivers';

/** How a character stands under a brief as it is, and under another version of it. */
export interface StandsUnder {
  readonly id: string;
  readonly name: string;
  readonly now: Counts;
  readonly then: Counts;
}

/**
 * How the characters that are held against a brief stand, and how they would under another version of it,
 * without what is waived: audited now where these checks have not been asked.
 */
export async function standingUnder(
  db: Kysely<Database>,
  id: string,
  then: Brief,
  options: RunOptions = {},
): Promise<StandsUnder[]> {
  const now = await briefById(db, id);
  const users = await db
    .selectFrom('characters as c')
    .innerJoin('revisions as r', 'r.id', 'c.head')
    .select(['c.id', 'c.name', 'r.id as revision', 'r.number'])
    .where('c.brief', '=', id)
    .orderBy('c.created_at')
    .execute();
  const waivers = await allStanding(db);
  const rows: StandsUnder[] = [];
  for (const { id: user, name, revision, number } of users) {
    options.onProgress?.({ stage: `auditing ${name}`, share: rows.length / users.length });
    const known = await toldAtRest(db, revision, briefKey(now));
    const open = (told: readonly FindingTold[]) => countOpen(told, waivers.get(user) ?? [], number).counts;
    rows.push({
      id: user,
      name,
      now: open(known ?? (await toldUnder(db, revision, now, options))),
      then: open(await toldUnder(db, revision, then, options)),
    });
  }
  return rows;
}

/** What an audit found that shows at rest: nobody moves the figures for another version of their brief. */
async function toldAtRest(
  db: Kysely<Database>,
  revision: string,
  brief: string,
): Promise<readonly FindingTold[] | null> {
  const told = await toldOn(db, revision, brief, houseStamp());
  return told?.filter(({ key }) => !isKeyInMotion(key)) ?? null;
}

async function toldUnder(
  db: Kysely<Database>,
  revision: string,
  brief: Brief,
  { signal, bounds }: RunOptions,
): Promise<readonly FindingTold[]> {
  const input = async () => ({ wire: await wireOf(db, revision), brief });
  const { told } = await runTask('audit', input, { signal, bounds });
  return told;
}
