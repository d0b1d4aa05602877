/**
 * Channels of clips that nothing shows: on nodes that carry neither mesh nor weight, or on morph targets that are not
 * there.
 */
import { ancestorsOf, bonesOf, weightOfNodes } from '../../character/hierarchy';
import type { Channel, Character } from '../../character/model';

/**
 * Tells of a channel whether it moves anything that is seen: a mesh, points by their weights, a camera or a light; where there is
 * nothing to be seen, as in a capture, any bone does.
 */
export function movesAnything(character: Character): (channel: Channel) => boolean {
  const { nodes, meshes } = character;
  const weight = weightOfNodes(character);
  const moved = new Set<number>();
  nodes.forEach(({ mesh, kind }, node) => {
    if (mesh < 0 && kind !== 'camera' && kind !== 'light' && !(weight[node] > 0)) return;
    for (const one of [node, ...ancestorsOf(nodes, node)]) moved.add(one);
  });
  if (moved.size === 0) for (const bone of bonesOf(character)) moved.add(bone);
  return ({ node, path, times }) => {
    if (times.length === 0 || !nodes[node]) return false;
    if (path === 'weights') return (meshes[nodes[node].mesh]?.morphs.length ?? 0) > 0;
    return moved.has(node);
  };
}
