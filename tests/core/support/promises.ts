import { meshNodesOf } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { ASPECTS } from '@/core/contracts/aspect';
import { promise } from '@/core/contracts/remedy';

/** A promise of nothing: all may change, and everything that is shown may move. */
export const anything = (character: Character) => promise(ASPECTS, { meant: meshNodesOf(character) });

/** A promise that whatever changes, nothing that is shown moves but these. */
export const onlyMoves = (...meant: number[]) => promise(ASPECTS, { meant });
