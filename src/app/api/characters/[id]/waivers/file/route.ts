import { bringWaivers } from '@/routes/waivers';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { bringIn, waiversOf } from '@/server/waivers';

export const POST = handle(
  bringWaivers,
  async ({ id, revision, waivers }) => {
    const came = await bringIn(database(), id, revision, waivers);
    return { ...came, waivers: await waiversOf(database(), id) };
  },
  201,
);
