/** A move onto another skeleton as it is tried on the page: its proof, its price, and both figures in motion. */
import { restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { sampleCharacter } from '@/core/character/sample';
import { arrivedFrom } from '@/core/house/arrival';
import { decompose, quatAbout, quatConjugate, quatMultiply } from '@/core/geometry/matrix';
import type { BoneMoved } from '@/core/motion/example';
import type { MotionFit } from '@/core/motion/fit';
import { clipWorld, posedWorld } from '@/core/motion/pose';
import { type TrialPose, posesFor } from '@/core/rooms/crosswalk/poses';
import { type Cause, causesOf } from '@/core/rooms/crosswalk/causes';
import { type DeviationFloor, priceOf } from '@/core/rooms/crosswalk/deviation-floor';
import { type Proof, motionOf, prove } from '@/core/rooms/crosswalk/proof';
import {
  type RemapOptions,
  type RemapReport,
  type Remapped,
  remap,
  remapping,
} from '@/core/rooms/crosswalk/remap';
import { turnedJoint } from '@/core/rooms/crosswalk/turned-joint';
import { type WorstPoint, worstPoints } from '@/core/rooms/crosswalk/worst';
import type { ArrivalNotice } from '@/core/rooms/docket/receive';
import type { Receiver } from '@/core/rooms/docket/receivers';
import { type Figure, type Pose, figureOf, poseIn } from './figure';

/** A move that was tried. */
export interface Moved {
  readonly report: RemapReport;
  /** Bones whose weights solving by example moved, by name, those that moved most first. */
  readonly moved: readonly { readonly name: string; readonly points: number; readonly most: number }[];
  /** Bones whose points stand otherwise at rest than the posed mesh, by name, farthest first; metres. */
  readonly reshaped: readonly { readonly name: string; readonly points: number; readonly most: number }[];
  readonly proof: Proof;
  readonly worst: readonly WorstPoint[];
  /** The joint that another rest pose turned, where most of the worst places stand; null where none is the reason. */
  readonly turned: { readonly above: string; readonly below: string; readonly degrees: number } | null;
  /** Null while only a share of the points was tried. */
  readonly figure: Figure | null;
  /** How many points were tried first, and of how many, where they are too many to be tried at once. */
  readonly share: { readonly points: number; readonly of: number } | null;
}

/** Both figures in one pose, and how far their points lie apart, metres, by mesh node of the right one. */
export interface BothPosed {
  readonly before: Pose;
  readonly after: Pose;
  readonly apart: readonly { readonly node: number; readonly distance: Float32Array }[];
  /** Largest of all, metres. */
  readonly most: number;
  /** Whether what was turned has nothing on the other side that goes with it. */
  readonly isAlone: boolean;
}

/** What is turned by hand: a node of the left figure or of the right one, about its own three axes, degrees. */
export interface HandTurn {
  readonly side: 'source' | 'target';
  readonly node: number;
  readonly degrees: readonly number[];
}

/** What a move was made by. */
interface Rules {
  readonly target: Skeleton;
  readonly crosswalk: Crosswalk;
  readonly options: RemapOptions;
}

/** What a receiver makes of the move. */
export interface ArrivedThere {
  readonly said: readonly ArrivalNotice[];
  readonly max: number;
  readonly rms: number;
  readonly p95: number;
}

/** Of more vertices than this a share is tried first. */
const LARGE = 150_000;

/** So many are tried first. */
const SHARE = 20_000;

/**
 * Lets other work of the thread have its turn. A message comes at once, where a timer would wait for some
 * milliseconds.
 */
function pause(): Promise<void> {
  const { port1, port2 } = new MessageChannel();
  return new Promise((resolve) => {
    port1.onmessage = () => {
      port1.close();
      resolve();
    };
    port2.postMessage(null);
  });
}

/** Work goes on for so long before others have their turn, milliseconds. */
const SLICE = 40;

/** Progress is told so often, milliseconds: every word of it is a picture that the page draws anew. */
const TELL = 200;

/** Runs work that yields its progress; null where something newer was begun meanwhile. */
async function runSlowly<T>(
  work: Generator<number, T>,
  isCurrent: () => boolean,
  onProgress: (share: number) => void,
): Promise<T | null> {
  let told = performance.now();
  for (;;) {
    const until = performance.now() + SLICE;
    let step = work.next();
    while (!step.done && performance.now() < until) step = work.next();
    if (step.done) return step.value;
    if (performance.now() - told > TELL) {
      told = performance.now();
      onProgress(step.value);
    }
    await pause();
    if (!isCurrent()) return null;
  }
}

/** What is shown first, at once. */
const PLAIN = { weights: 'rules', rest: 'posed' } as const;

const namedReach = (character: Character, bones: readonly BoneMoved[]): Moved['moved'] =>
  bones.map(({ node, points, most }) => ({ name: character.nodes[node].name, points, most }));

/** The move that was tried last on what lies on the desk. */
export class Moving {
  private asked = 0;
  private of: Character | null = null;
  private result: Remapped | null = null;
  private rules: Rules | null = null;
  private proof: Proof | null = null;
  private poses: readonly TrialPose[] = [];
  private fit: MotionFit | null = null;
  private motions: readonly Character[] = [];

  /** Nothing has been tried; what is under way ends. */
  drop(): void {
    this.asked++;
    this.result = null;
    this.fit = null;
  }

  /** Characters whose clips are examples as well, until others are. */
  borrow(motions: readonly Character[]): void {
    this.motions = motions;
  }

  /**
   * The move by the rules on a share of the points, for a first answer; null where all of them can be tried at once.
   * What was tried last stays.
   */
  tryOnShare(
    original: Character,
    target: Skeleton,
    crosswalk: Crosswalk,
    options: RemapOptions,
  ): Moved | null {
    const of = original.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);
    if (of <= LARGE) return null;
    const { character } = sampleCharacter(original, { inAll: SHARE });
    const { report, ...result } = remap(character, target, crosswalk, { ...options, ...PLAIN });
    const proof = prove({ ...result, report }, posesFor(result.reference, crosswalk));
    return {
      report,
      moved: [],
      proof,
      worst: [],
      turned: null,
      reshaped: [],
      figure: null,
      share: { points: proof.compared, of },
    };
  }

  /** The move by the rules alone, a mesh that is brought to another rest pose as its weights pose it. */
  try(character: Character, target: Skeleton, crosswalk: Crosswalk, options: RemapOptions): Moved {
    this.asked++;
    return this.take(character, remap(character, target, crosswalk, { ...options, ...PLAIN }), {
      target,
      crosswalk,
      options,
    });
  }

  /** The same with weights and rest shape as they are asked for; null where something newer was begun meanwhile. */
  async solve(
    character: Character,
    target: Skeleton,
    crosswalk: Crosswalk,
    options: RemapOptions,
    onProgress: (share: number) => void,
  ): Promise<Moved | null> {
    const mine = ++this.asked;
    const work = remapping(character, target, crosswalk, {
      ...options,
      motions: this.motions,
    });
    const result = await runSlowly(work, () => mine === this.asked, onProgress);
    return result && mine === this.asked
      ? this.take(character, result, { target, crosswalk, options })
      : null;
  }

  /** What the skeleton itself costs in the move that was tried last; null where something newer was begun. */
  async deviationFloor(onProgress: (share: number) => void): Promise<DeviationFloor | null> {
    const mine = ++this.asked;
    const { result, proof, poses } = this;
    if (!result || !proof || proof.compared === 0) return null;
    return runSlowly(priceOf(result, poses, proof), () => mine === this.asked, onProgress);
  }

  /**
   * Pairs that are likely to be wrong in the move that was tried last, where points lie farther off than allowed
   * (metres); null where something newer was begun.
   */
  async causes(allowed: number, onProgress: (share: number) => void): Promise<Cause[] | null> {
    const mine = ++this.asked;
    const { of, rules, proof, poses } = this;
    if (!of || !rules || !proof) return null;
    const work = causesOf(of, rules.target, rules.crosswalk, rules.options, { poses, proof, allowed });
    return runSlowly(work, () => mine === this.asked, onProgress);
  }

  /** What is under way ends; what was tried stays. */
  stop(): void {
    this.asked++;
  }

  private take(original: Character, result: Remapped, rules: Rules): Moved {
    this.of = original;
    this.result = result;
    this.rules = rules;
    this.poses = posesFor(result.reference, rules.crosswalk);
    this.proof = prove(result, this.poses);
    this.fit = motionOf(result);
    const { character, report } = result;
    const turned = turnedJoint(result, this.proof);
    return {
      report,
      moved: namedReach(character, report.example?.bones ?? []),
      proof: this.proof,
      worst: worstPoints(character, this.proof),
      turned: turned && {
        above: character.nodes[turned.above].name,
        below: character.nodes[turned.below].name,
        degrees: turned.degrees,
      },
      reshaped: namedReach(character, report.rest?.bones ?? []),
      figure: figureOf(character),
      share: null,
    };
  }

  /** What a receiver makes of the move that was tried last. */
  arrive(receiver: Receiver): ArrivedThere | null {
    if (!this.result) return null;
    const { said, compared } = arrivedFrom(this.result, receiver);
    const { max, rms, p95 } = prove(compared, this.poses);
    return { said, max, rms, p95 };
  }

  /** A pose of the proof. */
  inPose(character: Character, index: number): BothPosed | null {
    const pose = this.of === character ? this.poses[index] : undefined;
    return pose ? this.both(pose.world) : null;
  }

  /** A moment of a clip of the character. */
  inClip(character: Character, clip: number, seconds: number): BothPosed | null {
    if (this.of !== character || !this.result || !character.clips[clip]) return null;
    return this.both(clipWorld(this.result.reference, this.result.reference.clips[clip], seconds));
  }

  /** A bone of either figure turned; the other one goes with it where it has a counterpart. */
  turned(original: Character, { side, node, degrees }: HandTurn): BothPosed | null {
    const { result } = this;
    if (this.of !== original || !result) return null;
    const { character, sourceNodeOf, reference, motionSource } = result;
    if (side === 'source') {
      const both = this.both(posedWorld(reference, new Map([[node, ownTurn(motionSource, node, degrees)]])));
      return both && { ...both, isAlone: !sourceNodeOf.includes(node) };
    }
    const turn = ownTurn(character, node, degrees);
    const theirs = sourceNodeOf[node];
    const before =
      theirs >= 0 ? posedWorld(reference, new Map([[theirs, turn]])) : restWorld(reference.nodes);
    // What the hand turns is what is shown: the right figure by its own bones, the left one along with it.
    const both = this.shown(before, posedWorld(character, new Map([[node, turn]])));
    return both && { ...both, isAlone: theirs < 0 };
  }

  private both(world: Float64Array): BothPosed | null {
    return this.fit && this.shown(world, this.fit.pose(world));
  }

  private shown(world: Float64Array, moved: Float64Array): BothPosed | null {
    if (!this.result) return null;
    const { reference, character, sourceNodeOf } = this.result;
    const before = poseIn(reference, world);
    const after = poseIn(character, moved);
    let most = 0;
    const apart = after.meshes.flatMap(({ node, points }) => {
      const mine = before.meshes.find((mesh) => mesh.node === sourceNodeOf[node])?.points;
      if (mine?.length !== points.length) return [];
      const distance = Float32Array.from({ length: points.length / 3 }, (_, vertex) =>
        Math.hypot(
          points[vertex * 3] - mine[vertex * 3],
          points[vertex * 3 + 1] - mine[vertex * 3 + 1],
          points[vertex * 3 + 2] - mine[vertex * 3 + 2],
        ),
      );
      most = distance.reduce((a, b) => Math.max(a, b), most);
      return [{ node, distance }];
    });
    return { before, after, apart, most, isAlone: false };
  }
}

const AXES = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

/** A turn about a node's own axes, one after the other, as a turn in the world. */
function ownTurn(character: Character, node: number, degrees: readonly number[]): number[] {
  const { rotation } = decompose(restWorld(character.nodes), node * 16);
  const own = AXES.map((axis, k) => quatAbout(axis, ((degrees[k] ?? 0) * Math.PI) / 180)).reduce(
    (rotation, next) => quatMultiply(rotation, next),
  );
  return quatMultiply(quatMultiply(rotation, own), quatConjugate(rotation));
}
