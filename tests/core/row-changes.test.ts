/** How the motions of one figure differ from those of another, row by row. */
import {
  type MotionFigures,
  isWorse,
  losesVolume,
  rowChanges,
  seenChanges,
  stretchesFurther,
} from '@/core/rooms/trials/rows';

const row = (node: number, volume: number | null, stretch: number): MotionFigures => ({
  bone: `bone ${node}`,
  node,
  motion: 'bend',
  from: 0,
  to: 90,
  degrees: 90,
  words: 'bend, 90°',
  volume,
  stretch,
  thinning: 1,
  inverted: 0,
  torn: 0,
  through: 0,
  throughShare: 0,
  twist: null,
});

it('what is won in volume outweighs a little more stretch; each figure is judged by itself as well', () => {
  const before = [row(0, 0.3, 1.5), row(1, 0.8, 1.5), row(2, 0.8, 1.5), row(3, null, 2), row(4, 0.8, 1.5)];
  const after = [row(0, 0.7, 2), row(1, 0.75, 1.5), row(2, 0.8, 1.5), row(3, null, 4), row(4, 0.802, 1.505)];
  const changes = rowChanges(before, after, (node) => node);
  expect(changes.map((change) => change.after.node)).toEqual([3, 1, 2, 4, 0]);
  const of = (node: number) => changes.find((change) => change.after.node === node)!;
  const judged = [0, 1, 2, 3, 4].map((node) =>
    [isWorse, losesVolume, stretchesFurther].map((is) => is(of(node))),
  );
  expect(judged).toEqual([
    [false, false, true],
    [true, true, false],
    [false, false, false],
    [true, false, true],
    [false, false, false],
  ]);
  expect(seenChanges(changes).map((change) => change.after.node)).toEqual([3, 1, 0]);
});

it('rows are found again by whom they stand for, and only those that both have', () => {
  const changes = rowChanges([row(7, 0.5, 1), row(8, 0.5, 1)], [row(2, 0.4, 1), row(3, 0.4, 1)], (node) =>
    node === 2 ? 7 : -1,
  );
  expect(changes.map(({ before, after }) => [before.node, after.node])).toEqual([[7, 2]]);
  expect(changes[0].volume).toBeCloseTo(-0.1, 12);
});
