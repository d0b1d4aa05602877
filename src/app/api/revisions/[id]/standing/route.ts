import { standUnder } from '@/routes/briefs';
import { briefSent } from '@/server/briefs';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { runTask } from '@/server/pool';
import { wireOf } from '@/server/revisions';

export const POST = handle(standUnder, async ({ id, brief }) => {
  const asked = briefSent(brief);
  const { measured, findings } = await runTask('standing', async () => ({
    wire: await wireOf(database(), id),
    brief: asked,
  }));
  return { measured, findings };
});
