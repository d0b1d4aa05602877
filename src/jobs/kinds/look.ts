/** What is asked of the house without changing it: audits, and how the shelf would stand under another brief. */
import { boolean, mixed, object, string } from 'yup';
import type { Counts } from '../../core/contracts/finding';
import { briefKey } from '../../core/house/brief';
import { saveAudit } from '../../server/audits';
import { briefByKey, briefSent } from '../../server/briefs';
import { lastHandedMotion } from '../../server/dockets';
import { runTask } from '../../server/pool';
import { revisionById, wireOf } from '../../server/revisions';
import { type StandsUnder, standingUnder } from '../../server/standings';
import { type JobContext, defineJob } from '../job';

export const audit = defineJob({
  kind: 'audit',
  version: 1,
  lane: 'at hand',
  bounds: {},
  input: object({
    revision: string().required(),
    /** Key of the brief, with its version. */
    brief: string().required(),
    isMoved: boolean().default(false),
  }),
  run: async ({ revision, brief: key, isMoved }, at: JobContext<{ counts: Counts }>) => {
    const { db, signal, bounds, tell } = at;
    const { characterId } = await revisionById(db, revision);
    const brief = await briefByKey(db, key);
    const handed = isMoved ? await lastHandedMotion(db, characterId) : null;
    const input = async () => ({ wire: await wireOf(db, revision), brief, isMoved, handed });
    const audited = await runTask('audit', input, { onProgress: tell, signal, bounds });
    const answer = { counts: audited.counts };
    await saveAudit(db, revision, briefKey(brief), audited, {
      ended: (trx) => at.ended(trx, answer),
      signal,
    });
    return answer;
  },
});

export const tryBrief = defineJob({
  kind: 'try a brief',
  version: 1,
  lane: 'one at a time',
  isPassing: true,
  bounds: {},
  input: object({
    /** The brief whose characters are looked at, and what they would be held against. */
    id: string().required(),
    brief: mixed<object>().required(),
  }),
  run: async ({ id, brief }, { db, signal, bounds, tell, ended }: JobContext<{ rows: StandsUnder[] }>) => {
    const rows = await standingUnder(db, id, briefSent(brief), { signal, bounds, onProgress: tell });
    await db.transaction().execute((trx) => ended(trx, { rows }));
    return { rows };
  },
});
