import { create } from 'zustand';
import type { JointAxes } from '@/core/rooms/skeleton/joint-axes';

/** Where a dragged joint may go: in the plane of the picture, along one of its axes, or square to one. */
export const DRAG_WAYS = {
  picture: { words: 'picture', kind: null, axis: 0 },
  x: { words: 'along x', kind: 'line', axis: 0 },
  y: { words: 'along y', kind: 'line', axis: 1 },
  z: { words: 'along z', kind: 'line', axis: 2 },
  yz: { words: 'plane yz', kind: 'plane', axis: 0 },
  xz: { words: 'plane xz', kind: 'plane', axis: 1 },
  xy: { words: 'plane xy', kind: 'plane', axis: 2 },
} as const;

export type DragWayId = keyof typeof DRAG_WAYS;

/** The settings of the tool that moves joints: its own. */
export interface JointSettings {
  /** What hangs below a moved joint comes along. */
  readonly withChildren: boolean;
  /** A joint that is let go goes to the middle of its limb. */
  readonly snapsToLimb: boolean;
  /** Whose axes dragging and steps go by. */
  readonly axes: JointAxes;
  readonly way: DragWayId;
  /** How far one step goes, metres. */
  readonly step: number;
}

export const useJointSettings = create<JointSettings>(() => ({
  withChildren: true,
  snapsToLimb: false,
  axes: 'world',
  way: 'picture',
  step: 0.01,
}));
