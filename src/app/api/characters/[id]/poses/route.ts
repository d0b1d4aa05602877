import { keepPose } from '@/routes/poses';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import * as poses from '@/server/poses';

export const POST = handle(
  keepPose,
  async ({ id, ...pose }) => {
    await poses.keepPose(database(), id, pose);
    return characterById(database(), id);
  },
  201,
);
