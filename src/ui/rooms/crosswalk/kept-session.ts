import type { CrosswalkFile } from '@/core/rooms/crosswalk/file';
import { keeperIn } from '../../state/kept';

/** Pairings that were set by hand and not saved, by the fingerprints of their two skeletons. */
export const keptCrosswalks = keeperIn<CrosswalkFile>('young-bough-crosswalks');

const slot = (character: string, brief: string) => `crosswalk ${character} ${brief}`;

/** Remembers which skeleton a character was to be moved onto for a brief. */
export function keepTarget(character: string, brief: string, key: string): void {
  try {
    localStorage.setItem(slot(character, brief), key);
  } catch {
    /* it is only asked for again */
  }
}

/** The key of the skeleton that was chosen last; null where none was. */
export function keptTarget(character: string, brief: string): string | null {
  try {
    return localStorage.getItem(slot(character, brief));
  } catch {
    return null;
  }
}
