/** Brings the database up to date and loads the demo cast once: node dist/prepare.mjs FOLDER */
import { openDatabase } from '../server/database';
import { bringBriefs } from '../server/briefs';
import { loadCast } from '../server/cast';
import { houseKey } from '../server/house-key';
import { migrate } from '../server/migrations';
import { checkBounds } from './bounds';
import { ALL_KINDS } from './kinds';
import { prepareQueue } from './queue';
import { takeIn } from './take-in';

checkBounds(ALL_KINDS);
const folder = process.argv[2];
const db = openDatabase(process.env.DATABASE_URL ?? '');
try {
  await migrate(db);
  await prepareQueue(db);
  await bringBriefs(db);
  await houseKey(db);
  if (folder) await loadCast(db, folder, takeIn);
} finally {
  await db.destroy();
}
