/** The key of the house: it signs what is handed over. Kept with the data; of those that were turned the public half stays. */
import { type Kysely, sql } from 'kysely';
import { type Docket, docketFile, signedText } from '../core/house/docket';
import { type KeyPair, makeKeyPair, signText } from '../keys/ed25519';
import type { HouseKeyEntry } from '../routes/keys';
import type { Db } from './blobs';
import type { Database } from './database';

/** The key that signs now; one is made where there is none yet. */
export async function houseKey(db: Kysely<Database>): Promise<KeyPair> {
  return (await presentKey(db)) ?? makeKey(db, false);
}

async function presentKey(db: Db): Promise<KeyPair | null> {
  const row = await db.selectFrom('house_keys').selectAll().where('until', 'is', null).executeTakeFirst();
  return row ? { publicHalf: row.public_half, privateHalf: row.private_half ?? '' } : null;
}

/** A new key signs from now on. What the one before has signed still is: its public half stays, its private one goes. */
export const turnKey = (db: Kysely<Database>): Promise<KeyPair> => makeKey(db, true);

async function makeKey(db: Kysely<Database>, isTurned: boolean): Promise<KeyPair> {
  return db.transaction().execute(async (trx) => {
    // Of several that ask at once one makes it.
    await sql`lock table house_keys in exclusive mode`.execute(trx);
    const present = await presentKey(trx);
    if (present && !isTurned) return present;
    await trx
      .updateTable('house_keys')
      .set({ until: sql`now()` as never, private_half: null })
      .where('until', 'is', null)
      .execute();
    const made = makeKeyPair();
    await trx
      .insertInto('house_keys')
      .values({ public_half: made.publicHalf, private_half: made.privateHalf })
      .execute();
    return made;
  });
}

/** The public halves of all keys that the house has had, the present one first. */
export async function houseKeys(db: Kysely<Database>): Promise<HouseKeyEntry[]> {
  await houseKey(db);
  const rows = await db
    .selectFrom('house_keys')
    .select(['public_half', 'since', 'until'])
    .orderBy('since', 'desc')
    .execute();
  return rows.map((row) => ({
    key: row.public_half,
    since: row.since.toISOString(),
    until: row.until?.toISOString() ?? null,
  }));
}

/** The file of a docket that this house has just sealed, signed. */
export function signDocket(key: KeyPair, file: string): string {
  const docket = JSON.parse(file) as Docket;
  const signature = { key: key.publicHalf, value: signText(key, signedText(docket)) };
  return docketFile({ ...docket, signature });
}
