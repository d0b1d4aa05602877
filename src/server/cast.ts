/** The demo cast: made-up characters that a new house has on its shelf. */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { Kysely } from 'kysely';
import { type Brief, briefKey } from '../core/house/brief';
import type { InputFile } from '../core/formats/errors';
import type { Made } from '../tasks/task';
import { hashOf } from './blobs';
import { briefById } from './briefs';
import { createCharacter } from './characters';
import type { Database } from './database';

interface Member {
  readonly file: string;
  readonly title: string;
  readonly brief: string;
}

/** Reads files as a character under a brief, here and now: no worker runs yet when a house is prepared. */
export type TakeIn = (files: readonly InputFile[], brief: Brief) => Made;

/**
 * Loads the cast of a folder, once in the life of a house: what a person removes does not come back. Where it
 * was broken off it goes on with who is not there yet.
 */
export async function loadCast(db: Kysely<Database>, folder: string, take: TakeIn): Promise<void> {
  const done = await db.selectFrom('done_once').select('what').where('what', '=', 'cast').executeTakeFirst();
  if (done) return;
  const there = new Set((await db.selectFrom('characters').select('name').execute()).map((row) => row.name));
  const cast = JSON.parse(readFileSync(path.join(folder, 'cast.json'), 'utf8')) as Member[];
  for (const member of cast) if (!there.has(member.title)) await loadMember(db, folder, member, take);
  await db
    .insertInto('done_once')
    .values({ what: 'cast' })
    .onConflict((builder) => builder.doNothing())
    .execute();
}

async function loadMember(
  db: Kysely<Database>,
  folder: string,
  { file, title, brief }: Member,
  take: TakeIn,
): Promise<void> {
  const bytes = new Uint8Array(readFileSync(path.join(folder, file)));
  const wants = await briefById(db, brief);
  const files = [{ name: file, bytes }];
  const made = take(files, wants);
  await createCharacter(db, title, brief, {
    ...made,
    brief: briefKey(wants),
    label: 'as delivered',
    step: {
      kind: 'import',
      files: [{ name: file, bytes: bytes.length, sha256: hashOf(bytes) }],
      notes: [...made.notes],
    },
  });
}
