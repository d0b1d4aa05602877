import type { Aspect } from '../../contracts/aspect';

/**
 * What a similarity of the whole world changes; a skin that two meshes need differently is doubled, and so is
 * shown anew.
 */
export const MOVED_ASPECTS: readonly Aspect[] = [
  'places',
  'points',
  'shading',
  'morphs',
  'binds',
  'clips',
  'shows',
];
