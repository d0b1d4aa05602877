/** A page that is opened while a step is at work is told so. */
import { isWorking, whileWorking } from '@/server/working';

const gate = () => {
  let open = () => {};
  const until = new Promise<void>((resolve) => {
    open = resolve;
  });
  return { until, open };
};

it('a character is worked on until the last of its steps ends, however it ends', async () => {
  const [first, second] = [gate(), gate()];
  expect(isWorking('a')).toBe(false);
  const one = whileWorking('a', async () => {
    await first.until;
    return 1;
  });
  const two = whileWorking('a', async () => {
    await second.until;
    throw new Error('it does not fit');
  });
  expect([isWorking('a'), isWorking('b')]).toEqual([true, false]);
  first.open();
  expect(await one).toBe(1);
  expect(isWorking('a')).toBe(true);
  second.open();
  await expect(two).rejects.toThrow('it does not fit');
  expect(isWorking('a')).toBe(false);
});
