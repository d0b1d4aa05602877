/** People as games have them, with flesh: without toes, with things to hold by, with helpers on the root and twists. */
import { matchSkeletons } from '../../core/anatomy/match';
import { QUAY } from '../../core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '../../core/anatomy/skeletons/vrm';
import { type MadeFigure, makeFigure, makeRandom } from './figures';
import { HABITS } from './habits';
import type { BenchRow } from '../row';
import { judge, rolesOfShipped } from './truth';

/** What a game's figure has or lacks. */
const WAYS = [
  'no toes',
  'things to hold by',
  'helpers and twists',
  'no toes and one finger',
  'straight limbs, no toes, one finger',
  'children',
] as const;

type Way = (typeof WAYS)[number];

/** Toes, and all of a hand's fingers but the first bone of one. */
const SPARE = /^toe |^(thumb|index|ring|little) |^long [2-9]/;

/** What a figure of a way lacks. */
const LACKS: Partial<Record<Way, RegExp>> = {
  'no toes': /^toe /,
  'no toes and one finger': SPARE,
  'straight limbs, no toes, one finger': SPARE,
};

const STANCES = ['T', 'A', 'relaxed'] as const;

/** So many figures without names of a habit, way and stance. */
const NAMELESS = 6;

/** The figure without some of its bones; what hangs on them goes up. */
function without(figure: MadeFigure, gone: RegExp): MadeFigure {
  const { bones } = figure.skeleton;
  const kept = bones.flatMap((_, i) => (gone.test(figure.roles[i] ?? '') ? [] : [i]));
  const at = new Map(kept.map((b, k) => [b, k]));
  const above = (parent: number): number =>
    parent < 0 ? -1 : (at.get(parent) ?? above(bones[parent].parent));
  return {
    ...figure,
    roles: kept.map((i) => figure.roles[i]),
    isFlesh: kept.map((i) => figure.isFlesh[i]),
    skeleton: {
      ...figure.skeleton,
      bones: kept.map((i) => ({ ...bones[i], parent: above(bones[i].parent) })),
    },
  };
}

/**
 * The figure with weight on the bones that a body is bound to, as it was before any of them was left out: what those
 * carried goes to the bone above.
 */
function bound(figure: MadeFigure, whole: MadeFigure): MadeFigure {
  const { bones } = whole.skeleton;
  const kept = new Map(figure.skeleton.bones.map((bone, i) => [keyOf(bone), i]));
  const homeOf = (i: number): number => (i < 0 ? -1 : (kept.get(keyOf(bones[i])) ?? homeOf(bones[i].parent)));
  const sums = figure.skeleton.bones.map(() => [0, 0, 0, 0]);
  bones.forEach((bone, i) => {
    const home = homeOf(i);
    if (home < 0 || !whole.isFlesh[i]) return;
    const ends = bones.filter((otherBone, k) => otherBone.parent === i && whole.isFlesh[k]);
    const above = bone.parent >= 0 ? bones[bone.parent].place : bone.place;
    // A bone without another one below goes on a little as it came.
    const tips =
      ends.length > 0 ? ends.map((end) => end.place) : [bone.place.map((x, k) => x + 0.4 * (x - above[k]))];
    for (const tip of tips) {
      for (let k = 0; k < 3; k++) sums[home][k] += (bone.place[k] + tip[k]) / 2;
      sums[home][3]++;
    }
  });
  return {
    ...figure,
    skeleton: {
      ...figure.skeleton,
      bones: figure.skeleton.bones.map((bone, i) => {
        const [x, y, z, count] = sums[i];
        if (!figure.isFlesh[i] || count === 0) return { ...bone, weight: 0 };
        return { ...bone, weight: 30, fleshAt: [x / count, y / count, z / count] as const };
      }),
    },
  };
}

/** Bones of nobody's names are told apart by where they are. */
const keyOf = ({ name, place }: MadeFigure['skeleton']['bones'][number]) => `${name} ${place.join(' ')}`;

const LIMBS = [
  ['upperleg', 'lowerleg', 'foot'],
  ['upperarm', 'lowerarm', 'hand'],
] as const;

/** The figure with knees and elbows on the line of their limb, to within a thousandth of it: no bend tells its front. */
function straightened(figure: MadeFigure, random: () => number): MadeFigure {
  const bones = [...figure.skeleton.bones];
  for (const side of ['left', 'right'])
    for (const limb of LIMBS) {
      const [above, at, below] = limb.map((part) => figure.roles.indexOf(`${part} 1 ${side}`));
      if (above < 0 || at < 0 || below < 0) continue;
      const [a, b, lower] = [above, at, below].map((i) => figure.skeleton.bones[i].place);
      const way = lower.map((x, k) => x - a[k]);
      const length = Math.hypot(...way);
      const share = way.reduce((sum, x, k) => sum + x * (b[k] - a[k]), 0) / length ** 2;
      const off = () => 2e-3 * (random() - 0.5) * length;
      bones[at] = {
        ...bones[at],
        place: a.map((x, k) => x + share * way[k] + off()) as unknown as [number, number, number],
      };
    }
  return { ...figure, skeleton: { ...figure.skeleton, bones } };
}

/** A figure of a way, with flesh. */
export function personOf(
  random: () => number,
  habit: (typeof HABITS)[number],
  stance: (typeof STANCES)[number],
  way: Way,
): MadeFigure {
  const lacks = LACKS[way];
  const drawn = makeFigure(random, 'human', habit, {
    stance,
    holding: way === 'things to hold by',
    toes: lacks !== undefined,
    ...(way === 'children' && { build: 'child' as const }),
  });
  const made = way === 'straight limbs, no toes, one finger' ? straightened(drawn, random) : drawn;
  return bound(lacks ? without(made, lacks) : made, made);
}

/** The rows of one draw. */
export function peopleRows(seed: number): BenchRow[] {
  const random = makeRandom(seed);
  const targets = [QUAY, VRM_HUMANOID].map((skeleton) => ({ skeleton, roles: rolesOfShipped(skeleton) }));
  const rowsOf = (speaks: 'known' | 'nothing', each: number, least: number): BenchRow[] => {
    const sum = { figures: 0, wanted: 0, right: 0, sure: 0, wrong: 0 };
    for (const way of WAYS)
      for (const habit of HABITS.filter((habit) => habit.speaks === speaks))
        for (const stance of STANCES)
          for (let node = 0; node < each; node++) {
            const figure = personOf(random, habit, stance, way);
            sum.figures++;
            for (const { skeleton, roles } of targets) {
              const pairs = matchSkeletons(figure.skeleton, skeleton);
              const score = judge(figure.skeleton, figure.roles, skeleton, roles, pairs, figure.longer);
              sum.wanted += score.wanted;
              sum.right += score.right;
              const sure = score.said.filter((pair) => pair.confidence >= 0.9);
              sum.sure += sure.length;
              sum.wrong += sure.filter((pair) => !pair.isRight).length;
            }
          }
    const share = (100 * sum.right) / sum.wanted;
    const wrong = (100 * sum.wrong) / Math.max(1, sum.sure);
    const words = speaks === 'known' ? 'with names' : 'without names';
    return [
      {
        work: `people as games have them, with flesh, ${words} (${sum.figures} figures)`,
        measured: `${share.toFixed(2)} %, wrong of those said at 0.9 and more ${wrong.toFixed(2)} %`,
        budget: `≥ ${least} %, ≤ 0.5 %`,
        holds: share >= least && wrong <= 0.5,
      },
    ];
  };
  return [...rowsOf('known', 1, 99.5), ...rowsOf('nothing', NAMELESS, 97)];
}
