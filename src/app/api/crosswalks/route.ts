import { readCrosswalk, saveCrosswalk } from '@/routes/crosswalks';
import * as crosswalks from '@/server/crosswalks';
import { database } from '@/server/database';
import { handle } from '@/server/http';

export const GET = handle(readCrosswalk, async ({ source, target }) => {
  const file = await crosswalks.savedCrosswalk(database(), source, target);
  return { file, others: file ? [] : await crosswalks.crosswalksOnto(database(), target) };
});

export const PUT = handle(saveCrosswalk, async (file) => {
  await crosswalks.saveCrosswalk(database(), file);
  return { saved: true };
});
