/** People as games have them, with flesh: without toes, with things to hold by, with helpers on the root and twists. */
import { matchSkeletons } from '../../core/anatomy/match';
import { QUAY } from '../../core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '../../core/anatomy/skeletons/vrm';
import { type Figure, makeFigure, makeRandom } from './figures';
import { HABITS } from './habits';
import type { Row } from './report';
import { judge, rolesOfShipped } from './truth';

/** What a game's figure has or lacks. */
const WAYS = ['no toes', 'things to hold by', 'helpers and twists'] as const;

const STANCES = ['T', 'A', 'relaxed'] as const;

/** So many figures without names of a habit, way and stance. */
const NAMELESS = 6;

/** The figure without some of its bones; what hangs on them goes up. */
function without(figure: Figure, gone: RegExp): Figure {
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

/** The figure with weight on the bones that a body is bound to. */
const bound = (figure: Figure): Figure => ({
  ...figure,
  skeleton: {
    ...figure.skeleton,
    bones: figure.skeleton.bones.map((b, i) => ({ ...b, weight: figure.isFlesh[i] ? 30 : 0 })),
  },
});

/** The rows of one draw. */
export function peopleRows(seed: number): Row[] {
  const random = makeRandom(seed);
  const targets = [QUAY, VRM_HUMANOID].map((skeleton) => ({ skeleton, roles: rolesOfShipped(skeleton) }));
  const rowsOf = (speaks: 'known' | 'nothing', each: number, least: number): Row[] => {
    const sum = { figures: 0, wanted: 0, right: 0, sure: 0, wrong: 0 };
    for (const way of WAYS)
      for (const habit of HABITS.filter((h) => h.speaks === speaks))
        for (const stance of STANCES)
          for (let n = 0; n < each; n++) {
            const made = makeFigure(random, 'human', habit, { stance, holding: way === 'things to hold by' });
            const figure = bound(way === 'no toes' ? without(made, /^toe /) : made);
            sum.figures++;
            for (const { skeleton, roles } of targets) {
              const pairs = matchSkeletons(figure.skeleton, skeleton);
              const score = judge(figure.skeleton, figure.roles, skeleton, roles, pairs, figure.longer);
              sum.wanted += score.wanted;
              sum.right += score.right;
              const sure = score.said.filter((p) => p.confidence >= 0.9);
              sum.sure += sure.length;
              sum.wrong += sure.filter((p) => !p.isRight).length;
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
