import { object } from 'yup';
import { angleOf } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { branchOf, restPlace } from '../../../character/hierarchy';
import type { Character, SceneNode } from '../../../character/model';
import { boundInPose } from '../../../motion/bound-in-pose';
import {
  type Quat,
  type Vec3,
  dot,
  normalise,
  quatAbout,
  quatBetween,
  quatConjugate,
  quatMultiply,
  quatRotate,
  cross,
  length,
  subtract,
} from '../../../geometry/matrix';
import { facingOf, limbStances } from '../survey';

type Params = { arms: number; bend: number; legs: number; least?: number };

const RAD = Math.PI / 180;
/** What is straightened keeps this bend where no least one is wanted, degrees (common practice: a small bend at rest). */
const KEPT_BEND = 5;

/** A limb that lacks less than this of the least bend stays as it is, degrees. */
const SLACK = 0.05;

/** A limb that is bent less than this does not tell which way it bends, degrees. */
const NO_WAY = 0.5;

/**
 * The turn of the lower part of a limb that leaves the wanted bend: the way that it is bent already, or, where it is
 * straight, the way of its kind: an elbow forward, a knee back.
 */
function bendTo(wanted: number, bend: number, upper: Vec3, lower: Vec3, natural: Vec3): Quat {
  const axis = bend > NO_WAY ? cross(lower, upper) : cross(natural, lower);
  return length(axis) > 1e-9 ? quatAbout(normalise(axis), (bend - wanted) * RAD) : [0, 0, 0, 1];
}

/** Turns, in world space, that bring the limbs that are off to the wanted stance. */
function turnsTo(character: Character, { arms, bend, legs, least = 0 }: Params): Map<number, Quat> {
  const facing = facingOf(character);
  const out = new Map<number, Quat>();
  if (!facing) return out;
  const { upright: up, left, crossed, ahead } = facing;
  for (const limb of limbStances(character)) {
    const [a, b, centre] = limb.nodes.map((node): Vec3 => restPlace(character.nodes, node));
    const upper = subtract(b, a);
    const lower = subtract(centre, b);
    let straight: Quat = [0, 0, 0, 1];
    const kept = Math.min(least > 0 ? least : KEPT_BEND, bend);
    if (limb.bend > bend || limb.bend < Math.min(least, bend) - SLACK) {
      const natural = limb.limb === 'arm' ? ahead : ([-ahead[0], -ahead[1], -ahead[2]] as const);
      straight = bendTo(kept, limb.bend, upper, lower, natural);
    }
    const way = quatRotate(straight, lower).map((x, k) => x + upper[k]);
    const outward = (limb.side === 'left') === crossed ? -1 : 1;
    // A leg that is only straightened keeps its line from hip to foot.
    let target: Vec3 = normalise(subtract(centre, a));
    if (limb.limb === 'arm') {
      const angle = arms * RAD;
      target = [0, 1, 2].map(
        (k) => left[k] * outward * Math.cos(angle) - up[k] * Math.sin(angle),
      ) as unknown as Vec3;
    } else if (limb.angle > legs) {
      target = [-up[0], -up[1], -up[2]];
    }
    const off = Math.acos(Math.max(-1, Math.min(1, dot(normalise(way), target)))) / RAD;
    const turn: Quat = off > 0.01 ? quatBetween(way, target) : [0, 0, 0, 1];
    if (Math.abs(turn[3]) < 1 - 1e-12) out.set(limb.nodes[0], turn);
    // The lower bone turns after the upper one has moved: its own turn goes along with that.
    const whole = quatMultiply(turn, straight);
    if (Math.abs(straight[3]) < 1 - 1e-12) out.set(limb.nodes[1], quatMultiply(whole, quatConjugate(turn)));
    // A hand goes with its arm; a foot stays as flat as it was.
    if (limb.limb === 'leg' && Math.abs(whole[3]) < 1 - 1e-12) out.set(limb.nodes[2], quatConjugate(whole));
  }
  return out;
}

/**
 * Brings arms and legs to the stance that the brief wants and makes that the rest pose: the skin is posed by
 * its own weights and bound there anew. Clips keep their keys, so that in motion the skeleton goes exactly
 * where it went before.
 */
export const setStance = defineRemedy({
  id: 'set-stance',
  room: 'placement',
  title: 'Bring to the brief’s stance',
  does: 'Arms and legs turn at shoulder, hip, elbow and knee, and feet stay as flat as they are; the skin follows by its weights, and that becomes the rest pose with binds of its own. In the clips the bones go where they went before.',
  params: object({
    arms: angleOf('Arms below the horizontal').min(-90).max(90).required(),
    bend: angleOf('Bend that may stay').min(0).max(180).required(),
    least: angleOf('Bent at least').min(0).max(45).default(0),
    legs: angleOf('Legs off the vertical').min(0).max(90).default(15),
  }),
  rows: (character) =>
    limbStances(character).flatMap((limb) => {
      const isArm = limb.limb === 'arm';
      const from = isArm ? 'Arm below the horizontal' : 'Leg off the vertical';
      return [
        { label: `${from}, ${limb.side}`, value: limb.angle, unit: '°' },
        { label: `${isArm ? 'Elbow' : 'Knee'} bent, ${limb.side}`, value: limb.bend, unit: '°' },
      ];
    }),
  apply(character, params) {
    const turns = turnsTo(character, params);
    if (!facingOf(character))
      throw new RemedyError(
        'The skeleton does not tell which bones are the limbs: head, feet and both sides are needed. Name them, or bring it to its stance where it was made.',
      );
    if (turns.size === 0) throw new NothingToDo('It stands like that already; there is nothing to turn.');
    return boundInPose(character, turns);
  },
  promises(character, params) {
    const below = branchOf(character.nodes, turnsTo(character, params).keys());
    const isMoved = (node: SceneNode, i: number) =>
      node.skin < 0 ? below[i] : character.skins[node.skin].joints.some((j) => below[j]);
    return promise(['places', 'points', 'shading', 'morphs', 'binds', 'clips', 'shows'], {
      meant: character.nodes.flatMap((node, i) => (node.mesh >= 0 && isMoved(node, i) ? [i] : [])),
    });
  },
});
