/** Progress that comes behind its answer is heard no more. */
import { HeardProgress } from '@/ui/state/heard-progress';

jest.mock('comlink', () => ({ proxy: (listener: unknown) => listener }));

it.each([
  ['answered', () => Promise.resolve(7)],
  ['failed', () => Promise.reject(new Error('it broke off'))],
])('what is told before it has %s is heard, what comes behind is not', async (_, work) => {
  const heard: number[] = [];
  const progress = new HeardProgress((share) => heard.push(share));
  progress.listener(0.2);
  await progress.until<unknown>(work()).catch(() => {});
  progress.listener(0.9);
  expect(heard).toEqual([0.2]);
});
