/** The figures of the match bench: shares right, how sure was said against how often it was right, and time. */
import { matchSkeletons } from '../../core/anatomy/match';
import { type BeastCase, runBeasts } from './beast-run';
import { STANCES, makeFigure, makeRandom } from './figures';
import { HABITS } from './habits';
import type { BenchRow } from '../row';
import { othersRows } from './others';
import { peopleRows } from './people';
import { type Case, runMatches, shareOf } from './run';

/** The draw that is looked at while working, and the one of which only the totals are read. */
const DRAWS = { first: [1, 2, 3, 4], second: [1001, 1002, 1003, 1004] } as const;

/** Tenths with fewer pairs than this say nothing about themselves. */
const ENOUGH = 50;

/** All rows of the match bench: the first draw, and the second. */
export function matchRows(rounds: number): BenchRow[] {
  const out: BenchRow[] = [];
  for (const [draw, seeds] of Object.entries(DRAWS)) {
    const cases = seeds.flatMap((seed) => runMatches(seed, rounds));
    out.push(...sharesOf(cases).map((row) => ({ ...row, work: `match, ${draw} draw: ${row.work}` })));
    out.push(...reliabilityOf(cases).map((row) => ({ ...row, work: `match, ${draw} draw: ${row.work}` })));
    out.push(...peopleRows(seeds[0]).map((row) => ({ ...row, work: `match, ${draw} draw: ${row.work}` })));
    out.push(...beastRows(seeds[0]).map((row) => ({ ...row, work: `match, ${draw} draw: ${row.work}` })));
  }
  return [...out, ...othersRows(), timeRow()];
}

const percent = (x: number) => `${x.toFixed(2)} %`;

function sharesOf(cases: readonly Case[]): BenchRow[] {
  const human = cases.filter((sample) => sample.figure.kind === 'human');
  const speaking = (speaks: string, list = human) =>
    list.filter((sample) => sample.figure.habit.speaks === speaks);
  const standing = (list: readonly Case[]) =>
    list.filter((sample) => ['T', 'A', 'relaxed'].includes(sample.figure.stance));
  const least = (work: string, list: readonly Case[], bound: number | null): BenchRow => ({
    work: `${work} (${list.length} figures)`,
    measured: percent(shareOf(list)),
    budget: bound === null ? 'told' : `≥ ${bound} %`,
    holds: bound === null || shareOf(list) >= bound,
  });
  const ahead = human.filter((sample) => sample.figure.roles.some((role) => role?.startsWith('toe')));
  const crossed = ahead.reduce((sum, sample) => sum + sample.score.crossed, 0);
  const beasts = (speaks: string) =>
    speaking(
      speaks,
      cases.filter((sample) => sample.figure.kind !== 'human'),
    );
  return [
    least('names in a known language, any stance', speaking('known'), 99.5),
    least('names that nobody knows', speaking('unknown'), null),
    least('no names: T, A and relaxed', standing(speaking('nothing')), 97),
    least('no names, all stances', speaking('nothing'), 93),
    ...STANCES.map((stance) =>
      least(
        `no names, ${stance}`,
        speaking('nothing').filter((sample) => sample.figure.stance === stance),
        null,
      ),
    ),
    least('beasts of four legs and of wings, known names', beasts('known'), null),
    least('beasts, no names', beasts('nothing'), null),
    {
      work: 'left and right exchanged, of bones of figures with toes',
      measured: String(crossed),
      budget: '0',
      holds: crossed === 0,
    },
  ];
}

/** Beasts of one draw. */
const BEASTS = 600;

/** Beasts on four legs of every build, tree and naming onto each other: bones of legs, neck and head. */
function beastRows(seed: number): BenchRow[] {
  const cases = runBeasts(seed, BEASTS);
  const sum = (list: readonly BeastCase[], what: (beast: BeastCase) => number) =>
    list.reduce((sum, beast) => sum + what(beast), 0);
  const row = (work: string, list: readonly BeastCase[], least: number): BenchRow => {
    const share =
      (100 * sum(list, (beast) => beast.right)) /
      Math.max(
        1,
        sum(list, (beast) => beast.wanted),
      );
    return {
      work: `beasts on four legs, every kind onto every other, ${work}: bones of a limb to the same limb (${list.length} pairs)`,
      measured: percent(share),
      budget: `≥ ${least} %`,
      holds: share >= least,
    };
  };
  const wrong =
    (100 * sum(cases, (beast) => beast.sureWrong)) /
    Math.max(
      1,
      sum(cases, (beast) => beast.sure),
    );
  return [
    row(
      'with names',
      cases.filter((beast) => beast.isNamed),
      95,
    ),
    row(
      'without names',
      cases.filter((beast) => !beast.isNamed),
      85,
    ),
    {
      work: 'beasts on four legs, every kind onto every other: wrong of those said at 0.9 and more',
      measured: percent(wrong),
      budget: '≤ 0.5 %',
      holds: wrong <= 0.5,
    },
  ];
}

/** Of the pairs said with so much confidence, the share that is right (a reliability diagram in figures). */
function reliabilityOf(cases: readonly Case[]): BenchRow[] {
  const bins = Array.from({ length: 10 }, () => ({ n: 0, right: 0, said: 0 }));
  for (const sample of cases)
    for (const { confidence, isRight } of sample.score.said) {
      const bin = bins[Math.min(9, Math.floor(confidence * 10))];
      bin.n++;
      bin.said += confidence;
      if (isRight) bin.right++;
    }
  return bins.flatMap((bin, k): BenchRow[] => {
    if (bin.n === 0) return [];
    const right = (100 * bin.right) / bin.n;
    const said = (100 * bin.said) / bin.n;
    const holds = k === 9 ? right >= 99.5 : bin.n < ENOUGH || Math.abs(right - said) <= 10;
    return [
      {
        work: `said ${k / 10} to ${(k + 1) / 10} (${bin.n} pairs)`,
        measured: `${right.toFixed(1)} % right, ${said.toFixed(1)} % said`,
        budget: k === 9 ? '≥ 99.5 % right' : 'within 10 of what was said, from 50 pairs on',
        holds,
      },
    ];
  });
}

/**
 * Three hundred bones onto three hundred: figures with as much cloth as it takes. Milliseconds, the median of
 * fifteen.
 */
function timeRow(): BenchRow {
  const random = makeRandom(5);
  const big = () => {
    const { skeleton } = makeFigure(random, 'human', HABITS[1], { plain: true });
    const bones = [...skeleton.bones];
    for (let chain = 0; bones.length < 300; chain++)
      for (let k = 0; k < 4 && bones.length < 300; k++) {
        const parent = k === 0 ? (chain * 7) % skeleton.bones.length : bones.length - 1;
        const [x, y, z] = bones[parent].place;
        const place = [x + 0.05 * Math.cos(chain), y - 0.07, z + 0.05 * Math.sin(chain)] as const;
        bones.push({ ...bones[parent], name: `cloth_${chain}_${k}`, parent, place });
      }
    return { ...skeleton, bones };
  };
  const times = Array.from({ length: 15 }, () => {
    const [a, b] = [big(), big()];
    const began = performance.now();
    matchSkeletons(a, b);
    return performance.now() - began;
  }).sort((a, b) => a - b);
  return {
    work: 'match 300 bones to 300',
    measured: `${Math.round(times[7])} ms`,
    budget: '≤ 100 ms',
    holds: times[7] <= 100,
  };
}
