import { withdrawWaiver } from '@/routes/waivers';
import { database } from '@/server/database';
import { handle } from '@/server/http';
import { waiversOf, withdraw } from '@/server/waivers';

export const POST = handle(withdrawWaiver, async ({ id, waiver, by }) => {
  await withdraw(database(), id, waiver, by);
  return { waivers: await waiversOf(database(), id) };
});
