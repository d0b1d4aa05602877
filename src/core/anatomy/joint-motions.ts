/**
 * The motions that put the joints of a figure to work: of a body those that its joints have in life, as far as they go there
 * (joint-ranges), told from how the figure stands; of what nothing is known small turns about three axes. Where a body
 * moves several joints as one (spine, neck, collar with shoulder) they share the turn.
 */
import {
  ancestorsOf,
  bonesOf,
  branchOf,
  childrenOf,
  restPlace,
  restWorld,
  weightOfNodes,
} from '../character/hierarchy';
import type { BodyKind } from '../character/body-kinds';
import type { Character } from '../character/model';
import {
  type Quat,
  type Vec3,
  cross,
  decompose,
  distance,
  dot,
  length,
  normalise,
  quatAbout,
  quatConjugate,
  quatMultiply,
  quatRotate,
  subtract,
} from '../geometry/matrix';
import type { SkinningMethod } from '../geometry/skinning';
import type { Turns } from '../motion/pose';
import { type Bearing, degreesBetween, squareAgainst } from './bearing';
import { bodyKindOf } from './body-kind';
import { boneAxesOf } from './bone-axes';
import { type BoneMeaning, isBodyBone, meaningOf } from './bones';
import { parentsFromPlaces } from './flat';
import { LIFE_RANGES, usualTurn } from './joint-ranges';
import { bearingOf } from './landmarks';
import { skeletonOf } from './skeleton';

/** One joint that takes part in a motion. */
export interface TurningJoint {
  readonly bone: number;
  readonly share: number;
  /** What it turns about, world space at rest; the axis of the motion where it does not say. */
  readonly axis?: Vec3;
  /** Places in the list of joints, all before it, of those that carry it along with its axis, the uppermost first. */
  readonly under?: readonly number[];
}

/** A motion of a joint, from rest to as far as it goes. */
export interface JointMotion {
  /** The joint that it is told of: the first of those that turn. */
  readonly bone: number;
  /** What the motion is, in words: “bend”, “raise sideways”. The same for both sides. */
  readonly motion: string;
  /** Where it ends, degrees, counted as the field counts it: an arm that hangs is at 0. */
  readonly degrees: number;
  /** Where it begins, degrees: how the figure stands. */
  readonly from: number;
  /** The part of the body that its joint is of, fingers as one; '' where nothing tells. */
  readonly part: string;
  /** The joints that turn, each with its share of the turn; of what turns about one axis all shares make 1. */
  readonly joints: readonly TurningJoint[];
  readonly axis: Vec3;
  /** The joints at which its figures are told; all that turn where it does not say. */
  readonly at?: readonly number[];
  /** It is one that such joints make in life; else a small turn that stands for whatever it may do. */
  readonly isInLife: boolean;
  /** How the engine skins what it bends; linearly where it does not say. */
  readonly skinning?: SkinningMethod;
}

/** The turns of a motion when it stands at so many degrees. */
export function turnsOfMotion({ joints, axis, from }: JointMotion, degrees: number): Turns {
  const radians = ((degrees - from) * Math.PI) / 180;
  const made: Quat[] = [];
  const turns = new Map<number, Quat>();
  for (const joint of joints) {
    const own = quatAbout(joint.axis ?? axis, radians * joint.share);
    const carried = (joint.under ?? []).reduce<Quat>((sum, at) => quatMultiply(made[at], sum), NO_TURN);
    const turn = quatMultiply(quatMultiply(carried, own), quatConjugate(carried));
    made.push(turn);
    turns.set(joint.bone, quatMultiply(turn, turns.get(joint.bone) ?? NO_TURN));
  }
  return turns;
}

/** The identity of turns. */
const NO_TURN: Quat = [0, 0, 0, 1];

/** The collar takes a third of what a shoulder rises, the arm the rest (Inman, Saunders & Abbott 1944). */
const COLLAR_SHARE = 1 / 3;

/** What turns less than this from where it stands is no motion, degrees. */
const LEAST_TURN = 5;

/** Parts whose bones bend as one, and what they are told as. */
const AS_ONE: Readonly<Record<string, string>> = {
  spine: 'spine',
  chest: 'spine',
  neck: 'neck',
  head: 'neck',
};

const FINGERS = new Set(['thumb', 'index', 'long', 'ring', 'little', 'finger']);

/** What the motions of one joint are made from. */
interface JointAt {
  readonly bone: number;
  readonly meaning: BoneMeaning;
  /** To the next joint at rest, unit length, world space. */
  readonly along: Vec3;
  readonly bearing: Bearing;
  /** Away from the middle on the joint's own side. */
  readonly outward: Vec3;
  /** Direction of the bone above, unit length; null where there is none. */
  readonly above: Vec3 | null;
  /** What it bends about as it stands, world space; null where it is straight. */
  readonly hinge: Vec3 | null;
  /** Where the palm of its hand looks, unit length; null of what has no hand with fingers. */
  readonly palm: Vec3 | null;
}

/** A motion before it is known which joints turn. */
type Way = Omit<JointMotion, 'bone' | 'joints' | 'isInLife' | 'part'>;

type MotionOf = (joint: JointAt) => readonly (Way | null)[];

const known = new WeakMap<Character, readonly JointMotion[]>();

/** Whether all bones hang side by side, so that what turns one leaves the next behind: its motions are none that it could be told by. */
export const hangsSideBySide = (character: Character): boolean =>
  parentsFromPlaces(skeletonOf(character)) !== null;

/**
 * The motions of all joints that move flesh, those of the body before others; none where bones hang side by side. Made once for a
 * character.
 */
export function jointMotionsOf(character: Character): readonly JointMotion[] {
  let motions = known.get(character);
  if (!motions) known.set(character, (motions = hangsSideBySide(character) ? [] : motionsOf(character)));
  return motions;
}

function motionsOf(character: Character): JointMotion[] {
  const bearing = bearingOf(character);
  const { kind } = bodyKindOf(character);
  const moving = movingBones(character);
  const along = boneDirections(character);
  const hinges = hingesOf(character);
  const world = restWorld(character.nodes);
  const ofBody: JointMotion[] = [];
  const others: JointMotion[] = [];
  const groups = new Map<string, number[]>();
  for (const bone of moving) {
    const meaning = meaningOf(character, bone);
    const way = along.get(bone) ?? null;
    const group = isBodyBone(meaning) && meaning.side === 'middle' ? AS_ONE[meaning.part] : undefined;
    if (bearing && group) groups.set(group, [...(groups.get(group) ?? []), bone]);
    const motions =
      bearing && way && isBodyBone(meaning) && !group ? motionsOfPart(meaning.part, kind) : undefined;
    if (bearing && way && motions) {
      const joint = jointAt(character, bone, { meaning, along: way, bearing, hinges, directions: along });
      const made = motions(joint).filter((motion) => motion !== null);
      ofBody.push(
        ...made.map((motion) => ({
          bone,
          part: partKey(meaning.part),
          ...motion,
          joints: jointsFor(character, bone, motion),
          // What its twist bones do by themselves is told of them.
          ...(PALM_TURNS.includes(motion.motion) && { at: [bone] }),
          isInLife: true,
        })),
      );
    } else if (!group || !bearing)
      others.push(...looseMotions(bone, meaning, way ?? [0, 1, 0], decompose(world, bone * 16).rotation));
  }
  if (bearing) for (const [group, bones] of groups) ofBody.unshift(...groupMotions(group, bones, bearing));
  return [...ofBody, ...others].filter(({ degrees, from }) => Math.abs(degrees - from) >= LEAST_TURN);
}

/** Bodies whose thighs go to and fro only: that of a bird lies in the flank, and no bird kneels. */
const THIGHS_OF_BEASTS: ReadonlySet<BodyKind> = new Set(['four-legged', 'winged']);

function motionsOfPart(part: string, kind: BodyKind): MotionOf | undefined {
  if (part === 'upperleg' && THIGHS_OF_BEASTS.has(kind)) return beastLeg;
  return OF_PART.get(partKey(part));
}

const partKey = (part: string): string => (FINGERS.has(part) ? 'finger' : part);

/** Bones that carry weight or have one below them that does; a root that carries nothing moves all alike. */
function movingBones(character: Character): number[] {
  const weight = weightOfNodes(character);
  const busy = new Set<number>();
  for (const bone of bonesOf(character)) {
    if (!(weight[bone] > 0)) continue;
    busy.add(bone);
    for (const above of ancestorsOf(character.nodes, bone))
      if (character.nodes[above].kind === 'bone' && isBodyBone(meaningOf(character, above))) busy.add(above);
  }
  return bonesOf(character).filter((bone) => busy.has(bone));
}

const knownDirections = new WeakMap<Character, ReadonlyMap<number, Vec3>>();

/** Where every bone goes on to, unit length, world space at rest; bones without anything below go on as they came. */
export function boneDirections(character: Character): ReadonlyMap<number, Vec3> {
  let directions = knownDirections.get(character);
  if (!directions) knownDirections.set(character, (directions = directionsOf(character)));
  return directions;
}

function directionsOf(character: Character): Map<number, Vec3> {
  const { nodes } = character;
  const world = restWorld(nodes);
  const out = new Map<number, Vec3>();
  for (const { node, along } of boneAxesOf(character))
    out.set(node, normalise(quatRotate(decompose(world, node * 16).rotation, along)));
  const children = childrenOf(nodes);
  for (const bone of bonesOf(character)) {
    if (out.has(bone)) continue;
    const here = restPlace(nodes, bone);
    // A hand goes on to the middle of its knuckles.
    const below = children[bone]
      .filter((child) => nodes[child].kind === 'bone')
      .map((child) => restPlace(nodes, child));
    const middle: Vec3 = [0, 1, 2].map(
      (k) => below.reduce((sum, place) => sum + place[k], 0) / below.length,
    ) as unknown as Vec3;
    if (below.length > 0 && distance(middle, here) > 1e-6) out.set(bone, normalise(subtract(middle, here)));
    else if (nodes[bone].parent >= 0) {
      const way = subtract(here, restPlace(nodes, nodes[bone].parent));
      if (length(way) > 1e-6) out.set(bone, normalise(way));
    }
  }
  return out;
}

function hingesOf(character: Character): Map<number, Vec3> {
  const world = restWorld(character.nodes);
  return new Map(
    boneAxesOf(character).flatMap(({ node, hinge }) =>
      hinge ? [[node, normalise(quatRotate(decompose(world, node * 16).rotation, hinge))] as const] : [],
    ),
  );
}

function jointAt(
  character: Character,
  bone: number,
  from: Pick<JointAt, 'meaning' | 'along' | 'bearing'> & {
    readonly hinges: ReadonlyMap<number, Vec3>;
    readonly directions: ReadonlyMap<number, Vec3>;
  },
): JointAt {
  const { meaning, along, bearing, hinges, directions } = from;
  const [x, y, z] = bearing.left;
  const outward: Vec3 = meaning.side === 'right' ? [-x, -y, -z] : bearing.left;
  const above = directions.get(character.nodes[bone].parent) ?? null;
  const palm = palmOf(character, bone, meaning, directions);
  return { bone, meaning, along, bearing, outward, above, hinge: hinges.get(bone) ?? null, palm };
}

/**
 * Where the palm looks that a hand or a finger is of: square on the way of the hand and on that from the index finger to the
 * last, on whichever side of them the anatomy of that hand has it.
 */
function palmOf(
  character: Character,
  bone: number,
  { side }: BoneMeaning,
  directions: ReadonlyMap<number, Vec3>,
): Vec3 | null {
  const { nodes } = character;
  const hand = [bone, ...ancestorsOf(nodes, bone)].find((node) => meaningOf(character, node).part === 'hand');
  const way = hand === undefined ? undefined : directions.get(hand);
  if (hand === undefined || !way || side === 'middle') return null;
  const below = branchOf(nodes, [hand]);
  const knuckle = (part: string): Vec3 | null => {
    const found = nodes.findIndex((_, node) => below[node] && meaningOf(character, node).part === part);
    return found < 0 ? null : restPlace(nodes, found);
  };
  const index = knuckle('index');
  const last = knuckle('little') ?? knuckle('ring') ?? knuckle('long');
  if (!index || !last) return null;
  const across = subtract(last, index);
  const normal = side === 'left' ? cross(across, way) : cross(way, across);
  return length(normal) > 1e-9 ? normalise(normal) : null;
}

/** The joints that take part: a collar helps an arm to rise, twist bones go along with a hand that is turned. */
function jointsFor(
  character: Character,
  bone: number,
  { motion }: Pick<JointMotion, 'motion'>,
): JointMotion['joints'] {
  const { parent } = character.nodes[bone];
  if (PALM_TURNS.includes(motion)) return twistedAlong(character, bone);
  if (motion !== RAISE || parent < 0 || meaningOf(character, parent).part !== 'collar')
    return [{ bone, share: 1 }];
  return [
    { bone, share: 1 - COLLAR_SHARE },
    { bone: parent, share: COLLAR_SHARE },
  ];
}

const RAISE = 'raise sideways';

/** A hand does not turn on its wrist: the whole lower arm twists, all the more the nearer to the hand. */
const PALM_TURNS: readonly string[] = ['turn palm up', 'turn palm down'];

/** The bone of the body that a hand hangs on, whatever twists lie between. */
const armAbove = (character: Character, hand: number): number | undefined =>
  ancestorsOf(character.nodes, hand).find((node) => isBodyBone(meaningOf(character, node)));

/** The bone of the arm along which a motion turns the hand; null of other motions. */
export const armOfPalmTurn = (
  character: Character,
  { bone, motion, isInLife }: JointMotion,
): number | null => (isInLife && PALM_TURNS.includes(motion) ? (armAbove(character, bone) ?? null) : null);

/** A twist bone lies along the limb by at least this share of it from either end, or it is one of the joint itself. */
const WITHIN_LIMB = 0.02;

/**
 * A hand that is turned with the twist bones of its lower arm, each by as much as the arm has turned where it stands: the even
 * spread that they are there for, and that engines drive them by. What hangs on another of them turns by what is left.
 */
function twistedAlong(character: Character, hand: number): TurningJoint[] {
  const { nodes } = character;
  const arm = armAbove(character, hand);
  if (arm === undefined) return [{ bone: hand, share: 1 }];
  const from = restPlace(nodes, arm);
  const way = subtract(restPlace(nodes, hand), from);
  const whole = dot(way, way);
  const below = branchOf(nodes, [arm]);
  const beyond = branchOf(nodes, [hand]);
  const turned = new Map<number, number>([[hand, 1]]);
  for (const bone of bonesOf(character)) {
    if (!below[bone] || beyond[bone] || meaningOf(character, bone).kind !== 'twist') continue;
    const share = whole > 0 ? dot(subtract(restPlace(nodes, bone), from), way) / whole : 0;
    if (share > WITHIN_LIMB && share < 1 + WITHIN_LIMB) turned.set(bone, Math.min(1, share));
  }
  return [...turned].map(([bone, share]) => {
    const carrier = ancestorsOf(nodes, bone).find((node) => turned.has(node));
    return { bone, share: share - (carrier === undefined ? 0 : turned.get(carrier)!) };
  });
}

/** Turning a direction towards another: by so many degrees about what stands square on both. */
function towards(
  motion: string,
  along: Vec3,
  goal: Vec3,
  degrees: number,
  from = 0,
): ReturnType<MotionOf>[number] {
  const axis = cross(along, goal);
  return length(axis) < 1e-4 ? null : { motion, degrees, from, axis: normalise(axis) };
}

const negative = ([x, y, z]: Vec3): Vec3 => [-x, -y, -z];

/** About an axis both ways. */
const eitherWay = (words: readonly [string, string], axis: Vec3, degrees: readonly [number, number]) =>
  words.map((motion, i) => ({ motion, degrees: degrees[i], from: 0, axis: i === 0 ? axis : negative(axis) }));

const aboutItself = ({ along, meaning }: JointAt, degrees: readonly [number, number]) =>
  // Outward on both sides is the other way round about what points away from the body.
  eitherWay(['turn out', 'turn in'], meaning.side === 'right' ? negative(along) : along, degrees);

/** A joint that is bent by less than this may be bent the wrong way, as a knee is that stands pressed back; degrees. */
const PRESSED_BACK = 20;

/** A knee or an elbow: about the hinge that it shows, from how far it is bent already. */
function bend({ along, above, hinge }: JointAt, goal: Vec3, degrees: number) {
  const bent = above ? degreesBetween(above, along) : 0;
  const wanted = cross(along, squareAgainst(goal, along) ?? goal);
  if (!hinge) return [towards('bend', along, squareAgainst(goal, along) ?? goal, degrees)];
  const isBack = bent < PRESSED_BACK && dot(hinge, wanted) < 0;
  if (isBack) return [{ motion: 'bend', degrees, from: -bent, axis: negative(hinge) }];
  return [{ motion: 'bend', degrees, from: bent, axis: hinge }];
}

function shoulder(joint: JointAt) {
  const { along, bearing, outward } = joint;
  const down = negative(bearing.up);
  const { upperarm } = LIFE_RANGES;
  // How far it stands from hanging, seen from before.
  const rises = (Math.atan2(dot(along, outward), dot(along, down)) * 180) / Math.PI;
  const upAxis = normalise(cross(down, outward));
  const radians = (upperarm.back * Math.PI) / 180;
  const behind: Vec3 = [0, 1, 2].map(
    (k) => Math.cos(radians) * down[k] - Math.sin(radians) * bearing.forward[k],
  ) as unknown as Vec3;
  return [
    { motion: RAISE, degrees: upperarm.raise, from: rises, axis: upAxis },
    { motion: 'lower to the side', degrees: rises - upperarm.hangs, from: 0, axis: negative(upAxis) },
    towards('reach forward', along, bearing.forward, degreesBetween(along, bearing.forward)),
    towards('reach back', along, behind, degreesBetween(along, behind)),
    ...aboutItself(joint, [upperarm.turnOut, upperarm.turnIn]),
  ];
}

function hip(joint: JointAt) {
  const { along, bearing, outward } = joint;
  const { upperleg } = LIFE_RANGES;
  return [
    towards('swing forward', along, bearing.forward, upperleg.forward),
    towards('swing back', along, negative(bearing.forward), upperleg.back),
    towards('spread', along, outward, upperleg.spread),
    towards('cross', along, negative(outward), upperleg.cross),
    ...aboutItself(joint, [upperleg.turn, upperleg.turn]),
  ];
}

function wrist(joint: JointAt) {
  const { along, above, meaning, bearing } = joint;
  const { hand } = LIFE_RANGES;
  const arm = above ?? along;
  // A hand without fingers: palms look down or at the thigh.
  const palm =
    (joint.palm && squareAgainst(joint.palm, along)) ??
    squareAgainst(negative(bearing.up), along) ??
    squareAgainst(negative(joint.outward), along);
  if (!palm) return [];
  const side = cross(palm, along);
  return [
    towards('bend to the palm', along, palm, hand.bend),
    towards('bend back', along, negative(palm), hand.back),
    towards('tilt one way', along, side, hand.side),
    towards('tilt the other way', along, negative(side), hand.side),
    ...eitherWay(['turn palm up', 'turn palm down'], meaning.side === 'right' ? negative(arm) : arm, [
      hand.turn,
      hand.turn,
    ]),
  ];
}

/** A finger bends to the palm; where no hand tells where that is, towards where it is bent already, else down. */
function finger({ along, above, bearing, meaning, palm }: JointAt) {
  const curl =
    above && degreesBetween(above, along) > 6 ? squareAgainst(subtract(along, above), along) : null;
  const goal = (palm && squareAgainst(palm, along)) ?? curl ?? negative(bearing.up);
  const range = meaning.part === 'thumb' ? LIFE_RANGES.finger.thumb : LIFE_RANGES.finger.bend;
  return [towards('bend', along, goal, range)];
}

function ankle({ along, bearing }: JointAt) {
  const { foot } = LIFE_RANGES;
  return [
    towards('up', along, squareAgainst(bearing.up, along) ?? bearing.up, foot.up),
    towards('down', along, squareAgainst(negative(bearing.up), along) ?? bearing.up, foot.down),
  ];
}

/** The leg of a beast: to and fro, and a little to the side. */
const beastLeg = ({ along, bearing, outward }: JointAt) => [
  towards('swing forward', along, bearing.forward, LIFE_RANGES.beastLeg.swing),
  towards('swing back', along, negative(bearing.forward), LIFE_RANGES.beastLeg.swing),
  towards('spread', along, outward, LIFE_RANGES.beastLeg.spread),
];

const OF_PART: ReadonlyMap<string, MotionOf> = new Map<string, MotionOf>([
  ['upperarm', shoulder],
  ['lowerarm', (joint) => bend(joint, joint.bearing.forward, LIFE_RANGES.lowerarm.bend)],
  ['hand', wrist],
  ['finger', finger],
  ['upperleg', hip],
  ['lowerleg', (joint) => bend(joint, negative(joint.bearing.forward), LIFE_RANGES.lowerleg.bend)],
  ['foot', ankle],
  ['toe', ({ along, bearing }) => [towards('up', along, bearing.up, LIFE_RANGES.toe.up)]],
  ['foreleg', beastLeg],
  ['hindleg', beastLeg],
  ['collar', ({ along, bearing }) => [towards('raise', along, bearing.up, LIFE_RANGES.collar.raise)]],
]);

/** Spine and neck: all of their bones share a turn about one axis of the body. */
function groupMotions(
  group: string,
  bones: readonly number[],
  { up, left, forward }: Bearing,
): JointMotion[] {
  const range = group === 'spine' ? LIFE_RANGES.spine : LIFE_RANGES.neck;
  const joints = bones.map((bone) => ({ bone, share: 1 / bones.length }));
  const made = [
    { motion: 'bend forward', degrees: range.forward, axis: left },
    { motion: 'bend back', degrees: range.back, axis: negative(left) },
    { motion: 'lean to the left', degrees: range.side, axis: negative(forward) },
    { motion: 'lean to the right', degrees: range.side, axis: forward },
    { motion: 'turn to the left', degrees: range.turn, axis: up },
    { motion: 'turn to the right', degrees: range.turn, axis: negative(up) },
  ];
  return made.map((motion) => ({ bone: bones[0], part: group, from: 0, joints, isInLife: true, ...motion }));
}

/** A cosine that nobody sees. */
const AS_GOOD = 0.05;

/** The bone's own axis that lies least along it, square on it: the same wherever the figure stands. */
function ownAxisAcross(own: Quat, along: Vec3): Vec3 {
  const axes = [0, 1, 2].map((k) =>
    quatRotate(
      own,
      [0, 1, 2].map((i) => (i === k ? 1 : 0)),
    ),
  );
  const leans = axes.map((axis) => Math.abs(dot(axis, along)));
  // Of two that are as good, always the same.
  const least = Math.min(...leans) + AS_GOOD;
  return squareAgainst(axes[leans.findIndex((lean) => lean <= least)], along) ?? along;
}

/** Small turns about three axes, both ways, of what no table knows. */
function looseMotions(bone: number, meaning: BoneMeaning, along: Vec3, own: Quat): JointMotion[] {
  if (meaning.kind === 'twist')
    return [along, negative(along)].map((axis, i) => ({
      bone,
      part: '',
      motion: i === 0 ? 'twist' : 'twist, other way',
      degrees: LIFE_RANGES.twist,
      from: 0,
      joints: [{ bone, share: 1 }],
      axis,
      isInLife: false,
    }));
  const degrees = (usualTurn(meaning) * 180) / Math.PI || LEAST_TURN;
  const across = ownAxisAcross(own, along);
  const other = cross(along, across);
  const axes: readonly (readonly [string, Vec3])[] = [
    ['swing', across],
    ['swing across', other],
    ['twist', along],
  ];
  return axes.flatMap(([motion, axis]) =>
    [axis, negative(axis)].map((way, i) => ({
      bone,
      part: '',
      motion: i === 0 ? motion : `${motion}, other way`,
      degrees,
      from: 0,
      joints: [{ bone, share: 1 }],
      axis: way,
      isInLife: false,
    })),
  );
}
