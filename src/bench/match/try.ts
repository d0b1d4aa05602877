import { HABITS } from './habits';
import { STANCES } from './figures';
import { runMatches, shareOf } from './run';
const seed = Number(process.argv[2] ?? 1);
const rounds = Number(process.argv[3] ?? 1);
const show = process.argv[4];
const t0 = performance.now();
const cases = runMatches(seed, rounds);
console.log(cases.length, 'cases', (performance.now() - t0).toFixed(0), 'ms');
const human = cases.filter((c) => c.figure.kind === 'human');
for (const speaks of ['known', 'unknown', 'nothing']) {
  const of = (x: typeof cases) => x.filter((c) => c.figure.habit.speaks === speaks);
  console.log(
    speaks.padEnd(9),
    STANCES.map((s) => `${s} ${shareOf(of(human).filter((c) => c.figure.stance === s)).toFixed(1)}`).join(
      '  ',
    ),
    ' all',
    shareOf(of(human)).toFixed(2),
    ' dog',
    shareOf(of(cases).filter((c) => c.figure.kind === 'dog')).toFixed(1),
    'bird',
    shareOf(of(cases).filter((c) => c.figure.kind === 'bird')).toFixed(1),
    'crossed',
    of(cases).reduce((n, c) => n + c.score.crossed, 0),
    'false',
    of(cases).reduce((n, c) => n + c.score.said.filter((x) => !x.isRight).length, 0),
  );
}

for (const h of HABITS)
  console.log(h.id.padEnd(36), shareOf(human.filter((c) => c.figure.habit === h)).toFixed(1));
const worst = [...cases]
  .sort((a, b) => b.score.wrong.length - a.score.wrong.length)
  .filter((c) => !show || c.figure.habit.speaks === show || c.figure.told.includes(show));
for (const c of worst.slice(0, 6))
  console.log(
    '\n' + c.figure.told,
    '→',
    c.onto,
    c.score.right,
    'of',
    c.score.wanted,
    '\n  ',
    c.score.wrong.slice(0, 14).join('\n   '),
  );
{
  const tally = new Map<string, number>();
  for (const c of cases) {
    if (
      (process.argv[7] ? c.figure.habit.speaks !== process.argv[7] : c.figure.habit.speaks === 'known') ||
      c.figure.kind !== (process.argv[6] ?? 'human')
    )
      continue;
    for (const w of c.score.wrong) {
      const [, a, b] = /\(([^)]*)\) → (.*)$/.exec(w) ?? [];
      const k = `${a.replace(/ (left|right|middle)/, '')} → ${(c.score.crossed > 4 ? 'CROSSED' : b.replace(/ (left|right|middle)/, '')).slice(0, 20)}`;
      tally.set(k, (tally.get(k) ?? 0) + 1);
    }
  }
  console.log(
    [...tally]
      .sort((x, y) => y[1] - x[1])
      .slice(0, 45)
      .map(([k, n]) => `${n} ${k}`)
      .join('\n'),
  );
}
