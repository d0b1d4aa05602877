/**
 * The whole audit over bodies of every kind in every naming habit: what is not there is not found, what was put in
 * is. People carry bones that things are held by.
 */
import { bodyKindOf } from '../../core/anatomy/body-kind';
import type { BodyKind } from '../../core/character/body-kinds';
import type { Finding } from '../../core/contracts/finding';
import { characterHeight } from '../../core/character/measure';
import type { Character } from '../../core/character/model';
import { audit, silentChecks } from '../../core/house/audit';
import type { Brief } from '../../core/house/brief';
import { PLAIN_BRIEFS } from '../../core/house/plain-briefs';
import { makeBeast } from '../match/beasts';
import { STANCES, makeFigure, makeRandom } from '../match/figures';
import { HABITS } from '../match/habits';
import { KINDS, type FigureKind } from '../match/roles';
import type { BenchRow } from '../row';
import { bodyOf } from './body';
import { FAULTS } from './faults';

const KIND_OF: Readonly<Record<FigureKind, BodyKind>> = {
  human: 'two-legged',
  dog: 'four-legged',
  bird: 'winged',
  cattle: 'four-legged',
  elephant: 'four-legged',
  giraffe: 'four-legged',
  crocodile: 'four-legged',
  fish: 'finned',
};

/** Any size, any names: what is asked is asked of the body. */
export const ANY_BODY: Brief = {
  ...PLAIN_BRIEFS[1],
  height: null,
  naming: (PLAIN_BRIEFS.find((brief) => brief.id === 'gltf') as Brief).naming,
  // Stances are drawn at will here.
  stance: null,
  // They stand more on one foot than on the other.
  mirror: { angle: 5, place: 0.06 },
  // Their flesh is made of balls and rods, with no loops, and as uneven as their bones.
  surface: { ...PLAIN_BRIEFS[1].surface, twins: null, loopsAtLimbs: 0, loopsAtKnuckles: 0 },
};

/**
 * Beasts of any build have joints shaken by 1.2 % of their height and legs swung by up to 8° on either side: a share of
 * the height that is less than what that can make of a pair.
 */
const UNLIKE = 0.08;

const briefForBeast = (body: Character): Brief => ({
  ...ANY_BODY,
  mirror: { angle: 5, place: UNLIKE * characterHeight(body) },
});

export interface BodyCase {
  readonly told: string;
  readonly kind: FigureKind;
  readonly read: BodyKind;
  /** What was found where nothing is at fault. */
  readonly false: readonly Finding[];
  /** Checks whose fault was put in, and whether they found it. */
  readonly planted: readonly { readonly check: string; readonly found: boolean; readonly silent: boolean }[];
}

/** A draw: habits, every one or every so many, with every kind of figure, in one stance after the other. */
export function drawBodies(seed: number, withFaults: boolean, every = 1): BodyCase[] {
  const random = makeRandom(seed);
  let turn = 0;
  const habits = HABITS.filter((_, i) => i % every === 0);
  return habits.flatMap((habit) =>
    (Object.keys(KINDS) as FigureKind[]).map((kind): BodyCase => {
      const stance = kind === 'human' ? STANCES[turn++ % 3] : 'T';
      const figure = makeFigure(random, kind, habit, { stance, steady: true, holding: kind === 'human' });
      const body = bodyOf(figure);
      return {
        told: figure.told,
        kind,
        read: bodyKindOf(body).kind,
        false: audit(body, ANY_BODY).filter((finding) => finding.gravity !== 'note'),
        planted: withFaults ? plantedIn(body) : [],
      };
    }),
  );
}

function plantedIn(body: ReturnType<typeof bodyOf>): BodyCase['planted'] {
  return FAULTS.flatMap(({ check, put }) => {
    const spoilt = put(body);
    if (!spoilt) return [];
    const found = audit(spoilt, ANY_BODY).some(
      (finding) => finding.check === check && finding.gravity !== 'note',
    );
    return [{ check, found, silent: !found && saysNothing(check, spoilt) }];
  });
}

/** Whether a check says of a body that it is not asked of its kind, or cannot tell. */
function saysNothing(check: string, body: Character): boolean {
  if (silentChecks(bodyKindOf(body).kind, ANY_BODY).some((silentCheck) => silentCheck.id === check))
    return true;
  return audit(body, ANY_BODY).some((finding) => finding.check === check && finding.gravity === 'note');
}

/** The draw that is looked at while working, and the one of which only the totals are read. */
const DRAWS = { first: [1, 2], second: [1001, 1002] } as const;

/** All rows: the first draw, and the second. */
export function bodyRows(): BenchRow[] {
  return Object.entries(DRAWS).flatMap(([draw, seeds]) => {
    const cases = seeds.flatMap((seed) => drawBodies(seed, true));
    return [...kindRows(cases), ...findingRows(cases), ...beastRows(seeds[0])].map((row) => ({
      ...row,
      work: `bodies, ${draw} draw: ${row.work}`,
    }));
  });
}

/** Beasts on four legs of every build, tree and naming of one draw. */
const BEASTS = 240;

/** The whole audit over beasts with the trees, chains and names that people give them. */
function beastRows(seed: number): BenchRow[] {
  const random = makeRandom(seed);
  const bodies = Array.from({ length: BEASTS }, () => bodyOf(makeBeast(random, { steady: true })));
  const kinds = bodies.map((body) => bodyKindOf(body).kind);
  const right = kinds.filter((kind) => kind === 'four-legged').length;
  const wrong = kinds.filter((kind) => kind !== 'four-legged' && kind !== 'unknown').length;
  const found = bodies.reduce(
    (most, body) =>
      most + audit(body, briefForBeast(body)).filter((finding) => finding.gravity !== 'note').length,
    0,
  );
  return [
    {
      work: `beasts of any build, tree and names told to be four-legged (${BEASTS})`,
      measured: `${percent(right, BEASTS)} right, ${percent(wrong, BEASTS)} wrong`,
      budget: '≥ 85 % right, ≤ 1 % wrong',
      holds: right >= 0.85 * BEASTS && wrong <= 0.01 * BEASTS,
    },
    {
      work: `whole audit of such beasts without faults (${BEASTS}): false findings`,
      measured: String(found),
      budget: '≤ 1 in 50',
      holds: found * 50 <= BEASTS,
    },
  ];
}

const percent = (part: number, of: number) => `${((100 * part) / Math.max(1, of)).toFixed(1)} %`;

function kindRows(cases: readonly BodyCase[]): BenchRow[] {
  const right = cases.filter((body) => body.read === KIND_OF[body.kind]).length;
  const unsure = cases.filter((body) => body.read === 'unknown').length;
  const wrong = cases.length - right - unsure;
  return [
    {
      work: `kind of body told (${cases.length} bodies)`,
      measured: `${percent(right, cases.length)} right, ${percent(unsure, cases.length)} not sure`,
      budget: '≥ 85 % right',
      holds: right >= 0.85 * cases.length,
    },
    {
      work: 'kind of body told wrongly',
      measured: percent(wrong, cases.length),
      budget: '≤ 1 %',
      holds: wrong <= 0.01 * cases.length,
    },
  ];
}

function findingRows(cases: readonly BodyCase[]): BenchRow[] {
  const beasts = cases.filter((body) => body.kind !== 'human');
  const people = cases.filter((body) => body.kind === 'human');
  const falseRow = (word: string, list: readonly BodyCase[]): BenchRow => {
    const count = list.reduce((sum, body) => sum + body.false.length, 0);
    return {
      work: `whole audit of ${word} without faults (${list.length}): false findings`,
      measured: `${count}`,
      budget: '≤ 1 in 50',
      holds: count * 50 <= list.length,
    };
  };
  const planted = cases.flatMap((body) => body.planted);
  const asked = planted.filter((fault) => !fault.silent);
  const found = asked.filter((fault) => fault.found).length;
  return [
    falseRow('beasts', beasts),
    falseRow('people with bones to hold things by', people),
    {
      work: `faults put in and found, where the check speaks for the kind (${asked.length} of ${planted.length})`,
      measured: percent(found, asked.length),
      budget: '≥ 98 %',
      holds: found >= 0.98 * asked.length,
    },
  ];
}
