import { create } from 'zustand';

/** The settings of the brush: its own, whatever else the desk holds. */
export interface BrushSettings {
  /** Share of the figure's height. */
  readonly size: number;
  /** How much of the way to the weight a dab goes, 0 … 1. */
  readonly strength: number;
  /** The weight that is painted, 0 … 1. */
  readonly target: number;
  /** Share of the radius in which all of it is felt, 0 … 1. */
  readonly hardness: number;
}

export const useBrush = create<BrushSettings>(() => ({
  size: 0.04,
  strength: 0.4,
  target: 1,
  hardness: 0.2,
}));
