import { meshNodesOf } from '../../character/hierarchy';
import type { Character } from '../../character/model';

/** Nodes that show a mesh bound to bones. */
export const boundNodes = (character: Character): number[] =>
  meshNodesOf(character).filter((i) => character.nodes[i].skin >= 0);
