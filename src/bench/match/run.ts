/** The match bench: figures by chance onto the shipped skeletons and onto each other. */
import { matchSkeletons } from '../../core/anatomy/match';
import { QUAY } from '../../core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '../../core/anatomy/skeletons/vrm';
import { type MadeFigure, STANCES, makeFigure, makeRandom } from './figures';
import { HABITS } from './habits';
import type { FigureKind } from './roles';
import { type Score, judge, rolesOfShipped } from './truth';

export interface Case {
  readonly figure: MadeFigure;
  readonly onto: string;
  readonly score: Score;
}

/** Every habit in every stance, onto both shipped figures; beasts onto their kind. */
export function runMatches(seed: number, rounds: number): Case[] {
  const random = makeRandom(seed);
  const out: Case[] = [];
  const shipped = [QUAY, VRM_HUMANOID].map((skeleton) => ({ skeleton, roles: rolesOfShipped(skeleton) }));
  for (let round = 0; round < rounds; round++)
    for (const habit of HABITS)
      for (const stance of STANCES) {
        const figure = makeFigure(random, 'human', habit, { stance });
        for (const { skeleton, roles } of shipped)
          out.push({ figure, onto: skeleton.title, score: scoreOf(figure, skeleton, roles) });
        for (const kind of ['dog', 'bird'] as FigureKind[]) {
          const beast = makeFigure(random, kind, habit, { stance });
          const other = makeFigure(random, kind, habit.speaks === 'nothing' ? habit : HABITS[0], {
            stance: 'T',
          });
          out.push({
            figure: beast,
            onto: `another ${kind}`,
            score: scoreOf(beast, other.skeleton, other.roles, other.longer),
          });
        }
      }
  return out;
}

function scoreOf(
  figure: MadeFigure,
  target: MadeFigure['skeleton'],
  roles: readonly (string | null)[],
  longer: ReadonlySet<string> = new Set(),
): Score {
  const pairs = matchSkeletons(figure.skeleton, target);
  return judge(figure.skeleton, figure.roles, target, roles, pairs, new Set([...figure.longer, ...longer]));
}

/** Share right, as a percentage. */
export function shareOf(cases: readonly Case[]): number {
  const wanted = cases.reduce((sum, sample) => sum + sample.score.wanted, 0);
  return (100 * cases.reduce((sum, sample) => sum + sample.score.right, 0)) / Math.max(1, wanted);
}
