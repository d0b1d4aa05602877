/** What trials have found at the joints, as findings: for every joint the motion in which it shows most. */
import { localsOfWorld } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { type JointMotion, turnsOfMotion } from '../../anatomy/joint-motions';
import type { Found } from '../../contracts/check';
import {
  type Elements,
  type Evidence,
  type FindingPose,
  type RemedyCall,
  theNode,
} from '../../contracts/finding';
import { turnsOfLocals } from '../../motion/hand-pose';
import { posedWorld } from '../../motion/pose';
import { jointRadius } from './joint-radius';
import { type MotionWishes, triedMotions } from './motions';
import { type JointTrial, type TrialSample, sweepOf, toldAt } from './sweep';

const swept = new WeakMap<readonly JointMotion[], readonly JointTrial[]>();

/** All trials of a character that a brief asks for; made once. */
export function trialsOf(character: Character, wishes: MotionWishes): readonly JointTrial[] {
  const motions = triedMotions(character, wishes);
  let trials = swept.get(motions);
  if (!trials) swept.set(motions, (trials = sweepOf(character, motions)));
  return trials;
}

/** Keeps trials of motions that were made elsewhere, piece by piece. */
export const keepTrials = (motions: readonly JointMotion[], trials: readonly JointTrial[]): void => {
  swept.set(motions, trials);
};

/** How the figure stands in a motion at so many degrees. */
export function poseOf(character: Character, motion: JointMotion, degrees: number): FindingPose {
  const world = posedWorld(character, turnsOfMotion(motion, degrees));
  const turns = turnsOfLocals(character, localsOfWorld(character.nodes, world));
  return { turns: [...turns].map(([node, turn]) => [node, [...turn]]), words: inWords(motion, degrees) };
}

/** A motion with where it stands: “bend, 118°”; a pose of several joints with how much of it is struck. */
export function inWords({ motion, at, degrees: end }: JointMotion, degrees: number): string {
  if (!at) return `${motion}, ${Math.round(degrees)}°`;
  const share = Math.round((degrees / end) * 100);
  return share >= 100 ? motion : `${motion}, ${share} % of the way`;
}

/** One joint with a figure beyond its limit. */
export interface Beyond {
  readonly trial: JointTrial;
  readonly sample: TrialSample;
  readonly value: number;
}

/** What is looked for: a figure of a sample, and how far beyond its limit it is; none where it cannot be told. */
interface Wanted {
  readonly valueOf: (sample: TrialSample) => number | null;
  readonly isWorse: (value: number, than: number) => boolean;
  readonly limit: number;
}

/** For every joint the trials beyond a limit, the worst first; joints in their order. */
export function beyondLimit(trials: readonly JointTrial[], { valueOf, isWorse, limit }: Wanted): Beyond[][] {
  const byBone = new Map<number, Beyond[]>();
  for (const trial of trials) {
    let worst: Beyond | null = null;
    for (const sample of trial.samples) {
      const value = valueOf(sample);
      if (value === null || !isWorse(value, worst?.value ?? limit)) continue;
      worst = { trial, sample, value };
    }
    if (!worst) continue;
    const bone = trial.motion.bone;
    byBone.set(bone, [...(byBone.get(bone) ?? []), worst]);
  }
  return [...byBone.values()].map((list) =>
    [...list].sort((a, b) => Number(isWorse(b.value, a.value)) - Number(isWorse(a.value, b.value))),
  );
}

/** Motions that are told one by one, at most. */
const TOLD = 6;

/** A finding about the joint of some trials. */
export function jointFinding(
  character: Character,
  all: readonly Beyond[],
  found: Omit<Found, 'subject' | 'evidence' | 'pose' | 'elements' | 'measured' | 'expected'> & {
    readonly elements: readonly Elements[];
    /** The figure as it is told. */
    readonly tell: (value: number) => number | string;
    readonly limit: number;
    readonly unit: string;
  },
): Found {
  const { tell, limit, elements, ...rest } = found;
  const [{ trial, sample, value }] = all;
  const { bone } = trial.motion;
  return {
    count: 1,
    ...rest,
    subject: theNode(character, bone),
    measured: tell(value),
    expected: tell(limit),
    elements: [{ kind: 'bone', node: bone, ids: Uint32Array.of(bone) }, ...elements],
    evidence: all.slice(0, TOLD).map((one): Evidence => ({
      label: inWords(one.trial.motion, one.sample.degrees),
      now: tell(one.value),
      brief: tell(limit),
      unit: found.unit,
    })),
    pose: poseOf(character, trial.motion, sample.degrees),
  };
}

/**
 * Bands are offered this wide, in diameters of the limb: on the demo's elbows and knees narrower ones keep hardly more volume and
 * stretch more, one of three diameters keeps a third of it.
 */
const BAND = 1;

/** What can be done where a limb folds or is drawn out: more bones, or another band. */
export function waysToSoften(character: Character, motion: JointMotion): RemedyCall[] {
  const { bone } = motion;
  const radius = jointRadius(character, bone);
  if (toldAt(motion).length > 1 || radius === null || character.nodes[bone].parent < 0) return [];
  return [
    { id: 'set-band', params: { bone, width: round(BAND * 2 * radius) } },
    { id: 'add-helper', params: { bone } },
  ];
}

const round = (metres: number): number => Math.round(metres * 1000) / 1000;
