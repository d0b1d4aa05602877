import { removePose } from '@/routes/poses';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import * as poses from '@/server/poses';

export const DELETE = handle(removePose, async ({ id, pose }) => {
  await poses.removePose(database(), id, pose);
  return characterById(database(), id);
});
