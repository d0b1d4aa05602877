/** What holds the meshes of a character: weights, a bone that they hang on, or nothing. */
import { ancestorsOf, meshNodesOf } from './hierarchy';
import type { Character } from './model';

/** Bound by weights, hung on a bone as it is, or loose. */
export type HeldBy = 'bound' | 'hung' | 'loose';

/** What holds the mesh that a node shows. */
export function heldBy({ nodes, meshes }: Character, node: number): HeldBy {
  if (nodes[node].skin >= 0 && meshes[nodes[node].mesh].influences !== null) return 'bound';
  return [node, ...ancestorsOf(nodes, node)].some((above) => nodes[above].kind === 'bone') ? 'hung' : 'loose';
}

/** Nodes that show a mesh bound to bones. */
export const boundNodes = (character: Character): number[] =>
  meshNodesOf(character).filter((node) => heldBy(character, node) === 'bound');
