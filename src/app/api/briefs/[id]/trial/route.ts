import { tryBrief } from '@/routes/briefs';
import { briefSent } from '@/server/briefs';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { standingUnder } from '@/server/standings';

export const POST = handle(tryBrief, async ({ id, brief }) => ({
  rows: await standingUnder(database(), id, briefSent(brief)),
}));
