/** Parts that are rigid and bend when a joint turns. */
import { branchOf } from '../../character/hierarchy';
import { placePositions } from '../../character/deform';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { morphedPositions, morphsAt } from '../../character/morphs';
import { type JointMotion, turnsOfMotion } from '../../anatomy/joint-motions';
import { verticesOfPart } from '../../anatomy/part-points';
import { type MeshPart, mustNotBend, partsOf } from '../../anatomy/parts';
import { rigidResidual } from '../../geometry/rigid-fit';
import { posedWorld } from '../../motion/pose';
import { gathered, influencesOf } from './joint-surface';

/** A rigid part that bends. */
export interface BentPart {
  readonly part: MeshPart;
  readonly motion: JointMotion;
  readonly degrees: number;
  /** How far its points are at most from where it moves as one, metres. */
  readonly most: number;
}

/** All parts that should not bend, however many bones pull them. */
export const stiffParts = (character: Character): readonly MeshPart[] =>
  partsOf(character).filter(mustNotBend);

/** Every rigid part that bends, in the motion that bends it most. */
export function bentParts(character: Character, motions: readonly JointMotion[]): BentPart[] {
  return stiffParts(character).flatMap((part): BentPart[] => {
    const worst = motions
      .filter(({ joints }) => pullsUnevenly(character, part, joints))
      .map((motion): BentPart => {
        const { degrees } = motion;
        return { part, motion, degrees, most: bentBy(character, part, motion, degrees) };
      })
      .sort((a, b) => b.most - a.most)[0];
    return worst ? [worst] : [];
  });
}

/** Some of the bones that pull it go along, others stay. */
function pullsUnevenly(character: Character, { drivers }: MeshPart, joints: JointMotion['joints']): boolean {
  return joints.some(({ bone }) => {
    const moves = branchOf(character.nodes, [bone]);
    const going = drivers.filter(({ node }) => moves[node]).length;
    return going > 0 && going < drivers.length;
  });
}

/** How far a part is from moving as one, metres. */
export function bentBy(character: Character, part: MeshPart, motion: JointMotion, degrees: number): number {
  const placed = placedMeshes(character).find(({ node }) => node === part.node)!;
  const { mesh, skin, node, points } = placed;
  if (!skin || !mesh.influences) return 0;
  const vertices = verticesOfPart(mesh, part);
  const posed = placePositions(
    gathered(morphedPositions(mesh, morphsAt(character, node)), vertices),
    influencesOf(mesh.influences, vertices),
    skin,
    node,
    posedWorld(character, turnsOfMotion(motion, degrees)),
    motion.skinning,
  );
  const all = Uint32Array.from(vertices, (_, i) => i);
  return rigidResidual(gathered(points, vertices), posed, all).most;
}
