/** Bundles what the threads compute, for all test files of a run. */
import path from 'node:path';
import { build } from 'esbuild';

const root = path.resolve(import.meta.dirname, '../../..');

export default () =>
  build({
    entryPoints: [path.join(root, 'src/worker/tasks.ts')],
    outfile: path.join(root, 'dist/tests-tasks.mjs'),
    bundle: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    packages: 'external',
    alias: { '@': path.join(root, 'src') },
    logLevel: 'silent',
  });
