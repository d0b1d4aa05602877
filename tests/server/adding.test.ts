/**
 * What docs/adding.md says of jobs, tools, steps and tasks is true: its examples, a file and a line each, are of the right
 * types and do what they say.
 */
import { randomUUID } from 'node:crypto';
import path from 'node:path';
import type { Step } from '@/core/contracts/step';
import { BRIEFS } from '@/core/house/briefs';
import type * as Ask from '@/jobs/ask';
import type * as Kinds from '@/jobs/kinds';
import type * as Queue from '@/jobs/queue';
import type * as WorkerModule from '@/jobs/worker';
import { characterById } from '@/server/characters';
import { wireOf } from '@/server/revisions';
import type * as Steps from '@/server/steps';
import type { MakeTool } from '@/ui/stage/tools/tool';
import type * as Store from '@/ui/state/store';
import type * as Tasks from '@/worker/tasks';
import { ExtendedCopy, exampleOf } from '../core/support/extended-copy';
import { arriveAs, houseWithBriefs } from './support/asking';

type House = typeof Ask &
  typeof Kinds &
  typeof Queue &
  typeof WorkerModule &
  typeof Steps &
  typeof Tasks &
  typeof Store & { makePlumbTool: MakeTool };

const copy = new ExtendedCopy('src');
const db = houseWithBriefs('bough_adding');
const files: string[] = [];
let house: House;

beforeAll(async () => {
  files.push(...['job', 'tool', 'step', 'task', 'work'].map((mark) => copy.write(mark)));
  const list = 'export const KINDS = [';
  const kind = "import { writeOnLine } from './kinds/write-on-line';\n";
  copy.change('src/jobs/kinds.ts', 'writeOnLine,', list, `${list}\n  writeOnLine,`, kind);
  const member = "| { kind: 'signed off'; by: string }";
  copy.change('src/core/contracts/step.ts', member, 'export type Step =', `export type Step =\n  ${member}`);
  const steps = 'export const STEPS = [';
  const step = "import { signedOff } from './signed-off';\n";
  copy.change('src/server/steps/index.ts', 'signedOff,', steps, `${steps}signedOff, `, step);
  const tasks = 'export const TASKS = {';
  const task = "import { countTask } from './count';\n";
  copy.change('src/tasks/list.ts', 'count: countTask,', tasks, `${tasks}\n  count: countTask,`, task);
  const first = '  import: importFiles,';
  const work = "import { countBones } from './tasks/count';\n";
  copy.change('src/worker/tasks.ts', 'count: countBones,', first, `  count: countBones,\n${first}`, work);
  const modules = ['jobs/ask', 'jobs/kinds', 'jobs/queue', 'jobs/worker', 'server/steps', 'worker/tasks'];
  modules.push('ui/state/store', exampleOf('tool').file.replace(/^src\/|\.ts$/g, ''));
  house = (await copy.load(modules, {
    packages: 'external',
    alias: { '@': path.join(copy.folder, 'src') },
  })) as House;
});
afterAll(() => copy.remove());

it('the examples are of the right types', () => {
  const lists = ['src/jobs/kinds.ts', 'src/server/steps/index.ts', 'src/worker/tasks.ts'];
  expect(copy.typeErrors([...files, ...lists])).toBe('');
});

it('the tool draws a line from what is under the pointer to the ground, until it is put down', () => {
  let drawn = 0;
  const place = { kind: 'joint', node: 1, vertex: -1, point: [0.2, 1.25, 0.1] };
  const stage = { snap: () => place, draw: () => drawn++ } as unknown as Parameters<MakeTool>[0];
  const tool = house.makePlumbTool(stage);
  expect(tool.overlay!()).toEqual({});
  tool.move({ x: 10, y: 10, shift: false, alt: false, pressure: 1 }, false);
  expect(tool.overlay!().lines).toEqual([
    { from: place.point, to: [0.2, 0, 0.1], text: expect.stringMatching(/^1\.250? m$/), live: true },
  ]);
  expect(drawn).toBe(1);
  tool.cancel();
  expect(tool.overlay!()).toEqual({});
});

it('the step is told in words, and is left out of a new delivery with its reason', async () => {
  const step = { kind: 'signed off', by: 'R. Lindqvist' } as unknown as Step;
  expect(house.stepWords(step)).toBe('signed off by R. Lindqvist.');
  const again = { label: 'looked at' } as Parameters<House['doStepAgain']>[0];
  await expect(house.doStepAgain(again, step)).rejects.toThrow(
    '“looked at” was said of the delivery before; ask R. Lindqvist to look at this one',
  );
});

it('the task is done by the threads', async () => {
  const { revision } = await arriveAs(db(), 'quay-skeleton.glb', BRIEFS[0]);
  const wire = await wireOf(db(), revision);
  expect(house.runJob({ task: 'count', input: { wire } } as never)).toEqual({ bones: 60 });
});

it('a worker of that house does it; one that does not know it leaves it alone', async () => {
  const { ALL_KINDS, Worker, ask, jobWithParts, prepareQueue } = house;
  const database = db();
  await prepareQueue(database);
  const figure = await arriveAs(database, 'quay-skeleton.glb', BRIEFS[0]);
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
  const old = new Worker(database, url, known);
  await old.start();
  await ask(database, job, '');
  const stateOf = async () => (await jobWithParts(database, job.id)).job;
  const newer = new Worker(database, url, ALL_KINDS);
  try {
    await new Promise((done) => setTimeout(done, 1500));
    expect(await stateOf()).toMatchObject({ state: 'asked', attempts: 0 });
    await newer.start();
    for (let i = 0; i < 200 && (await stateOf()).state !== 'done'; i++)
      await new Promise((done) => setTimeout(done, 50));
    expect(await stateOf()).toMatchObject({ state: 'done', answer: { revisions: 1 } });
    expect((await characterById(database, figure.id)).revisions[0].note).toBe('for the night build');
  } finally {
    await Promise.all([old.stop(), newer.stop()]);
  }
});
