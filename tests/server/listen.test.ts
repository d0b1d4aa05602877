/** One connection hears for all who listen, for as long as anybody does. */
import { EventEmitter } from 'node:events';
import { hearing, listen, stopHearing } from '@/jobs/listen';

/** Stands in for connections to a database: what was made, and what is told over them. */
const mockClients: (EventEmitter & { isEnded: boolean })[] = [];
jest.mock('pg', () => {
  const { EventEmitter: Emitter } = jest.requireActual<typeof import('node:events')>('node:events');
  return {
    Client: class extends Emitter {
      isEnded = false;
      constructor() {
        super();
        mockClients.push(this);
      }
      async connect() {}
      async query() {}
      unref() {}
      async end() {
        this.isEnded = true;
        this.emit('end');
      }
    },
  };
});

const tell = (job: string) => {
  for (const client of mockClients)
    if (!client.isEnded)
      client.emit('notification', {
        payload: JSON.stringify({ what: 'job', job, parent: null, lane: 'in heaps' }),
      });
};
const heardBy = () => {
  const heard: string[] = [];
  return { heard, forget: listen((told) => told.what === 'job' && heard.push(told.job)) };
};

beforeEach(() => {
  jest.useFakeTimers();
  mockClients.length = 0;
});
afterEach(() => {
  stopHearing();
  jest.useRealTimers();
});

it('all hear over one connection, which ends when nobody has listened for a while', async () => {
  const [a, b] = [heardBy(), heardBy()];
  await hearing();
  tell('1');
  b.forget();
  tell('2');
  expect([a.heard, b.heard, mockClients.length]).toEqual([['1', '2'], ['1'], 1]);
  a.forget();
  jest.advanceTimersByTime(29_000);
  expect(mockClients[0].isEnded).toBe(false);
  jest.advanceTimersByTime(2000);
  expect(mockClients[0].isEnded).toBe(true);
});

it('who lets go twice, as a page does that leaves while its line breaks, takes nobody’s connection away', async () => {
  const first = heardBy();
  await hearing();
  first.forget();
  first.forget();
  const second = heardBy();
  await hearing();
  first.forget();
  jest.advanceTimersByTime(120_000);
  tell('later');
  expect(second.heard).toEqual(['later']);
});

it('a connection that is lost is looked for again, for as long as somebody listens', async () => {
  const one = heardBy();
  await hearing();
  await (mockClients[0] as unknown as { end: () => Promise<void> }).end();
  jest.advanceTimersByTime(1500);
  await hearing();
  tell('after');
  expect([one.heard, mockClients.length]).toEqual([['after'], 2]);
});
