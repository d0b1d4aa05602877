import { create } from 'zustand';
import type { BrushReach, BrushWork } from '@/core/rooms/weights/painting';
import type { BrushEdge } from '@/core/geometry/weight-brush';

/** The settings of the brush: its own, whatever else the desk holds. */
export interface BrushSettings {
  readonly does: BrushWork;
  /** Share of the figure's height. */
  readonly size: number;
  /** How much of the way to the weight a dab goes, 0 … 1. */
  readonly strength: number;
  /** The weight that is painted, 0 … 1. */
  readonly target: number;
  /** Share of the radius in which all of it is felt, 0 … 1. */
  readonly hardness: number;
  readonly edge: BrushEdge;
  readonly reach: BrushReach;
  /** Twins on the other side get the same. */
  readonly isBothSides: boolean;
}

export const useBrush = create<BrushSettings>(() => ({
  does: 'set',
  size: 0.04,
  strength: 0.4,
  target: 1,
  hardness: 0.2,
  edge: 'smooth',
  reach: 'seen',
  isBothSides: false,
}));
