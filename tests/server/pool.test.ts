/** Which jobs wait for which, and what waits holds. The threads are stood in for: a job ends when it is told to. */
import { runTask } from '@/server/pool';
import type { ThreadTask } from '@/tasks/list';

interface Running {
  readonly task: string;
  readonly end: () => void;
}

const mockRunning: Running[] = [];
jest.mock('piscina', () => ({
  Piscina: class {
    run({ task }: ThreadTask, { signal }: { signal: AbortSignal }) {
      return new Promise((done, fail) => {
        const running = { task, end: () => done({}) };
        mockRunning.push(running);
        signal.addEventListener('abort', () => fail(new Error('aborted')));
      });
    }
  },
}));

const soon = () => new Promise((done) => setTimeout(done, 5));
const tasks = () => mockRunning.map((running) => running.task);
afterEach(async () => {
  while (mockRunning.length > 0) {
    for (const running of mockRunning.splice(0)) running.end();
    await soon();
  }
});

it('files that take long keep no step and no preview waiting', async () => {
  const slow = Array.from({ length: 20 }, () => runTask('import', {} as never));
  await soon();
  expect(tasks()).toEqual(['import', 'import', 'import']);
  const step = runTask('remedy', {} as never);
  await soon();
  expect(tasks()).toEqual(['import', 'import', 'import', 'remedy']);
  mockRunning[3].end();
  await expect(step).resolves.toEqual({});
  mockRunning[0].end();
  await soon();
  expect(tasks().filter((task) => task === 'import')).toHaveLength(4);
  const ending = Promise.all(slow);
  for (let i = 0; i < 20; i++) {
    for (const running of mockRunning) running.end();
    await soon();
  }
  await ending;
});

it('what waits for its turn loads nothing before it', async () => {
  let loaded = 0;
  const load = async () => {
    loaded++;
    return {} as never;
  };
  const all = Array.from({ length: 50 }, () => runTask('audit', load));
  await soon();
  expect([loaded, tasks()]).toEqual([2, ['audit', 'audit']]);
  for (let i = 0; i < 60; i++) {
    for (const running of mockRunning) running.end();
    await soon();
  }
  await Promise.all(all);
  expect(loaded).toBe(50);
});

it('what is broken off while it waits is never begun', async () => {
  const before = [runTask('audit', {} as never), runTask('audit', {} as never)];
  const cancel = new AbortController();
  const second = runTask('audit', {} as never, { signal: cancel.signal });
  await soon();
  cancel.abort();
  for (const running of [...mockRunning]) running.end();
  await Promise.all(before);
  await expect(second).rejects.toMatchObject({
    status: 499,
    message: expect.stringContaining('nothing was changed'),
  });
  expect(tasks()).toEqual(['audit', 'audit']);
});

it('where memory grows short, the job that began last is ended, and told so', async () => {
  const first = runTask('import', {} as never);
  await soon();
  const second = runTask('remedy', {} as never);
  const ended = expect(second).rejects.toMatchObject({
    status: 422,
    message: expect.stringMatching(/Memory grew short .* nothing was changed/),
  });
  await soon();
  process.env.BOUGH_MEMORY_MB = '1';
  await ended;
  process.env.BOUGH_MEMORY_MB = '1000000';
  mockRunning[0].end();
  await expect(first).resolves.toEqual({});
  delete process.env.BOUGH_MEMORY_MB;
});
