/** What docs/adding.md says of kinds of jobs is true: its example, one file and one line, is taken and done by a worker. */
import { build } from 'esbuild';
import { spawnSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { BRIEFS } from '@/core/house/briefs';
import type * as Ask from '@/jobs/ask';
import type * as Kinds from '@/jobs/kinds';
import type * as Queue from '@/jobs/queue';
import type * as WorkerModule from '@/jobs/worker';
import { characterById } from '@/server/characters';
import { arriveAs, houseWithBriefs } from './support/asking';

type House = typeof Ask & typeof Kinds & typeof Queue & typeof WorkerModule;

const root = path.resolve(__dirname, '../..');
const page = readFileSync(path.join(root, 'docs', 'adding.md'), 'utf8');
const house = houseWithBriefs('bough_adding');
let folder = '';
let file = '';

beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'adding-job-'));
  cpSync(path.join(root, 'src'), path.join(folder, 'src'), { recursive: true });
  cpSync(path.join(root, 'package.json'), path.join(folder, 'package.json'));
  symlinkSync(path.join(root, 'node_modules'), path.join(folder, 'node_modules'));
  const found = /`(src\/jobs\/kinds\/[^`]+)`:\n\n```ts job\n([^]*?)```/.exec(page);
  if (!found) throw new Error('docs/adding.md shows no kind of job.');
  file = found[1];
  writeFileSync(path.join(folder, file), found[2]);
  const name = /export const (\w+)/.exec(found[2])![1];
  expect(page).toContain(`\`src/jobs/kinds.ts\`: \`${name},\``);
  const list = path.join(folder, 'src', 'jobs', 'kinds.ts');
  const before = readFileSync(list, 'utf8');
  const after = before.replace('export const KINDS = [', `export const KINDS = [\n  ${name},`);
  expect(after).not.toBe(before);
  writeFileSync(list, `import { ${name} } from './kinds/${path.basename(file, '.ts')}';\n${after}`);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

it('the example is of the right types', () => {
  const { compilerOptions } = JSON.parse(readFileSync(path.join(root, 'tsconfig.json'), 'utf8')) as {
    compilerOptions: object;
  };
  const config = {
    compilerOptions: { ...compilerOptions, incremental: false, types: ['node'] },
    files: [file, 'src/jobs/kinds.ts'],
  };
  writeFileSync(path.join(folder, 'tsconfig.json'), JSON.stringify(config));
  const tsc = path.join(root, 'node_modules', '.bin', 'tsc');
  const made = spawnSync(tsc, ['-p', '.'], { cwd: folder, encoding: 'utf8' });
  expect([made.status, made.stdout]).toEqual([0, '']);
});

it('a worker of that house does it; one that does not know it leaves it alone', async () => {
  const entry = path.join(folder, 'entry.ts');
  const modules = ['ask', 'kinds', 'queue', 'worker'];
  writeFileSync(entry, modules.map((module) => `export * from './src/jobs/${module}';\n`).join(''));
  const outfile = path.join(folder, 'house.cjs');
  await build({
    entryPoints: [entry],
    bundle: true,
    platform: 'node',
    format: 'cjs',
    outfile,
    packages: 'external',
    logLevel: 'silent',
  });
  const { ALL_KINDS, Worker, ask, jobWithParts, prepareQueue } = createRequire(__filename)(outfile) as House;
  const db = house();
  await prepareQueue(db);
  const figure = await arriveAs(db, 'quay-skeleton.glb', BRIEFS[0]);
  const job = {
    id: randomUUID(),
    kind: 'write on a line',
    title: 'a note',
    input: { note: 'for the night build' },
    character: figure.id,
    base: null,
  };
  const url = process.env.DATABASE_URL as string;
  const known = ALL_KINDS.filter((kind) => kind.kind !== job.kind);
  expect(known).toHaveLength(ALL_KINDS.length - 1);
  const old = new Worker(db, url, known);
  await old.start();
  await ask(db, job, '');
  const stateOf = async () => (await jobWithParts(db, job.id)).job;
  const newer = new Worker(db, url, ALL_KINDS);
  try {
    await new Promise((done) => setTimeout(done, 1500));
    expect(await stateOf()).toMatchObject({ state: 'asked', attempts: 0 });
    await newer.start();
    for (let i = 0; i < 200 && (await stateOf()).state !== 'done'; i++)
      await new Promise((done) => setTimeout(done, 50));
    expect(await stateOf()).toMatchObject({ state: 'done', answer: { revisions: 1 } });
    expect((await characterById(db, figure.id)).revisions[0].note).toBe('for the night build');
  } finally {
    await Promise.all([old.stop(), newer.stop()]);
  }
});
