/**
 * A move and what it costs, as everybody makes it who moves weights: the command line in its own process, a worker for a
 * job. The weights are moved, the same motions are compared on both rigs, and what the skeleton costs on any weights is
 * told apart from what the move adds.
 */
import type { Crosswalk } from '../../anatomy/crosswalk';
import type { Skeleton } from '../../anatomy/skeleton';
import type { Character } from '../../character/model';
import type { TrialPose } from './poses';
import { posesFor } from './poses';
import { type DeviationFloor, priceOf } from './deviation-floor';
import { type Proof, prove } from './proof';
import { type RemapOptions, type Remapped, remapping } from './remap';

export interface ProvenMove {
  readonly moved: Remapped;
  readonly poses: readonly TrialPose[];
  readonly proof: Proof;
  readonly price: DeviationFloor;
}

/** How far a move is: its stage in words, and how much of all is done, 0 … 1. */
export interface MoveProgress {
  readonly stage: string;
  readonly share: number;
}

/** What each stage has of the whole, as it is on bodies of 100 000 vertices. */
const MOVED = 0.6;
const PROVEN = 0.75;

/** Moves and proves, bit by bit; whoever drives it may stop at any word. Throws where the skeletons cannot be met. */
export function* provenMove(
  character: Character,
  target: Skeleton,
  crosswalk: Crosswalk,
  options: RemapOptions,
): Generator<MoveProgress, ProvenMove> {
  const stage = options.weights === 'example' ? 'solving the weights' : 'moving the weights';
  const moved = yield* within(remapping(character, target, crosswalk, options), stage, 0, MOVED);
  yield { stage: 'proving it in motion', share: MOVED };
  const poses = posesFor(moved.reference, crosswalk);
  const proof = prove(moved, poses);
  const price = yield* within(priceOf(moved, poses, proof), 'what the skeleton costs', PROVEN, 1);
  return { moved, poses, proof, price };
}

/** Work that yields how much of it is done, as one stage of a whole. */
function* within<T>(
  work: Generator<number, T>,
  stage: string,
  from: number,
  to: number,
): Generator<MoveProgress, T> {
  for (;;) {
    const { value, done } = work.next();
    if (done) return value;
    yield { stage, share: from + (to - from) * Math.min(1, value) };
  }
}
