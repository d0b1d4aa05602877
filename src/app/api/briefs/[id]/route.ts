import { readBriefVersions, removeBrief } from '@/routes/briefs';
import * as briefs from '@/server/briefs';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const GET = handle(readBriefVersions, ({ id }) => briefs.versionsOf(database(), id));

export const DELETE = handle(removeBrief, async ({ id }) => {
  await briefs.removeBrief(database(), id);
  return { removed: true };
});
