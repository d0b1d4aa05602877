/** Writes the demo cast as files: node dist/demo.mjs FOLDER; with a quarter of its points: … FOLDER --coarse */
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { STEPS, demoCast } from './index';

const [folder = 'dist/demo', which] = process.argv.slice(2);
mkdirSync(folder, { recursive: true });
const cast = demoCast(which === '--coarse' ? STEPS.coarse : STEPS.fine);
for (const member of cast) writeFileSync(path.join(folder, member.file), member.bytes);
writeFileSync(
  path.join(folder, 'cast.json'),
  JSON.stringify(
    cast.map(({ bytes: _bytes, ...rest }) => rest),
    null,
    1,
  ),
);
