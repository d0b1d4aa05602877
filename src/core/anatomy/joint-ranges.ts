/**
 * How far the joints of a body turn in life. Degrees after the norms of the American Academy of Orthopaedic Surgeons
 * where they know the joint; what they do not know (collar, tail, fingers) is common practice.
 */

/** The farthest that a part turns in any one direction, degrees. */
const FARTHEST: Readonly<Record<string, number>> = {
  collar: 40,
  upperarm: 180,
  lowerarm: 150,
  hand: 80,
  upperleg: 120,
  lowerleg: 135,
  foot: 50,
  toe: 60,
  neck: 60,
  head: 60,
  spine: 80,
  chest: 80,
  pelvis: 80,
  twist: 80,
  thumb: 90,
  index: 100,
  long: 100,
  ring: 100,
  little: 100,
};

/**
 * How far the joints of a body turn in every direction, degrees: the norms of the American Academy of Orthopaedic Surgeons; the
 * collar, fingers and toes, the legs of beasts, and that an arm hangs a little off the body, are common practice.
 */
export const LIFE_RANGES = {
  upperarm: { raise: 180, hangs: 10, back: 60, turnOut: 90, turnIn: 70 },
  lowerarm: { bend: 150 },
  hand: { bend: 80, back: 70, side: 25, turn: 80 },
  finger: { bend: 90, thumb: 60 },
  upperleg: { forward: 120, back: 30, spread: 45, cross: 30, turn: 45 },
  lowerleg: { bend: 135 },
  foot: { up: 20, down: 50 },
  toe: { up: 60 },
  collar: { raise: 30 },
  spine: { forward: 80, back: 25, side: 35, turn: 45 },
  neck: { forward: 45, back: 45, side: 45, turn: 60 },
  twist: 45,
  beastLeg: { swing: 40, spread: 15 },
} as const;

/** The joints that have motions of their own, as people call them. */
export const JOINT_WORDS = {
  collar: 'collar',
  upperarm: 'shoulder',
  lowerarm: 'elbow',
  hand: 'wrist',
  finger: 'finger',
  spine: 'spine',
  neck: 'neck',
  upperleg: 'hip',
  lowerleg: 'knee',
  foot: 'ankle',
  toe: 'toes',
} as const;

export type JointPart = keyof typeof JOINT_WORDS;

const TRUNK_MOTIONS = [
  'bend forward',
  'bend back',
  'lean to the left',
  'lean to the right',
  'turn to the left',
  'turn to the right',
];

/** What each of them does, by the names of its motions. */
export const MOTIONS_OF: Readonly<Record<JointPart, readonly string[]>> = {
  collar: ['raise'],
  upperarm: ['raise sideways', 'lower to the side', 'reach forward', 'reach back', 'turn out', 'turn in'],
  lowerarm: ['bend'],
  hand: [
    'bend to the palm',
    'bend back',
    'tilt one way',
    'tilt the other way',
    'turn palm up',
    'turn palm down',
  ],
  finger: ['bend'],
  spine: TRUNK_MOTIONS,
  neck: TRUNK_MOTIONS,
  upperleg: ['swing forward', 'swing back', 'spread', 'cross', 'turn out', 'turn in'],
  lowerleg: ['bend'],
  foot: ['up', 'down'],
  toe: ['up'],
};

/** Where nothing is known of a joint, degrees. */
const UNKNOWN = 120;

/**
 * How far one joint of a part turns as bodies do, radians: the norms, shared among the joints that they are measured
 * over. A twist has next to no motion of its own.
 */
const USUAL: Readonly<Record<string, number>> = {
  pelvis: 0.4,
  spine: 0.26,
  chest: 0.26,
  neck: 0.35,
  tail: 0.35,
  head: 0.6,
  collar: 0.35,
  upperarm: 1.1,
  lowerarm: 1.2,
  hand: 0.8,
  upperleg: 1,
  lowerleg: 1.1,
  foot: 0.6,
  toe: 0.5,
  twist: 0,
};

/** What other bones with a name turn, and those that nothing is known of, radians. */
const NAMED = 0.5;
const LOOSE = 0.3;

/** What a bone is: its part of the body, '' for none known, and its kind. */
export interface JointMeaning {
  readonly part: string;
  readonly kind: string;
}

const isOfBody = ({ part, kind }: JointMeaning): boolean => kind === 'bone' && part !== '';

/** The farthest that a joint is turned by hand, degrees. */
export const farthestTurn = (joint: JointMeaning): number =>
  FARTHEST[isOfBody(joint) ? joint.part : joint.kind] ?? UNKNOWN;

/** How far a joint turns as bodies do, radians. */
export const usualTurn = (joint: JointMeaning): number =>
  isOfBody(joint) ? (USUAL[joint.part] ?? NAMED) : (USUAL[joint.kind] ?? LOOSE);

/**
 * How far a joint is turned in a trial that puts it to work, radians: no farther than it turns in life where that is
 * known. A twist is turned like what is not known: it has no motion of its own, yet what hangs on it must follow.
 */
export function trialTurn(joint: JointMeaning, most: number): number {
  const known = isOfBody(joint) ? USUAL[joint.part] : undefined;
  return Math.min(most, known ?? most);
}
