import { listKeys, turnKey } from '@/routes/keys';
import { database } from '@/server/database';
import * as keys from '@/server/house-key';
import { handle } from '@/server/http';

export const dynamic = 'force-dynamic';

export const GET = handle(listKeys, async () => ({ keys: await keys.houseKeys(database()) }));

export const POST = handle(turnKey, async () => {
  await keys.turnKey(database());
  return { keys: await keys.houseKeys(database()) };
});
