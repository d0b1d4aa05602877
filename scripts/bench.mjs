/** `npm run bench`: bundles the bench and runs it in a process of its own. */
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { buildBundles, buildDemo, buildKernels, checkNode, installPackages, main, root } from './lib.mjs';

await main(async () => {
  checkNode();
  installPackages();
  buildKernels();
  await buildBundles();
  buildDemo();
  const { build } = await import('esbuild');
  const out = path.join(root, 'dist', 'bench.mjs');
  await build({
    entryPoints: [path.join(root, 'src/bench/main.ts')],
    outfile: out,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'error',
    packages: 'external',
  });
  return spawnSync(process.execPath, [out], { stdio: 'inherit', cwd: root }).status ?? 1;
});
