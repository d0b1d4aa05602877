/** The shelf follows what happens in the house without being fetched as a whole each time. */
import type { PageNews } from '@/ui/state/events';
import { type ShelfFigure, type ShelfNews, watchShelf, withChanged } from '@/ui/state/shelf';

const mockHear = new Set<(news: PageNews) => void>();
jest.mock('@/ui/state/events', () => ({
  onTold: (hear: (news: PageNews) => void) => {
    mockHear.add(hear);
    return () => mockHear.delete(hear);
  },
}));

const figure = (id: string, number = 1) => ({ id, name: id, number }) as unknown as ShelfFigure;
const tell = (news: PageNews) => {
  for (const hear of mockHear) hear(news);
};
const head = (character: string) => tell({ what: 'head', character, head: 'r' });

it('what has changed stands where it stood, what is new comes last, what has gone is gone', () => {
  const shelf = [figure('a'), figure('b'), figure('c')];
  const now = withChanged(shelf, [figure('b', 2), figure('d')], new Set(['a']));
  expect(now.map((figure) => [figure.id, figure.number])).toEqual([
    ['b', 2],
    ['c', 1],
    ['d', 1],
  ]);
  expect(now[1]).toBe(shelf[2]);
  // What was changed and removed at once is gone.
  expect(withChanged(shelf, [figure('a', 2)], new Set(['a'])).map((figure) => figure.id)).toEqual(['b', 'c']);
});

describe('what is told', () => {
  beforeEach(() => jest.useFakeTimers());
  afterEach(() => jest.useRealTimers());
  it('is heard once for many, by their ids; as a whole where it is too much, or was missed', () => {
    const heard: ShelfNews[] = [];
    const forget = watchShelf((news) => heard.push(news));
    for (const id of ['a', 'b', 'a']) head(id);
    tell({ what: 'gone', character: 'c' });
    tell({ what: 'job', job: 'j', parent: null, lane: 'in heaps' });
    jest.advanceTimersByTime(2000);
    expect(heard).toEqual([{ changed: ['a', 'b'], gone: new Set(['c']) }]);
    for (let i = 0; i < 101; i++) head(`x${i}`);
    jest.advanceTimersByTime(2000);
    tell({ what: 'anew' });
    jest.advanceTimersByTime(2000);
    tell({ what: 'docket', docket: 'd', character: 'a' });
    jest.advanceTimersByTime(2000);
    expect(heard.slice(1)).toEqual(['all', 'all']);
    head('late');
    forget();
    jest.advanceTimersByTime(2000);
    expect(heard).toHaveLength(3);
    expect(mockHear.size).toBe(0);
  });
});
