/** The own axes of a bone as they are drawn, against closed forms. */
import { axesLines } from '@/ui/rooms/skeleton/axes-layer';
import type { FigureBone } from '@/ui/worker/figure';

const bone = (over: Partial<FigureBone>): FigureBone => ({
  node: 0,
  name: 'upper',
  parent: -1,
  side: 'middle',
  from: [1, 2, 3],
  to: [1, 2.1, 3],
  rotation: [0, 0, 0, 1],
  across: [0, 1, 0],
  helper: false,
  reach: 90,
  weight: 1,
  ...over,
});

/** Lines as pairs of places. */
function linesOf(numbers: readonly number[]): number[][][] {
  const lines: number[][][] = [];
  for (let at = 0; at < numbers.length; at += 6)
    lines.push([numbers.slice(at, at + 3), numbers.slice(at + 3, at + 6)]);
  return lines;
}

const direction = ([a, b]: number[][]) => b.map((place, k) => place - a[k]);
const dot = (a: readonly number[], b: readonly number[]) => a.reduce((sum, x, k) => sum + x * b[k], 0);

describe('own axes of a bone', () => {
  it('begin at the joint and go the way its frame is turned', () => {
    // A quarter turn about z takes x to y, y to −x and leaves z.
    const quarter = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
    const lines = linesOf(axesLines(bone({ rotation: quarter }), 1.8));
    const axes = [lines[0], lines[2], lines[5]];
    const length = 0.08;
    const wanted = [
      [0, length, 0],
      [-length, 0, 0],
      [0, 0, length],
    ];
    for (const [index, axis] of axes.entries()) {
      expect(axis[0]).toEqual([1, 2, 3]);
      direction(axis).forEach((x, k) => expect(x).toBeCloseTo(wanted[index][k], 12));
    }
  });
  it('carry one, two and three notches, square to the axis and within it', () => {
    const lines = linesOf(axesLines(bone({ rotation: [0.5, 0.5, 0.5, 0.5] }), 1.8));
    expect(lines).toHaveLength(3 + 1 + 2 + 3);
    for (const [first, notches] of [
      [0, 1],
      [2, 2],
      [5, 3],
    ]) {
      const axis = direction(lines[first]);
      for (const notch of lines.slice(first + 1, first + 1 + notches)) {
        expect(dot(direction(notch), axis)).toBeCloseTo(0, 12);
        const middle = notch[0].map((x, k) => (x + notch[1][k]) / 2 - lines[first][0][k]);
        const share = dot(middle, axis) / dot(axis, axis);
        expect(share).toBeGreaterThan(0.5);
        expect(share).toBeLessThan(1);
      }
    }
  });
  it('stay readable: no longer than a share of the figure, and there on a bone without length', () => {
    const lengthOf = (over: Partial<FigureBone>) => {
      const [axis] = linesOf(axesLines(bone(over), 1.8));
      return Math.hypot(...direction(axis));
    };
    expect(lengthOf({ to: [1, 12, 3] })).toBeCloseTo(1.8 * 0.09, 12);
    expect(lengthOf({ to: [1, 2, 3] })).toBeCloseTo(1.8 * 0.03, 12);
  });
});
