/** The key of the house: Ed25519 against the vectors of RFC 8032 (7.1), one key however many ask, and keys that turn. */
import type { Kysely } from 'kysely';
import { isSignedBy, makeKeyPair, signText } from '@/keys/ed25519';
import { type Database, openDatabase } from '@/server/database';
import { houseKey, houseKeys, turnKey } from '@/server/house-key';
import { migrate } from '@/server/migrations';
import { ownDatabase } from './support/database';

const bytes = (hex: string) => Uint8Array.from(Buffer.from(hex, 'hex'));

describe('signatures', () => {
  it.each([
    [
      '9d61b19deffd5a60ba844af492ec2cc44449c5697b326919703bac031cae7f60',
      'd75a980182b10ab7d54bfed3c964073a0ee172f3daa62325af021a68f707511a',
      '',
      'e5564300c360ac729086e2cc806e828a84877f1eb8e5d974d873e065224901555fb8821590a33bacc61e39701cf9b46bd25bf5f0595bbe24655141438e7a100b',
    ],
    [
      '4ccd089b28ff96da9db6c346ec114e0f5b8a319f35aba624da8cf6ed4fb8a6fb',
      '3d4017c3e843895a92b70aa74d1b7ebc9c982ccf2ec4968cc0cd55f12af4660c',
      '72',
      '92a009a9f0d4cab8720e820b5f642540a2b27b5416503f8fb3762223ebdb69da085ac1e43e15996e458f3613d0f11d8c387b2eaeb4302aeeb00d291612bb0c00',
    ],
  ])('are those of RFC 8032: %s', (privateHalf, publicHalf, message, signature) => {
    expect(signText({ publicHalf, privateHalf }, bytes(message))).toBe(signature);
    expect(isSignedBy(publicHalf, bytes(message), signature)).toBe(true);
    expect(isSignedBy(publicHalf, bytes(`${message}00`), signature)).toBe(false);
  });
  it('of another key, of another text and of no key at all are none', () => {
    const [mine, yours] = [makeKeyPair(), makeKeyPair()];
    const signature = signText(mine, 'what was handed over');
    expect(isSignedBy(mine.publicHalf, 'what was handed over', signature)).toBe(true);
    expect(isSignedBy(yours.publicHalf, 'what was handed over', signature)).toBe(false);
    expect(isSignedBy(mine.publicHalf, 'what was handed under', signature)).toBe(false);
    for (const key of ['', 'ff'.repeat(32), 'no key']) expect(isSignedBy(key, 'x', signature)).toBe(false);
    for (const bad of ['', '00', `${signature}00`]) expect(isSignedBy(mine.publicHalf, 'x', bad)).toBe(false);
  });
});

describe('the key of a house', () => {
  let db: Kysely<Database>;
  let drop: () => Promise<void>;
  beforeAll(async () => {
    const own = await ownDatabase('bough_house_key');
    drop = own.drop;
    db = openDatabase(own.url);
    await migrate(db);
  });
  afterAll(async () => {
    await db.destroy();
    await drop();
  });
  it('is made once, however many ask for it first', async () => {
    const all = await Promise.all(Array.from({ length: 8 }, () => houseKey(db)));
    expect(new Set(all.map((pair) => pair.publicHalf)).size).toBe(1);
    expect(await houseKeys(db)).toEqual([{ key: all[0].publicHalf, since: expect.any(String), until: null }]);
  });
  it('turns: another signs, what the one before has signed still is, and its private half is gone', async () => {
    const before = await houseKey(db);
    const signature = signText(before, 'a docket');
    const after = await turnKey(db);
    expect(after.publicHalf).not.toBe(before.publicHalf);
    expect((await houseKey(db)).publicHalf).toBe(after.publicHalf);
    const keys = await houseKeys(db);
    expect(keys.map((key) => [key.key, key.until === null])).toEqual([
      [after.publicHalf, true],
      [before.publicHalf, false],
    ]);
    expect(isSignedBy(keys[1].key, 'a docket', signature)).toBe(true);
    const rows = await db.selectFrom('house_keys').select(['public_half', 'private_half']).execute();
    expect(rows.find((row) => row.public_half === before.publicHalf)?.private_half).toBeNull();
  });
});
