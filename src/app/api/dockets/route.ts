import { listDockets } from '@/routes/dockets';
import { database } from '@/server/database';
import * as dockets from '@/server/dockets';
import { handle } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = handle(listDockets, async ({ character }) => ({
  dockets: await dockets.listDockets(database(), character),
}));
