import { EMPTY_LINE, type UndoLine } from '@/core/contracts/undo-line';
import type { TurnAxes } from '@/core/motion/hand-pose';

/** A bone that is turned. */
export interface BoneTurn {
  /** Rotation in the frame that the bone has at rest, a unit quaternion. */
  readonly turn: readonly number[];
  /** Degrees about x, then y, then z that make it, and about which axes they are told. */
  readonly degrees: readonly number[];
  readonly axes: TurnAxes;
}

/** A moment of a clip, seconds: of its own, or of one that another character lends. */
export interface PosedMoment {
  readonly clip: number;
  readonly time: number;
  readonly from?: { readonly revision: string; readonly name: string };
}

/** How the figure on the desk stands. */
export interface StandingPose {
  /** Bones that are turned, by node. */
  readonly turns: ReadonlyMap<number, BoneTurn>;
  /** A moment of a clip, seconds, on which the turns come; null for rest. */
  readonly moment: PosedMoment | null;
}

export const AT_REST: StandingPose = { turns: new Map(), moment: null };

/** The other side stays, turns as the mirror image, or by the very same turn about its own axes: the test of a pair. */
export type TwinFollows = 'stays' | 'mirrored' | 'same';

/** How the figure stands belongs to the desk: it stays when another room is entered and another bone chosen. */
export interface PoseSlice {
  pose: StandingPose;
  /** Poses before this one, since the last step, and those that were taken back. */
  poseLine: UndoLine<StandingPose>;
  turnAxes: TurnAxes;
  /** What the bone on the other side does when one is turned. */
  twinFollows: TwinFollows;
  /** For every node the bone on the other side, −1 for none; null until the worker has told. */
  twins: readonly number[] | null;
}

export const standing = (): PoseSlice => ({
  pose: AT_REST,
  poseLine: EMPTY_LINE,
  turnAxes: 'own',
  twinFollows: 'stays',
  twins: null,
});

export const isAtRest = ({ turns, moment }: StandingPose): boolean => turns.size === 0 && moment === null;
