/** How many loops of edges go across the joints within limbs, as near as a brief asks. */
import { type LoopOnMesh, type LoopsAcross, loopsAcrossJoints } from '../../anatomy/joint-loops';
import type { Character } from '../../character/model';
import { pointsOf } from '../../character/points';
import type { SurfaceBrief } from '../../contracts/surface';

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

/**
 * How far it is from the loop of every vertex to the next one along its limb, the longer of both ways, metres, by the node that
 * shows its mesh; 0 for what is on no loop across a joint’s limb.
 */
export function waysToNextLoop(character: Character): Map<number, Float32Array> {
  const out = new Map<number, Float32Array>();
  for (const { loops } of loopsAcrossJoints(character)) {
    const ways = spacingOf(loops);
    loops.forEach(({ node, vertices }, i) => {
      const mesh = character.meshes[character.nodes[node].mesh];
      const { pointOfVertex, pointCount } = pointsOf(mesh);
      const way = Math.max(ways[i - 1] ?? 0, ways[i] ?? 0);
      const own = out.get(node) ?? new Float32Array(pointCount);
      out.set(node, own);
      for (const vertex of vertices) own[pointOfVertex[vertex]] = Math.max(own[pointOfVertex[vertex]], way);
    });
  }
  return new Map(
    [...out].map(([node, own]) => {
      const { pointOfVertex } = pointsOf(character.meshes[character.nodes[node].mesh]);
      const values = new Float32Array(pointOfVertex.length);
      pointOfVertex.forEach((point, vertex) => {
        values[vertex] = own[point];
      });
      return [node, values];
    }),
  );
}
