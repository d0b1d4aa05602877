/** Brings the database up to date and loads the demo cast once: node dist/prepare.mjs FOLDER */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { runJob } from '../worker/tasks';
import { hashOf } from './blobs';
import { createCharacter } from './characters';
import { openDatabase } from './database';
import { migrate } from './migrations';

const folder = process.argv[2];
const db = openDatabase(process.env.DATABASE_URL ?? '');
try {
  await migrate(db);
  const any = await db.selectFrom('characters').select('id').limit(1).executeTakeFirst();
  if (!any && folder) {
    const cast = JSON.parse(readFileSync(path.join(folder, 'cast.json'), 'utf8')) as {
      file: string;
      title: string;
      brief: string;
    }[];
    for (const member of cast) {
      const bytes = new Uint8Array(readFileSync(path.join(folder, member.file)));
      const files = [{ name: member.file, bytes }];
      const made = runJob<'import'>({ task: 'import', input: { files, brief: member.brief } });
      if ('refused' in made) throw new Error(made.refused);
      await createCharacter(db, member.title, member.brief, {
        ...made,
        brief: member.brief,
        label: 'as delivered',
        step: {
          kind: 'import',
          files: [{ name: member.file, bytes: bytes.length, sha256: hashOf(bytes) }],
          notes: [...made.notes],
        },
      });
    }
  }
} finally {
  await db.destroy();
}
