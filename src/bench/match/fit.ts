import { factorsOf } from '../../core/anatomy/confidence';
import { runMatches } from './run';
const data: { x: number[]; y: number }[] = [];
for (const seed of [1, 2])
  for (const c of runMatches(seed, 3))
    for (const q of c.score.said) data.push({ x: factorsOf(q.pair.facts!), y: q.isRight ? 1 : 0 });
const n = data[0].x.length;
let w = new Array<number>(n).fill(0);
// Newton
for (let it = 0; it < 25; it++) {
  const g = new Array<number>(n).fill(0);
  const H = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  for (const { x, y } of data) {
    const z = x.reduce((s, v, k) => s + v * w[k], 0);
    const p = 1 / (1 + Math.exp(-z));
    for (let a = 0; a < n; a++) {
      g[a] += (p - y) * x[a];
      for (let b = 0; b < n; b++) H[a][b] += p * (1 - p) * x[a] * x[b];
    }
  }
  for (let a = 0; a < n; a++) {
    H[a][a] += 2;
    g[a] += 2 * w[a];
  }
  const A = H.map((r, i) => [...r, g[i]]);
  for (let i = 0; i < n; i++) {
    const piv = A.slice(i).reduce((m, r, k) => (Math.abs(r[i]) > Math.abs(A[m][i]) ? k + i : m), i);
    [A[i], A[piv]] = [A[piv], A[i]];
    for (let r = 0; r < n; r++)
      if (r !== i) {
        const f = A[r][i] / A[i][i];
        for (let c = i; c <= n; c++) A[r][c] -= f * A[i][c];
      }
  }
  w = w.map((v, i) => v - Math.max(-2, Math.min(2, A[i][n] / A[i][i])));
}
console.log(data.length, JSON.stringify(w.map((x) => +x.toFixed(3))));
