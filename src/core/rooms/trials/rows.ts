/** Trials as a table: a row for every motion of every joint, with the figures where it is worst. */
import type { Character } from '../../character/model';
import { type JointMotion, jointMotionsOf, turnsOfMotion } from '../../anatomy/joint-motions';
import type { SkinningMethod } from '../../geometry/skinning';
import { posedWorld } from '../../motion/pose';
import { type PoseFigures, poseFigures, volumeInPose, worseOf } from './figures';
import { inWords, trialsOf } from './findings';
import { type MotionWishes, isLookedAtForClashes } from './motions';
import { bendsFlesh, jointSurface, toldAt } from './sweep';
import { clashOf } from './through';
import { type TwistSpread, twistSpreadOf } from './twist-spread';

/** One motion of one joint in figures. */
export interface MotionFigures {
  readonly bone: string;
  readonly node: number;
  readonly motion: string;
  /** Where it begins and ends, degrees. */
  readonly from: number;
  readonly to: number;
  /** Where the figures are worst, degrees. */
  readonly degrees: number;
  /** The motion with where it is worst: “bend, 118°”; a pose of several joints by its name. */
  readonly words: string;
  /** Share of the volume at rest; null where none can be told. */
  readonly volume: number | null;
  readonly stretch: number;
  readonly thinning: number;
  readonly inverted: number;
  readonly torn: number;
  /** How deep it goes into something else at its end, metres; 0 for motions that are not looked at for that. */
  readonly through: number;
  /** The same against the thickness of what moves. */
  readonly throughShare: number;
  /** Of a hand’s turn, how far it is off an even spread along the arm where it is farthest, degrees; null of other motions. */
  readonly twist: number | null;
}

/** A share of volume from which on nothing is lost: a motion is then worst at its end. */
const ALL_KEPT = 0.995;

/** Rows of all motions, joints in their order. Volume, stretch and the others are the worst of a motion, each by itself. */
export function trialRows(character: Character, wishes: MotionWishes): MotionFigures[] {
  return trialsOf(character, wishes).map(({ motion, samples }): MotionFigures => {
    const { bone } = motion;
    const worst = samples.map((sample): PoseFigures => sample).reduce(worseOf);
    const end = samples[samples.length - 1].degrees;
    const clash = isLookedAtForClashes(motion) ? clashOf(character, motion, end) : null;
    const isLost = worst.volume !== null && worst.volume < ALL_KEPT;
    const lowest =
      (isLost && samples.find(({ volume }) => volume === worst.volume)) || samples[samples.length - 1];
    return {
      bone: character.nodes[bone].name,
      node: bone,
      motion: motion.motion,
      from: motion.from,
      to: end,
      degrees: lowest.degrees,
      words: inWords(motion, lowest.degrees),
      volume: worst.volume,
      stretch: worst.stretch,
      thinning: worst.thinning,
      inverted: worst.inverted,
      torn: worst.torn,
      through: clash?.depth ?? 0,
      throughShare: clash?.share ?? 0,
      twist: twistSpreadOf(character, motion)?.off ?? null,
    };
  });
}

/** One motion of a joint step by step, as it is drawn over its angle. */
export interface TrialCurve {
  readonly degrees: readonly number[];
  /** Shares of the volume at rest, skinned linearly and by dual quaternions; null where none can be told. */
  readonly linear: readonly (number | null)[];
  readonly dual: readonly (number | null)[];
  readonly stretch: readonly number[];
  /** Of a hand’s turn how it is spread along the arm; null of other motions. */
  readonly twist: TwistSpread | null;
}

/** So many steps make a smooth curve. */
const FINE = 16;

/** The curve of a motion, from rest to its end. */
export function trialCurve(character: Character, motion: JointMotion): TrialCurve {
  const degrees = Array.from(
    { length: FINE + 1 },
    (_, step) => motion.from + ((motion.degrees - motion.from) * step) / FINE,
  );
  const worlds = degrees.map((at) => posedWorld(character, turnsOfMotion(motion, at)));
  const surfaces = toldAt(motion).map((bone) => jointSurface(character, bone));
  const figures = worlds.map((world) =>
    surfaces.map((surface) => poseFigures(surface, world, motion.skinning)).reduce(worseOf),
  );
  const volumesBy = (method: SkinningMethod) =>
    // What the engine itself does is among the figures already.
    method === (motion.skinning ?? 'linear')
      ? figures.map(({ volume }) => volume)
      : worlds.map((world) => {
          const kept = surfaces.flatMap((surface) => volumeInPose(surface, world, method) ?? []);
          return kept.length > 0 ? Math.min(...kept) : null;
        });
  return {
    degrees,
    linear: volumesBy('linear'),
    dual: volumesBy('dual-quaternion'),
    stretch: figures.map(({ stretch }) => stretch),
    twist: twistSpreadOf(character, motion),
  };
}

/** A moment of some motion. */
export interface MotionMoment {
  readonly label: string;
  /** World matrices, 16 per node. */
  readonly world: Float64Array;
}

/** What a joint does over moments: each figure at its worst, and the moment when it loses most. */
export interface JointOverMoments extends PoseFigures {
  readonly node: number;
  readonly bone: string;
  readonly label: string;
}

/** The figures of every joint that bends flesh over moments of a motion. */
export function jointsOverMoments(
  character: Character,
  moments: readonly MotionMoment[],
  method: SkinningMethod = 'linear',
): JointOverMoments[] {
  const bones = new Set(
    jointMotionsOf(character)
      .filter((motion) => bendsFlesh(character, motion))
      .flatMap(({ joints }) => joints.map(({ bone }) => bone)),
  );
  return [...bones].flatMap((bone): JointOverMoments[] => {
    const all = moments.map(({ label, world }) => ({
      label,
      figures: poseFigures(jointSurface(character, bone), world, method),
    }));
    if (all.length === 0) return [];
    const lossOf = ({ volume, stretch }: PoseFigures) => (volume === null ? stretch - 1 : 1 - volume);
    const worst = all.reduce((one, other) => (lossOf(other.figures) > lossOf(one.figures) ? other : one));
    const figures = all.map((one) => one.figures).reduce(worseOf);
    return [{ node: bone, bone: character.nodes[bone].name, label: worst.label, ...figures }];
  });
}

/** How one row differs from that of the same bone and motion in another character. */
export interface RowChange {
  readonly before: MotionFigures;
  readonly after: MotionFigures;
  /** Share of volume that is kept more, or less where it is below zero; null where one of them has none. */
  readonly volume: number | null;
  readonly stretch: number;
}

/**
 * Rows that both have, those that got worse most first.
 * @param nodeBefore the node of the earlier character that a node of the later stands for; −1 for none
 */
export function rowChanges(
  before: readonly MotionFigures[],
  after: readonly MotionFigures[],
  nodeBefore: (node: number) => number,
): RowChange[] {
  const known = new Map(before.map((row) => [`${row.motion} ${row.node}`, row]));
  return after
    .flatMap((row): RowChange[] => {
      const earlier = known.get(`${row.motion} ${nodeBefore(row.node)}`);
      if (!earlier) return [];
      const volume = row.volume === null || earlier.volume === null ? null : row.volume - earlier.volume;
      return [{ before: earlier, after: row, volume, stretch: row.stretch - earlier.stretch }];
    })
    .sort((a, b) => worseBy(b) - worseBy(a));
}

/** A share of volume, and a stretch, that nobody sees. */
const UNSEEN_VOLUME = 0.005;
const UNSEEN_STRETCH = 0.02;

/** What of some changes can be seen. */
export const seenChanges = (changes: readonly RowChange[]): RowChange[] =>
  changes.filter(
    ({ volume, stretch }) => Math.abs(volume ?? 0) > UNSEEN_VOLUME || Math.abs(stretch) > UNSEEN_STRETCH,
  );

/** Whether a change is for the worse. */
export const isWorse = (change: RowChange): boolean => worseBy(change) > UNSEEN_VOLUME;

/** How much worse a row got all in all: volume lost, and a tenth of what is stretched further. */
const worseBy = ({ volume, stretch }: RowChange): number => stretch / 10 - (volume ?? 0);

/** Whether volume is lost that was kept before, as far as it can be seen. */
export const losesVolume = ({ volume }: RowChange): boolean => (volume ?? 0) < -UNSEEN_VOLUME;

/** Whether it is stretched further than before, as far as it can be seen. */
export const stretchesFurther = ({ stretch }: RowChange): boolean => stretch > UNSEEN_STRETCH;
