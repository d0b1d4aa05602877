import type { Placed } from '../../character/measure';

export interface Lie {
  readonly inside: boolean;
  /** Distance to the nearest vertex, metres; 0 inside. */ readonly outside: number;
}

/**
 * Whether places lie inside the union of meshes. Six rays a place, along the axes; a ray counts the faces it leaves through minus
 * those it enters through, so that shells within shells and small holes do no harm; the majority says.
 * @param places 3 per place, world space
 * @returns Uint8Array, 1 per place: 1 inside, 0 outside
 */
export function insideOf(places: ArrayLike<number>, meshes: readonly Placed[]): Uint8Array {
  const n = places.length / 3;
  const votes = new Uint8Array(n);
  for (let axis = 0; axis < 3; axis++) {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const order = Array.from({ length: n }, (_, i) => i).sort(
      (a, b) => places[a * 3 + u] - places[b * 3 + u],
    );
    const us = Float64Array.from(order, (i) => places[i * 3 + u]);
    const ahead = new Int32Array(n);
    const behind = new Int32Array(n);
    for (const { points, mesh } of meshes) {
      const { polygonOffsets: offsets, corners } = mesh;
      for (let p = 0; p + 1 < offsets.length; p++) {
        const a = corners[offsets[p]] * 3;
        for (let k = offsets[p] + 1; k + 1 < offsets[p + 1]; k++) {
          const b = corners[k] * 3;
          const c = corners[k + 1] * 3;
          const au = points[a + u];
          const bu = points[b + u];
          const cu = points[c + u];
          const low = Math.min(au, bu, cu);
          const high = Math.max(au, bu, cu);
          let lo = 0;
          let hi = n;
          while (lo < hi) {
            const m = (lo + hi) >> 1;
            if (us[m] < low) lo = m + 1;
            else hi = m;
          }
          if (lo >= n || us[lo] > high) continue;
          const av = points[a + v];
          const bv = points[b + v];
          const cv = points[c + v];
          const area = (bu - au) * (cv - av) - (bv - av) * (cu - au);
          if (area === 0) continue;
          for (let q = lo; q < n && us[q] <= high; q++) {
            const i = order[q];
            const x = us[q];
            const y = places[i * 3 + v];
            const w1 = ((x - au) * (cv - av) - (y - av) * (cu - au)) / area;
            const w2 = ((bu - au) * (y - av) - (bv - av) * (x - au)) / area;
            if (w1 < 0 || w2 < 0 || w1 + w2 > 1) continue;
            const at =
              points[a + axis] +
              w1 * (points[b + axis] - points[a + axis]) +
              w2 * (points[c + axis] - points[a + axis]);
            if (at >= places[i * 3 + axis]) ahead[i] += area > 0 ? 1 : -1;
            else behind[i] += area > 0 ? -1 : 1;
          }
        }
      }
    }
    for (let i = 0; i < n; i++) {
      if (ahead[i] > 0) votes[i]++;
      if (behind[i] > 0) votes[i]++;
    }
  }
  return votes.map((x) => (x >= 3 ? 1 : 0));
}

/** The same, and how far what lies outside is from the body. */
export function lieInside(places: ArrayLike<number>, meshes: readonly Placed[]): Lie[] {
  return Array.from(insideOf(places, meshes), (inside, i) => {
    if (inside) return { inside: true, outside: 0 };
    let best = Infinity;
    for (const { points } of meshes) {
      for (let k = 0; k < points.length; k += 3) {
        const d =
          (points[k] - places[i * 3]) ** 2 +
          (points[k + 1] - places[i * 3 + 1]) ** 2 +
          (points[k + 2] - places[i * 3 + 2]) ** 2;
        if (d < best) best = d;
      }
    }
    return { inside: false, outside: Math.sqrt(best) };
  });
}
