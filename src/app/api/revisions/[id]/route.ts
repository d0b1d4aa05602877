import { readRevision, writeOnRevision } from '@/routes/revisions';
import { database } from '@/server/database';
import { type Context, answer, binary, handle, readRequest } from '@/server/http';
import { Refused } from '@/server/refused';
import * as revisions from '@/server/revisions';

/** The bytes as they are stored: a revision never changes, and so neither does this. */
export const GET = (request: Request, context: Context) =>
  answer(request, async () => {
    const { id } = await readRequest(readRevision.request, request, context);
    const { bytes } = await revisions.manifestOf(database(), id);
    return binary(bytes, 'application/json', { 'cache-control': 'private, max-age=31536000, immutable' });
  });

export const PATCH = handle(writeOnRevision, async ({ id, label, note }) => {
  const words = { ...(label !== undefined && { label }), ...(note !== undefined && { note }) };
  if (Object.keys(words).length === 0)
    throw new Refused('The request changes nothing; send a label or a note.', 400);
  await revisions.writeOnRevision(database(), id, words);
  return { saved: true };
});
