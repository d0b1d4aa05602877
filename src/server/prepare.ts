/** Brings the database up to date and loads the demo cast once: node dist/prepare.mjs FOLDER */
import { openDatabase } from './database';
import { bringBriefs } from './briefs';
import { loadCast } from './cast';
import { migrate } from './migrations';

const folder = process.argv[2];
const db = openDatabase(process.env.DATABASE_URL ?? '');
try {
  await migrate(db);
  await bringBriefs(db);
  if (folder) await loadCast(db, folder);
} finally {
  await db.destroy();
}
