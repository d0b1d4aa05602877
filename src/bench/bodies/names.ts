/** Names proposed for the bones of figures in every habit, under the conventions of the briefs that ship. */
import { looksOf } from '../../core/anatomy/looks';
import { characterOfSkeleton, skeletonOf } from '../../core/anatomy/skeleton';
import { bonesOf } from '../../core/character/hierarchy';
import { BRIEFS } from '../../core/house/briefs';
import { proposeNames } from '../../core/rooms/skeleton/propose-names';
import { planRenaming } from '../../core/rooms/skeleton/remedies/rename';
import { makeFigure, makeRandom } from '../match/figures';
import { HABITS } from '../match/habits';
import type { BenchRow } from '../row';

/** What came of the proposals of a draw, by bones. */
export interface NameScore {
  bones: number;
  /** Names that the convention takes, each once. */
  right: number;
  clashes: number;
  /** Bones of a side whose new name does not end as the brief wants that side to end. */
  sidesLost: number;
}

/** All bones renamed, of people and beasts in every habit. */
export function scoreNames(seed: number): NameScore {
  const random = makeRandom(seed);
  const score: NameScore = { bones: 0, right: 0, clashes: 0, sidesLost: 0 };
  for (const habit of HABITS)
    for (const kind of ['human', 'cattle', 'bird'] as const)
      for (const { naming } of BRIEFS.filter(
        (brief) => brief.id === 'handset' || brief.id === 'plain-desk',
      )) {
        const figure = makeFigure(random, kind, habit, { stance: 'T', holding: kind === 'human' });
        const character = characterOfSkeleton(figure.skeleton);
        const plan = planRenaming(character, proposeNames(character, bonesOf(character), naming));
        const renamed = new Map(plan.renamings.map((renaming) => [renaming.node, renaming.to]));
        const convention = new RegExp(naming.pattern);
        const { side } = looksOf(skeletonOf(character));
        score.clashes += plan.clashes.length;
        skeletonOf(character).bones.forEach((bone, i) => {
          const name = renamed.get(bone.node) ?? bone.name;
          const end = side[i] > 0 ? naming.sides?.left : naming.sides?.right;
          score.bones++;
          if (convention.test(name)) score.right++;
          if (side[i] !== 0 && end && !name.endsWith(end)) score.sidesLost++;
        });
      }
  return score;
}

/** The rows of both draws. */
export const nameRows = (): BenchRow[] =>
  [31, 1031].map((seed, k) => {
    const { bones, right, clashes, sidesLost } = scoreNames(seed);
    return {
      work: `names proposed, ${k === 0 ? 'first' : 'second'} draw (${bones} bones in every habit)`,
      measured: `${((100 * right) / bones).toFixed(2)} % as the brief wants, ${clashes} clashes, ${sidesLost} sides lost`,
      budget: '≥ 99.5 %, 0, 0',
      holds: right >= 0.995 * bones && clashes === 0 && sidesLost === 0,
    };
  });
