import { learnFrom } from '@/routes/briefs';
import { briefById } from '@/server/briefs';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { runTask } from '@/server/pool';
import { revisionById, wireOf } from '@/server/revisions';

export const POST = handle(learnFrom, async ({ id, base, title }) => {
  const from = await briefById(database(), base);
  const { name } = await revisionById(database(), id);
  const input = async () => ({ wire: await wireOf(database(), id), base: from, title, from: name });
  const { brief, settings, eased } = await runTask('learn', input);
  return { brief, settings: [...settings], eased: [...eased] };
});
