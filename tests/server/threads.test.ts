/** What threads do between two tasks. */
import path from 'node:path';
import { Piscina } from 'piscina';
import { WAITING } from '@/server/pool';

it('a thread comes to what was put off until the next tick before it waits for more work', async () => {
  const pool = new Piscina({
    ...WAITING,
    filename: path.join(__dirname, 'support', 'ticks.mjs'),
    minThreads: 1,
    maxThreads: 1,
  });
  try {
    const told: unknown[] = [];
    for (let i = 0; i < 4; i++) told.push(await pool.run(null));
    expect(told).toEqual([0, 1, 2, 3]);
  } finally {
    await pool.destroy();
  }
});
