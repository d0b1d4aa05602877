/**
 * The motions that a brief has a character tried in: those that its joints have in life, as far as the brief turns them, and
 * poses of several joints that it names.
 */
import { ancestorsOf } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { meaningOf } from '../../anatomy/bones';
import { type JointMotion, type TurningJoint, jointMotionsOf } from '../../anatomy/joint-motions';
import type { TrialLimits } from '../../contracts/trials';
import { toldAt } from './sweep';

/** What of a brief says which motions are tried. */
export type MotionWishes = Pick<TrialLimits, 'reach' | 'ranges' | 'poses' | 'skinning'>;

/** The same wishes have the same key. */
export const wishesKey = ({ reach, ranges, poses, skinning }: MotionWishes): string =>
  JSON.stringify([reach, ranges, poses, skinning]);

/** What turns less than this from where it stands is no motion, degrees. */
const LEAST_TURN = 1;

const known = new WeakMap<Character, Map<string, readonly JointMotion[]>>();

/** The motions of a character, each ending where the brief has it end; made once for the same wishes. */
export function triedMotions(character: Character, wishes: MotionWishes): readonly JointMotion[] {
  const ofCharacter = known.get(character) ?? new Map<string, readonly JointMotion[]>();
  known.set(character, ofCharacter);
  const key = wishesKey(wishes);
  let motions = ofCharacter.get(key);
  if (!motions) {
    const { skinning } = wishes;
    motions = [...singleMotions(character, wishes), ...posesOf(character, wishes)].map((motion) => ({
      ...motion,
      skinning,
    }));
    ofCharacter.set(key, motions);
  }
  return motions;
}

/**
 * Which of them are looked at for what they drive into what: every pose once, and not the small turns of what no
 * table knows.
 */
export const isLookedAtForClashes = ({ isInLife, at, joints }: JointMotion): boolean =>
  isInLife && (!at || at.includes(joints[0].bone));

function singleMotions(character: Character, { reach, ranges }: MotionWishes): JointMotion[] {
  return jointMotionsOf(character).flatMap((motion): JointMotion[] => {
    const own = ranges.find((range) => range.part === motion.part && range.motion === motion.motion);
    const degrees = own ? own.degrees : motion.from + (motion.degrees - motion.from) * reach;
    // Counted upwards from where the figure stands: what the brief has end before is not tried.
    const isThere = own ? degrees - motion.from >= LEAST_TURN : Math.abs(degrees - motion.from) >= LEAST_TURN;
    return isThere ? [{ ...motion, degrees }] : [];
  });
}

function posesOf(character: Character, { poses }: MotionWishes): JointMotion[] {
  const names = [...new Set(poses.map(({ pose }) => pose))];
  return names.flatMap((name) =>
    poseMotions(
      character,
      name,
      poses.filter(({ pose }) => pose === name),
    ),
  );
}

/** One motion of a joint with how far it goes, degrees from where the figure stands. */
interface Turn {
  readonly motion: JointMotion;
  readonly degrees: number;
}

/** A pose, once for every joint that it turns, those that bend as one together: at each the figures are told apart. */
function poseMotions(character: Character, name: string, rows: MotionWishes['poses']): JointMotion[] {
  const turns = rows.flatMap(({ part, side, motion: wanted, degrees }) =>
    jointMotionsOf(character).flatMap((motion): Turn[] => {
      const isWanted = motion.part === part && motion.motion === wanted;
      const isOnSide = side === 'both' || meaningOf(character, motion.bone).side === side;
      return isWanted && isOnSide ? [{ motion, degrees: degrees - motion.from }] : [];
    }),
  );
  const most = Math.max(0, ...turns.map(({ degrees }) => Math.abs(degrees)));
  if (most < LEAST_TURN) return [];
  const joints = turningJoints(character, turns, most);
  // Told where the motions of single joints are told: what is wrong there is one matter with them.
  const places = new Map(turns.map(({ motion }) => [motion.bone, toldAt(motion)] as const));
  return [...places].map(([bone, at]) => ({
    bone,
    motion: name,
    part: '',
    from: 0,
    degrees: most,
    joints,
    axis: turns[0].motion.axis,
    isInLife: true,
    at,
  }));
}

/** All joints of a pose, those above before those below; what a joint hangs on carries it along. */
function turningJoints({ nodes }: Character, turns: readonly Turn[], most: number): TurningJoint[] {
  const depth = (bone: number) => ancestorsOf(nodes, bone).length;
  const all = turns
    .flatMap(({ motion, degrees }) =>
      motion.joints.map(({ bone, share }) => ({
        bone,
        share: (share * degrees) / most,
        axis: motion.axis,
      })),
    )
    .sort((a, b) => depth(a.bone) - depth(b.bone));
  return all.map((joint, i): TurningJoint => {
    const above = new Set([joint.bone, ...ancestorsOf(nodes, joint.bone)]);
    return { ...joint, under: [...all.keys()].filter((at) => at < i && above.has(all[at].bone)) };
  });
}
