import type { Character } from './model';

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
        .filter((n) => n[list] >= 0)
        .map((n) => n[list])
        .filter((m) => !kept.some((n) => n[list] === m)),
    );
  const lostMeshes = orphaned('mesh');
  // A skin whose joints all go has nothing to hold on to.
  const lostSkins = new Set([
    ...orphaned('skin'),
    ...character.skins.flatMap((s, i) => (s.joints.every((j) => gone.has(j)) ? [i] : [])),
  ]);
  const shift = (lost: ReadonlySet<number>, n: number) => {
    let k = 0;
    return Array.from({ length: n }, (_, i) => (lost.has(i) ? -1 : k++));
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
      nodes: kept.map((n) =>
        to(newOf, n.parent) === n.parent && to(meshOf, n.mesh) === n.mesh && to(skinOf, n.skin) === n.skin
          ? n
          : { ...n, parent: to(newOf, n.parent), mesh: to(meshOf, n.mesh), skin: to(skinOf, n.skin) },
      ),
      meshes: lostMeshes.size > 0 ? character.meshes.filter((_, i) => !lostMeshes.has(i)) : character.meshes,
      skins: character.skins.flatMap((s, i) => {
        if (lostSkins.has(i)) return [];
        if (count === character.nodes.length) return [s];
        return [
          {
            ...s,
            joints: s.joints.map((j) => to(newOf, j)),
            ...skeletonAfter(s.skeleton),
          },
        ];
      }),
      clips: character.clips.map((c) =>
        c.channels.some((ch) => newOf[ch.node] !== ch.node)
          ? {
              ...c,
              channels: c.channels
                .filter((ch) => !gone.has(ch.node))
                .map((ch) => ({ ...ch, node: newOf[ch.node] })),
            }
          : c,
      ),
      sets: character.sets.map((s) => ({
        ...s,
        bones: s.bones.filter((b) => !gone.has(b)).map((b) => newOf[b]),
      })),
      carried: {
        ...character.carried,
        scenes: character.carried.scenes.map((s) => ({
          ...s,
          roots: s.roots.filter((r) => !gone.has(r)).map((r) => newOf[r]),
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
  const known = new Set(scenes.flatMap((s) => s.roots));
  const fresh = character.nodes.flatMap((n, i) => (n.parent < 0 && !known.has(i) ? [i] : []));
  return {
    ...character,
    carried: {
      ...character.carried,
      scenes: scenes.map((s, i) => ({
        ...s,
        roots: [...s.roots.filter((r) => character.nodes[r]?.parent === -1), ...(i === main ? fresh : [])],
      })),
    },
  };
}
