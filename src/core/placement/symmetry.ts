/** Where the plane of symmetry of a body lies. */

export interface Symmetry {
  /** The plane is x = offset, metres. */
  readonly offset: number;
  /** Share of the points that have a twin within the tolerance, 0 … 1. */
  readonly share: number;
}

const MOST_POINTS = 12_000;

/**
 * Finds the plane x = c about which points mirror best. A first c comes from thin bars of points at one height and depth (half
 * the sum of their ends, the median of all); it is then refined by pairing every point with its nearest mirrored one.
 * @param sets Float32Arrays, 3 per point, one space
 * @param tolerance metres within which two points are twins
 */
export function symmetryOf(sets: readonly Float32Array[], tolerance: number): Symmetry | null {
  const total = sets.reduce((n, s) => n + s.length / 3, 0);
  if (total < 8 || !(tolerance > 0)) return null;
  const step = Math.max(1, Math.floor(total / MOST_POINTS));
  const points = new Float64Array((Math.ceil(total / step) + sets.length) * 3);
  let n = 0, k = 0;
  // Bars of four at a stretch: neighbours in the file, so that twins of sampled points tend to be sampled along.
  for (const s of sets) for (let i = 0; i < s.length; i += 3, k++) if (k % (step * 4) < 4) { points[n++] = s[i]; points[n++] = s[i + 1]; points[n++] = s[i + 2]; if (n + 3 > points.length) break; }
  const count = n / 3;
  const bars = new Map<number, [number, number]>();
  const bar = tolerance * 4;
  for (const s of sets) for (let i = 0; i < s.length; i += 3) {
    const key = Math.floor(s[i + 1] / bar) * 1_000_003 + Math.floor(s[i + 2] / bar);
    const b = bars.get(key);
    if (!b) bars.set(key, [s[i], s[i]]);
    else { if (s[i] < b[0]) b[0] = s[i]; if (s[i] > b[1]) b[1] = s[i]; }
  }
  const middles = [...bars.values()].map((b) => (b[0] + b[1]) / 2).sort((a, b) => a - b);
  let offset = middles[Math.floor(middles.length / 2)];

  const grid = new Map<number, number[]>();
  const reach = tolerance * 2;
  const cell = (x: number, y: number, z: number) => (Math.floor(x / reach) * 73_856_093) ^ (Math.floor(y / reach) * 19_349_663) ^ (Math.floor(z / reach) * 83_492_791);
  // All points are there to be found, the sampled ones ask.
  for (let s = 0; s < sets.length; s++) {
    const a = sets[s];
    for (let i = 0; i < a.length; i += 3) { const c = cell(a[i], a[i + 1], a[i + 2]); const list = grid.get(c); if (list) { if (list.length < 60) list.push(s, i); } else grid.set(c, [s, i]); }
  }
  let share = 0;
  for (let round = 0; round < 3; round++) {
    let sum = 0, hits = 0;
    for (let p = 0; p < count; p++) {
      const x = 2 * offset - points[p * 3], y = points[p * 3 + 1], z = points[p * 3 + 2];
      let best = reach * reach, bestX = NaN;
      for (let dx = -1; dx <= 1; dx++) for (let dy = -1; dy <= 1; dy++) for (let dz = -1; dz <= 1; dz++) {
        const list = grid.get(cell(x + dx * reach, y + dy * reach, z + dz * reach));
        if (!list) continue;
        for (let q = 0; q < list.length; q += 2) {
          const a = sets[list[q]], i = list[q + 1];
          const d = (a[i] - x) ** 2 + (a[i + 1] - y) ** 2 + (a[i + 2] - z) ** 2;
          if (d < best) { best = d; bestX = a[i]; }
        }
      }
      if (Number.isNaN(bestX)) continue;
      if (best <= tolerance * tolerance) { hits++; sum += (bestX + points[p * 3]) / 2; }
    }
    share = hits / count;
    if (hits === 0) break;
    offset = sum / hits;
  }
  return { offset, share };
}
