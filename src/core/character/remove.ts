import type { Character } from './model';
import { setsAfterNodes } from './sets';

/** A character without some of its nodes, and where the others count now. */
export interface Removed {
  readonly character: Character;
  /** New index of every old node, −1 for one that went. */ readonly newOf: readonly number[];
}

/**
 * The character without some nodes. What hangs below a node that goes must go too or be hung elsewhere first;
 * channels of a node go with it. Meshes and skins that nothing shows any more go as well, unless they were
 * unused before.
 */
export function withoutNodes(character: Character, gone: ReadonlySet<number>): Removed {
  const newOf: number[] = [];
  let count = 0;
  character.nodes.forEach((_, i) => newOf.push(gone.has(i) ? -1 : count++));
  const kept = character.nodes.filter((_, i) => !gone.has(i));
  const orphaned = (list: 'mesh' | 'skin') =>
    new Set(
      character.nodes
        .filter((node) => node[list] >= 0)
        .map((node) => node[list])
        .filter((item) => !kept.some((node) => node[list] === item)),
    );
  const lostMeshes = orphaned('mesh');
  // A skin whose joints all go has nothing to hold on to.
  const lostSkins = new Set([
    ...orphaned('skin'),
    ...character.skins.flatMap((skin, i) => (skin.joints.every((j) => gone.has(j)) ? [i] : [])),
  ]);
  const shift = (lost: ReadonlySet<number>, index: number) => {
    let k = 0;
    return Array.from({ length: index }, (_, i) => (lost.has(i) ? -1 : k++));
  };
  const meshOf = shift(lostMeshes, character.meshes.length);
  const skinOf = shift(lostSkins, character.skins.length);
  const to = (map: readonly number[], i: number) => (i < 0 ? -1 : map[i]);
  const skeletonAfter = (skeleton: number | undefined) => {
    if (skeleton === undefined) return {};
    return { skeleton: to(newOf, skeleton) >= 0 ? to(newOf, skeleton) : undefined };
  };
  return {
    newOf,
    character: {
      ...character,
      nodes: kept.map((node) =>
        to(newOf, node.parent) === node.parent &&
        to(meshOf, node.mesh) === node.mesh &&
        to(skinOf, node.skin) === node.skin
          ? node
          : {
              ...node,
              parent: to(newOf, node.parent),
              mesh: to(meshOf, node.mesh),
              skin: to(skinOf, node.skin),
            },
      ),
      meshes: lostMeshes.size > 0 ? character.meshes.filter((_, i) => !lostMeshes.has(i)) : character.meshes,
      skins: character.skins.flatMap((skin, i) => {
        if (lostSkins.has(i)) return [];
        if (count === character.nodes.length) return [skin];
        return [
          {
            ...skin,
            joints: skin.joints.map((j) => to(newOf, j)),
            ...skeletonAfter(skin.skeleton),
          },
        ];
      }),
      clips: character.clips.map((clip) =>
        clip.channels.some((ch) => newOf[ch.node] !== ch.node)
          ? {
              ...clip,
              channels: clip.channels
                .filter((ch) => !gone.has(ch.node))
                .map((ch) => ({ ...ch, node: newOf[ch.node] })),
            }
          : clip,
      ),
      sets:
        character.sets.length > 0 && gone.size > 0 ? setsAfterNodes(character.sets, newOf) : character.sets,
      carried: {
        ...character.carried,
        scenes: character.carried.scenes.map((scene) => ({
          ...scene,
          roots: scene.roots.filter((root) => !gone.has(root)).map((root) => newOf[root]),
        })),
      },
    },
  };
}

/** The scenes with their roots as the nodes' parents say; after nodes were hung elsewhere. */
export function withRoots(character: Character): Character {
  const scenes = character.carried.scenes;
  const main = Math.max(0, character.carried.scene);
  if (scenes.length === 0) return character;
  const known = new Set(scenes.flatMap((scene) => scene.roots));
  const fresh = character.nodes.flatMap((node, i) => (node.parent < 0 && !known.has(i) ? [i] : []));
  return {
    ...character,
    carried: {
      ...character.carried,
      scenes: scenes.map((scene, i) => ({
        ...scene,
        roots: [
          ...scene.roots.filter((root) => character.nodes[root]?.parent === -1),
          ...(i === main ? fresh : []),
        ],
      })),
    },
  };
}
