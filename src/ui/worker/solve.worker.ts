/**
 * The page's second worker: what computes for seconds. It solves, proves, looks for causes, binds and tries figures in motion on a thread of its own, so
 * that what follows the hand never waits for it.
 */
import { expose } from 'comlink';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import type { Character } from '@/core/character/model';
import type { JointMotion } from '@/core/anatomy/joint-motions';
import type { Finding, FindingPose, RemedyCall } from '@/core/contracts/finding';
import type { HandedMotion } from '@/core/contracts/handed-motion';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import { audit, checksInMotion } from '@/core/house/audit';
import { type Params, RemedyError } from '@/core/contracts/remedy';
import type { Brief } from '@/core/house/brief';
import { stretchOfVertices } from '@/core/rooms/trials/concerned';
import { poseOf } from '@/core/rooms/trials/findings';
import { triedMotions } from '@/core/rooms/trials/motions';
import { tryInPieces } from '@/core/rooms/trials/in-pieces';
import { type TrialCurve, type MotionFigures, trialCurve, trialRows } from '@/core/rooms/trials/rows';
import { type BindingFigures, bindingFigures } from '@/core/rooms/weights/figures';
import { type CopyAsked, type CopyCounts, pictureOfCopy } from '@/core/rooms/weights/remedies/copy-weights';
import type { Cause } from '@/core/rooms/crosswalk/causes';
import type { DeviationFloor } from '@/core/rooms/crosswalk/deviation-floor';
import type { RemapOptions } from '@/core/rooms/crosswalk/remap';
import type { Receiver } from '@/core/rooms/docket/receivers';
import { type ArrivedThere, type BothPosed, type HandTurn, type Moved, Moving } from './moving';
import type { Comparison } from './compare';
import { type ChangesInMotion, PairInMotion } from './pair-in-motion';
import { type ManyPreview, type PreviewAnswer, handedOver, previewOf, previewOfMany } from './preview';

let taken: Character | null = null;

/** Which of the trials that were asked for counts: the newest. */
let trying = 0;

const moving = new Moving();

let pair: PairInMotion | null = null;

function need(): Character {
  if (!taken) throw new Error('No character is open.');
  return taken;
}

/** A motion of a joint by its name, as far as a brief has it go; none where the joint has none of that name. */
const motionOf = (node: number, motion: string, { trials }: Brief): JointMotion | undefined =>
  triedMotions(need(), trials ?? USUAL_LIMITS).find((one) => one.bone === node && one.motion === motion);

const solver = {
  /** Takes the character that everything after it is about. */
  take(character: Character): void {
    moving.drop();
    taken = character;
  },

  /** The same on a share of the points, for a first answer; null where all can be tried at once. */
  trialOnShare: (target: Skeleton, crosswalk: Crosswalk, options: RemapOptions): Moved | null =>
    moving.tryOnShare(need(), target, crosswalk, options),

  /** The move carried out here by the rules, for its numbers, its picture and its proof; nothing is saved. */
  trial: (target: Skeleton, crosswalk: Crosswalk, options: RemapOptions): Moved =>
    moving.try(need(), target, crosswalk, options),

  /** The same with weights by example; null where something newer was begun meanwhile. */
  solve: (
    target: Skeleton,
    crosswalk: Crosswalk,
    options: RemapOptions,
    onProgress: (share: number) => void,
  ): Promise<Moved | null> => moving.solve(need(), target, crosswalk, options, onProgress),

  /** What the skeleton itself costs in the move that was tried last. */
  deviationFloor: (onProgress: (share: number) => void): Promise<DeviationFloor | null> =>
    moving.deviationFloor(onProgress),

  /** Pairs that are likely to be wrong in it, where points lie farther off than allowed, metres. */
  causes: (allowed: number, onProgress: (share: number) => void): Promise<Cause[] | null> =>
    moving.causes(allowed, onProgress),

  stopSolving: (): void => moving.stop(),

  /** A character whose clips are examples for the weights as well; null for none. Says whether it has any. */
  borrow(motion: Character | null): boolean {
    moving.borrow(motion ? [motion] : []);
    return !motion || motion.clips.length > 0;
  },

  /** What a receiver makes of the move that was tried last. */
  arrive: (receiver: Receiver): ArrivedThere | null => moving.arrive(receiver),

  /** A pose of the proof on both figures of the last trial; null where there was none of what lies on the desk. */
  trialPose: (index: number): BothPosed | null => moving.inPose(need(), index),

  /** A moment of a clip on both. */
  trialClip: (clip: number, seconds: number): BothPosed | null => moving.inClip(need(), clip, seconds),

  /** A bone of either turned by hand, on both. */
  trialTurn: (turn: HandTurn): BothPosed | null => moving.turned(need(), turn),

  /** The previews of remedies that compute for seconds, see {@link previewOf}. */
  preview: (remedy: string, params: Params, brief: Brief): PreviewAnswer =>
    handedOver(previewOf(need(), remedy, params, brief)),
  previewForMany: (
    calls: readonly RemedyCall[],
    of: Pick<Finding, 'check' | 'gravity'> | null,
    brief: Brief,
  ): ManyPreview => previewOfMany(need(), calls, of, brief),

  /** All joints in motion under a brief, held against how it was handed over; null where it was stopped. */
  async tryInMotion(
    brief: Brief,
    handedOver: HandedMotion | null,
    onProgress: (share: number) => void,
  ): Promise<Tried | null> {
    const character = need();
    const limits = brief.trials ?? USUAL_LIMITS;
    const mine = ++trying;
    const isStopped = () => mine !== trying || taken !== character;
    if (!(await tryInPieces(character, limits, { told: onProgress, isStopped }))) return null;
    return {
      rows: trialRows(character, limits),
      findings: audit(character, brief, { checks: checksInMotion(brief), handedOver }),
    };
  },

  stopTrying(): void {
    trying++;
  },

  /** Takes two revisions that are held against each other in motion. */
  takePair(first: Character, second: Character): void {
    pair = new PairInMotion(first, second);
  },

  /** What bends otherwise in the second of them; null where it was stopped. */
  async changesInMotion(brief: Brief, onProgress: (share: number) => void): Promise<ChangesInMotion | null> {
    const mine = ++trying;
    const both = pair;
    return (
      both?.changes(brief, { told: onProgress, isStopped: () => mine !== trying || pair !== both }) ?? null
    );
  },

  /** Both in one and the same motion, laid beside each other; null where one of them does not have it. */
  pairInMotion: (node: number, motion: string, degrees: number, brief: Brief): Comparison | null =>
    pair?.inMotion(node, motion, degrees, brief) ?? null,

  /** Lets go of them. */
  dropPair(): void {
    trying++;
    pair = null;
  },

  /** The figures of one motion over its angle; null where the joint has none of that name. */
  trialCurve(node: number, motion: string, brief: Brief): TrialCurve | null {
    const found = motionOf(node, motion, brief);
    return found ? trialCurve(need(), found) : null;
  },

  /** How the figure stands in a motion at so many degrees; null where the joint has none of that name. */
  trialStance(node: number, motion: string, degrees: number, brief: Brief): FindingPose | null {
    const found = motionOf(node, motion, brief);
    return found ? poseOf(need(), found, degrees) : null;
  },

  /** How far the surface round every vertex is stretched in a motion, 1 and more, by mesh node. */
  stretchPicture(
    node: number,
    motion: string,
    degrees: number,
    brief: Brief,
  ): Map<number, Float32Array> | null {
    const found = motionOf(node, motion, brief);
    return found ? stretchOfVertices(need(), found, degrees) : null;
  },

  /** The look before a bind. */
  bindingLook: (nodes: readonly number[], brief: Brief, bones: readonly number[] | null): BindingFigures =>
    bindingFigures(need(), nodes, brief, bones),

  /** How every vertex of a mesh gets its weights in a copy: 0 found, 0.5 filled in, 1 guessed; or a sentence where it cannot be done. */
  copyPicture(params: CopyAsked): { values: Map<number, Float32Array>; counts: CopyCounts } | string {
    try {
      return pictureOfCopy(need(), params);
    } catch (error) {
      if (error instanceof RemedyError) return error.message;
      throw error;
    }
  },
};

/** What trials have found, and their figures as a table. */
export interface Tried {
  readonly rows: readonly MotionFigures[];
  readonly findings: readonly Finding[];
}

export type SolveWorker = typeof solver;
expose(solver);
