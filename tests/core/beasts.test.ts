/** Beasts on four legs: where their front is, and how they are matched, whatever people call their legs. */
import { makeBeast } from '@/bench/match/beasts';
import { runBeasts } from '@/bench/match/beast-run';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { fourLegsOf } from '@/core/anatomy/beast-limbs';
import { looksTogether } from '@/core/anatomy/beast-looks';
import { limbsOf } from '@/core/anatomy/limbs';
import { looksOf } from '@/core/anatomy/looks';
import { matchSkeletons } from '@/core/anatomy/match';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { suggest } from '@/core/anatomy/suggest';
import { dot } from '@/core/geometry/matrix';

/** Neither is a draw of the bench. */
const SEED = 4711;

const drawn = (count: number) => {
  const random = makeRandom(SEED);
  return Array.from({ length: count }, () => makeBeast(random));
};
const named = (skeleton: Skeleton, name: (i: number) => string): Skeleton => ({
  ...skeleton,
  bones: skeleton.bones.map((bone, i) => ({ ...bone, name: name(i) })),
});

describe('the four legs of a beast', () => {
  const beasts = drawn(240);
  const seen = beasts.map((beast) => ({ beast, legs: fourLegsOf(beast.skeleton) }));

  it('are found in any tree, in any stance, under any names', () => {
    const isLeg = (limbs: readonly string[], chain: readonly number[]) =>
      chain.every((i) => limbs[i] === limbs[chain[0]] && /leg/.test(limbs[i]));
    const right = seen.filter(
      ({ beast, legs }) =>
        legs &&
        [legs.front, legs.hind].every((pair) =>
          [pair.left, pair.right].every((chain) => isLeg(beast.limbs, chain)),
        ),
    );
    expect(right.length).toBeGreaterThanOrEqual(0.98 * beasts.length);
  });

  it('are told front from hind by names, and mostly by shape alone', () => {
    const shareOf = (speaks: boolean) => {
      const list = seen.filter(({ beast, legs }) => legs && (beast.speaks !== 'nothing') === speaks);
      const right = list.filter(({ beast, legs }) => beast.limbs[legs!.front.left[0]].startsWith('front'));
      return right.length / list.length;
    };
    expect(shareOf(true)).toBeGreaterThanOrEqual(0.99);
    expect(shareOf(false)).toBeGreaterThanOrEqual(0.9);
  });

  it('say which side is left, and no more than shape can say', () => {
    for (const { beast, legs } of seen) {
      if (!legs || beast.speaks !== 'nothing') continue;
      expect(legs.sure).toBeLessThan(0.9);
      expect(Math.abs(dot(legs.left, legs.forward)) + Math.abs(dot(legs.left, legs.up))).toBeLessThan(1e-6);
      if (beast.limbs[legs.front.left[0]].startsWith('front'))
        expect(beast.limbs[legs.front.left[0]]).toMatch(/left$/);
    }
  });

  it('are not there in people who stand', () => {
    const random = makeRandom(SEED);
    const found = HABITS.flatMap((habit) =>
      (['T', 'A', 'relaxed'] as const).flatMap((stance) => {
        const { skeleton } = makeFigure(random, 'human', habit, { stance });
        return looksTogether(skeleton, skeleton)[0].legs ? [habit.id] : [];
      }),
    );
    expect(found).toEqual([]);
  });
});

it('a back foot is a foot and no part of a back, what is called main is the root, front and rear are no sides', () => {
  const seen = { feet: 0, roots: 0, legs: 0 };
  for (const { skeleton, limbs, told, speaks } of drawn(900)) {
    if (speaks !== 'front and hind' || !/(back|rear) with/.test(told)) continue;
    const { readings } = looksOf(skeleton);
    skeleton.bones.forEach(({ name }, i) => {
      const { part, side } = readings[i];
      if (/foot/i.test(name)) {
        seen.feet++;
        expect([name, part]).toEqual([name, 'foot']);
      }
      if (/(^|_)main$/i.test(name)) {
        seen.roots++;
        expect([name, part]).toEqual([name, 'root']);
      }
      if (!/leg/.test(limbs[i])) return;
      seen.legs++;
      expect([name, side]).toEqual([name, limbs[i].split(' ')[2]]);
    });
  }
  for (const count of Object.values(seen)) expect(count).toBeGreaterThan(10);
});

describe('beasts onto each other', () => {
  const cases = runBeasts(SEED, 240);
  const sum = (list: typeof cases, what: (beast: (typeof cases)[number]) => number) =>
    list.reduce((sum, beast) => sum + what(beast), 0);
  const shareOf = (list: typeof cases) =>
    sum(list, (beast) => beast.right) / sum(list, (beast) => beast.wanted);

  it('go from limb to the same limb', () => {
    expect(shareOf(cases.filter((beast) => beast.isNamed))).toBeGreaterThanOrEqual(0.95);
    expect(shareOf(cases.filter((beast) => !beast.isNamed))).toBeGreaterThanOrEqual(0.85);
  });

  it('are hardly ever wrong where they are said to be sure', () =>
    expect(sum(cases, (beast) => beast.sureWrong) / sum(cases, (beast) => beast.sure)).toBeLessThanOrEqual(
      0.005,
    ));

  it('all four legs called alike go by their place', () => {
    const random = makeRandom(SEED);
    const alike = () => {
      for (;;) {
        const beast = makeBeast(random);
        if (beast.speaks === 'one word') return beast;
      }
    };
    for (let node = 0; node < 12; node++) {
      const [a, b] = [alike(), alike()];
      const rules = suggest(a.skeleton, b.skeleton).filter(
        (rule) => rule.kind === 'carry' && /leg/.test(a.limbs[rule.source]),
      );
      expect(rules.length).toBeGreaterThan(8);
      // No name says which leg it is, and no reason says that one did.
      const told = rules.filter((rule) =>
        /^both are of the (left|right) (front|hind) leg/.test(rule.reasons[0]),
      );
      expect(told.length).toBeGreaterThan(0.8 * rules.length);
      const wrong = rules.filter((rule) => a.limbs[rule.source] !== b.limbs[rule.target]);
      expect(wrong.length).toBeLessThanOrEqual(0.05 * rules.length);
    }
  });

  it('the pairs of a beast are gathered by front and hind leg', () => {
    const [a, b] = drawn(2);
    const limbs = limbsOf(a.skeleton, b.skeleton, suggest(a.skeleton, b.skeleton));
    for (const [title, limb] of [
      ['Left front leg', 'front leg left'],
      ['Right hind leg', 'hind leg right'],
    ]) {
      const bones = limbs.find((limb) => limb.title === title)?.bones ?? [];
      expect(bones.length).toBeGreaterThan(2);
      expect(new Set(bones.map((i) => a.limbs[i]))).toEqual(new Set([limb]));
    }
  });

  it('a pair set by hand is kept', () => {
    const [a, b] = drawn(2);
    expect(matchSkeletons(a.skeleton, b.skeleton, new Map([[3, 5]]))).toContainEqual(
      expect.objectContaining({ source: 3, target: 5, confidence: 1 }),
    );
  });
});

it('the same number in two skeletons says nothing, unless one is the other', () => {
  const [a, b] = drawn(2).map(({ skeleton }) => named(skeleton, (i) => `bone_${String(i).padStart(3, '0')}`));
  const same = (pairs: ReturnType<typeof matchSkeletons>) =>
    pairs.filter((pair) => pair.source === pair.target && pair.confidence >= 0.9);
  expect(same(matchSkeletons(a, a))).toHaveLength(a.bones.length);
  expect(same(matchSkeletons(a, b))).toEqual([]);
});
