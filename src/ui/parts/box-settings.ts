import { create } from 'zustand';
import { characterHeight } from '@/core/character/measure';
import type { GatherOf, GatherSettings } from '../stage/tools/gather';
import { desk } from '../state/store';

/** What the choosing tool gathers, and how: settings of that tool alone. */
export interface BoxSettings extends Omit<GatherSettings, 'radius'> {
  readonly of: GatherOf;
  /** Of the brush, as a share of the figure’s height. */
  readonly size: number;
}

export const useBox = create<BoxSettings>(() => ({ of: 'bones', by: 'box', isSeenOnly: false, size: 0.02 }));

/** The settings as the tool takes them. */
export function gatherSettings(): GatherSettings {
  const { by, isSeenOnly, size } = useBox.getState();
  return { by, isSeenOnly, radius: gatherRadius(size) };
}

/** The radius of the brush on the figure that lies on the desk, metres. */
export function gatherRadius(size: number): number {
  const { character } = desk();
  return character ? size * characterHeight(character) : 0;
}
