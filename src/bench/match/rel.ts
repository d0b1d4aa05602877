import { runMatches } from './run';
const bins = Array.from({ length: 10 }, () => ({ n: 0, right: 0, c: 0 }));
const per: Record<string, typeof bins> = {};
for (const seed of process.argv.slice(2).map(Number))
  for (const c of runMatches(seed, 2))
    for (const q of c.score.said) {
      const k = Math.min(9, Math.floor(q.confidence * 10));
      for (const set of [
        bins,
        (per[c.figure.habit.speaks + ' ' + c.figure.kind] ??= Array.from({ length: 10 }, () => ({
          n: 0,
          right: 0,
          c: 0,
        }))),
      ]) {
        set[k].n++;
        set[k].c += q.confidence;
        if (q.isRight) set[k].right++;
      }
    }
const show = (b: typeof bins) =>
  b
    .map((x, k) =>
      x.n
        ? `${k / 10}: ${((100 * x.right) / x.n).toFixed(1)}% of ${x.n} (said ${((100 * x.c) / x.n).toFixed(1)})`
        : '',
    )
    .filter(Boolean)
    .join('  ');
console.log(show(bins));
for (const [k, b] of Object.entries(per)) console.log(k, show(b));
