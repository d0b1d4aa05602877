import { moveHead, readHead } from '@/routes/characters';
import { characterById } from '@/server/characters';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import * as revisions from '@/server/revisions';

export const GET = handle(readHead, ({ id }) => revisions.headOf(database(), id));

export const POST = handle(moveHead, async ({ id, base, to }) => {
  await revisions.moveHead(database(), id, base, to);
  return characterById(database(), id);
});
