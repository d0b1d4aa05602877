/** `npm run --silent bough -- …`: prepares what is missing, then runs the core on the command line. */
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { buildBundles, checkNode, installPackages, main, root } from './lib.mjs';

await main(async () => {
  checkNode();
  installPackages();
  await buildBundles();
  const cwd = process.env.INIT_CWD ?? process.cwd();
  const done = spawnSync(process.execPath, [path.join(root, 'dist', 'cli.mjs'), ...process.argv.slice(2)], {
    stdio: 'inherit',
    cwd,
  });
  return done.status ?? 2;
});
