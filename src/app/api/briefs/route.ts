import { listBriefs, saveBrief } from '@/routes/briefs';
import * as briefs from '@/server/briefs';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = handle(listBriefs, async () => ({ briefs: await briefs.listBriefs(database()) }));

export const PUT = handle(saveBrief, async ({ base, brief }) => ({
  brief: await briefs.saveBrief(database(), base, briefs.briefSent(brief)),
}));
