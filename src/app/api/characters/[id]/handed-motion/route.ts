import { handedMotion } from '@/routes/dockets';
import { database } from '@/server/database';
import { lastHandedMotion } from '@/server/dockets';
import { handle } from '@/server/http';

/** How a character bent when it was handed over last. */
export const GET = handle(handedMotion, async ({ id }) => ({
  motion: await lastHandedMotion(database(), id),
}));
