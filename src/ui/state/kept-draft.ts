import { keeperIn } from './kept';

/** What the hand did and nobody kept yet: bundles of patches, by the revision that they were made on. */
export const keptDrafts = keeperIn<Uint8Array>('young-bough');
