/** How evenly a turn of the hand is spread along its lower arm. */
import { type JointMotion, armOfPalmTurn, turnsOfMotion } from '../../anatomy/joint-motions';
import { mustNotBend, partsOf } from '../../anatomy/parts';
import { branchOf, restPlace } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { placePositions } from '../../character/deform';
import { type Vec3, dot, subtract } from '../../geometry/matrix';
import { type TwistRing, twistRings } from '../../geometry/twist-rings';
import { morphedPositions, morphsAt } from '../../character/morphs';
import { posedWorld } from '../../motion/pose';

/** A turn along a limb. */
export interface TwistSpread {
  /** The node of the mesh that is farthest from an even spread. */
  readonly node: number;
  /** From where the limb begins to its end, the turn as the motion counts it. */
  readonly rings: readonly TwistRing[];
  /** How far the motion turns, degrees: an even spread is this times how far along a ring lies. */
  readonly degrees: number;
  /** The farthest that a ring is off an even spread, degrees, and where on the way that is, 0 … 1. */
  readonly off: number;
  readonly at: number;
}

/** A point is of the limb where it goes with it by at least so much. */
const OF_LIMB = 0.5;

/** Fewer rings say nothing of a spread. */
const LEAST_RINGS = 4;

/** The spread of a hand’s turn at the end of its motion; null of other motions, and where no skin lies along the arm. */
export function twistSpreadOf(character: Character, motion: JointMotion): TwistSpread | null {
  const arm = armOfPalmTurn(character, motion);
  if (arm === null) return null;
  const { nodes } = character;
  const ends: { from: Vec3; to: Vec3 } = { from: restPlace(nodes, arm), to: restPlace(nodes, motion.bone) };
  const sign = Math.sign(dot(motion.axis, subtract(ends.to, ends.from)));
  const degrees = motion.degrees - motion.from;
  const world = posedWorld(character, turnsOfMotion(motion, motion.degrees));
  const moves = branchOf(nodes, [arm]);
  // A guard or a strap that goes as one with a bone twists nowhere.
  const stiff = partsOf(character).filter((part) => part.drivers.length < 2 || mustNotBend(part));
  const spreads = placedMeshes(character).flatMap(({ node, mesh, skin, points }): TwistSpread[] => {
    if (!skin || !mesh.influences) return [];
    const { offsets, joint, weight } = mesh.influences;
    const isOfLimb = new Uint8Array(mesh.vertexCount);
    for (let vertex = 0; vertex < isOfLimb.length; vertex++) {
      let sum = 0;
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++)
        if (moves[skin.joints[joint[k]]]) sum += weight[k];
      if (sum >= OF_LIMB) isOfLimb[vertex] = 1;
    }
    for (const part of stiff.filter((one) => one.node === node))
      for (const polygon of part.polygons)
        for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++)
          isOfLimb[mesh.corners[k]] = 0;
    if (!isOfLimb.includes(1)) return [];
    const bound = morphedPositions(mesh, morphsAt(character, node));
    const posed = placePositions(bound, mesh.influences, skin, node, world, motion.skinning);
    const rings = twistRings(points, posed, isOfLimb, ends).map(({ along, turned }) => ({
      along,
      turned: turned * sign,
    }));
    if (rings.length < LEAST_RINGS) return [];
    const offOf = ({ along, turned }: TwistRing) => Math.abs(turned - degrees * along);
    const worst = rings.reduce((one, other) => (offOf(other) > offOf(one) ? other : one));
    return [{ node, rings, degrees, off: offOf(worst), at: worst.along }];
  });
  return spreads.reduce<TwistSpread | null>(
    (worst, one) => (!worst || one.off > worst.off ? one : worst),
    null,
  );
}
