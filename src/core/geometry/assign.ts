import { munkres } from 'munkres';

/**
 * Pairs of rows and columns, each used once, whose gains sum to the most; a gain of 0 or less is never taken
 * (Kuhn 1955; Munkres 1957).
 * @param gain a rectangular matrix of finite numbers
 */
export function assignAll(gain: readonly (readonly number[])[]): [number, number][] {
  const rows = gain.length;
  const columns = gain[0]?.length ?? 0;
  if (rows === 0 || columns === 0) return [];
  if (rows === 1 || columns === 1) return bestOne(gain);
  const cost = gain.map((row) => row.map((g) => -Math.max(0, g)));
  return munkres(cost).filter(([i, j]) => gain[i][j] > 0);
}

function bestOne(gain: readonly (readonly number[])[]): [number, number][] {
  let best: [number, number] = [0, 0];
  gain.forEach((row, i) =>
    row.forEach((g, j) => {
      if (g > gain[best[0]][best[1]]) best = [i, j];
    }),
  );
  return gain[best[0]][best[1]] > 0 ? [best] : [];
}
