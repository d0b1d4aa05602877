/** How many loops of edges go across the joints within limbs, as near as a brief asks. */
import { type LoopOnMesh, type LoopsAcross, loopsAcrossJoints } from '../../anatomy/joint-loops';
import type { Character } from '../../character/model';
import type { SurfaceBrief } from './settings';

/** A joint with the loops near it. */
export interface CountedLoops {
  readonly across: LoopsAcross;
  /** As far to either side as counts, metres. */
  readonly reach: number;
  readonly near: readonly LoopOnMesh[];
  /** Of those the ones that lie above and below the joint; one that lies at it counts for neither. */
  readonly above: number;
  readonly below: number;
  readonly wanted: number;
}

/** A loop lies at its joint where it is no farther from it than this share of the radius. */
const AT_JOINT = 0.15;

/** The joints within limbs whose loops can be counted. */
export function countedLoops(
  character: Character,
  surface: Pick<SurfaceBrief['surface'], 'nearJointShare' | 'loopsAtLimbs' | 'loopsAtKnuckles'>,
): CountedLoops[] {
  return loopsAcrossJoints(character).map((across) => {
    const reach = surface.nearJointShare * 2 * across.radius;
    const near = across.loops.filter(({ along }) => Math.abs(along) <= reach);
    const beyond = AT_JOINT * across.radius;
    return {
      across,
      reach,
      near,
      above: near.filter(({ along }) => along < -beyond).length,
      below: near.filter(({ along }) => along > beyond).length,
      wanted: across.role === 'knuckle' ? surface.loopsAtKnuckles : surface.loopsAtLimbs,
    };
  });
}

/** Ways from each loop to the next, metres. */
export const spacingOf = (loops: readonly { readonly along: number }[]): number[] =>
  loops.slice(1).map(({ along }, i) => along - loops[i].along);
