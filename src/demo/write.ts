/** Writes the demo cast as files: node dist/demo.mjs FOLDER */
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { demoCast } from './index';

const folder = process.argv[2] ?? 'dist/demo';
mkdirSync(folder, { recursive: true });
const cast = demoCast();
for (const member of cast) writeFileSync(path.join(folder, member.file), member.bytes);
writeFileSync(
  path.join(folder, 'cast.json'),
  JSON.stringify(
    cast.map(({ bytes: _bytes, ...rest }) => rest),
    null,
    1,
  ),
);
