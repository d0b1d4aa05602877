/** Joints at other places, the skin staying where it is at rest. */
import { type Vec3, inverseOr, times } from '../geometry/matrix';
import { childrenOf, restWorld, topDown } from './hierarchy';
import { type Character, type SceneNode, replaceAt } from './model';
import { rebasedChannel, withLocal } from './rehang';

/**
 * The character with some joints at other places, and all else where it was: what hangs on them stays, skins are bound anew,
 * clips are counted from the new rests.
 * @param places by node, world space at rest, metres
 */
export function withJointsAt(character: Character, places: ReadonlyMap<number, Vec3>): Character {
  const { nodes } = character;
  const world = restWorld(nodes);
  const now = Float64Array.from(world);
  for (const [node, place] of places) now.set(place, node * 16 + 12);
  const children = childrenOf(nodes);
  const moved = new Map<number, SceneNode>();
  const concerned = new Set([...places.keys()].flatMap((node) => [node, ...children[node]]));
  for (const node of topDown(nodes)) {
    if (!concerned.has(node)) continue;
    const { parent } = nodes[node];
    const own = now.subarray(node * 16, node * 16 + 16);
    moved.set(
      node,
      withLocal(nodes[node], parent < 0 ? Float64Array.from(own) : times(inverseOr(now, parent * 16), own)),
    );
  }
  return boundAnew(character, moved);
}

/** The character on moved joints: skins bound to their new places, clips counted from their new rests. */
export function boundAnew(character: Character, moved: ReadonlyMap<number, SceneNode>): Character {
  const nodes = replaceAt(character.nodes, moved);
  const before = restWorld(character.nodes);
  const after = restWorld(nodes);
  const isMoved = (j: number) => {
    for (let entry = j * 16; entry < j * 16 + 16; entry++) if (before[entry] !== after[entry]) return true;
    return false;
  };
  const skins = character.skins.map((skin) => {
    if (!skin.joints.some(isMoved)) return skin;
    const inverseBinds = Float64Array.from(skin.inverseBinds);
    skin.joints.forEach((j, k) => {
      if (!isMoved(j)) return;
      const carry = times(inverseOr(after, j * 16), before, 0, j * 16);
      inverseBinds.set(times(carry, skin.inverseBinds, 0, k * 16), k * 16);
    });
    return { ...skin, inverseBinds };
  });
  const clips = character.clips.map((clip) => {
    if (!clip.channels.some((ch) => moved.has(ch.node))) return clip;
    const channels = clip.channels.map((ch) => {
      const now = moved.get(ch.node);
      return now ? rebasedChannel(ch, character.nodes[ch.node], now) : ch;
    });
    return { ...clip, channels };
  });
  return { ...character, nodes, skins, clips };
}
