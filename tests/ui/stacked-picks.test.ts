import { StackedPicks } from '@/ui/stage/tools/stack';

const at = (x: number, y: number) => ({ x, y, shift: false, alt: false, pressure: 1 });
const picksOf = () => new StackedPicks<string>((thing) => thing);

describe('things behind one another', () => {
  it('are taken one after the other while the pointer stays, and from the front again after the last', () => {
    const picks = picksOf();
    const hits = ['near', 'near', 'middle', 'far'];
    const taken = [0, 1, 2, 3].map((step) => picks.take(at(100 + step, 50), hits));
    expect(taken.map((one) => one?.hit)).toEqual(['near', 'middle', 'far', 'near']);
    expect(taken.map((one) => [one?.nth, one?.of])).toEqual([
      [1, 3],
      [2, 3],
      [3, 3],
      [1, 3],
    ]);
  });

  it('begin with the nearest where the pointer has moved, or where nothing lay under it', () => {
    const picks = picksOf();
    picks.take(at(10, 10), ['a', 'b']);
    expect(picks.take(at(40, 10), ['a', 'b'])?.hit).toBe('a');
    expect(picks.take(at(40, 10), [])).toBeNull();
    expect(picks.take(at(40, 10), ['a', 'b'])?.hit).toBe('a');
  });
});
