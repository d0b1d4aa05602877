import { bonesOf, restWorld } from '../character/hierarchy';
import type { Character } from '../character/model';
import { STILL, type Similarity } from '../character/similarity';
import { quatAbout, quatConjugate, quatMultiply } from '../geometry/matrix';
import { type Turns, clipSeconds, clipWorld, posedWorld } from './pose';

/**
 * One pose that can be put on two states of a character: turns of nodes in world space, or a moment of a
 * clip.
 */
export type Probe =
  | { readonly label: string; readonly turns: Turns }
  | { readonly label: string; readonly clip: number; readonly time: number };

const AXES = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

/**
 * Rest, poses in which every bone turns a little at once, each another way, and moments of the first clips.
 */
export function probesOf(character: Character, poses = 5): Probe[] {
  const bones = bonesOf(character);
  const out: Probe[] = [{ label: 'rest', turns: new Map() }];
  for (let k = 0; k < poses && bones.length > 0; k++) {
    out.push({
      label: `all bones, way ${k + 1}`,
      turns: new Map(
        bones.map((bone, i) => [bone, quatAbout(AXES[(i + k) % 3], 0.45 * Math.sin(1 + i * 2.4 + k * 1.7))]),
      ),
    });
  }
  character.clips.slice(0, 4).forEach((clip, index) => {
    const seconds = clipSeconds(clip);
    for (const share of [0.25, 0.6])
      out.push({
        label: `${clip.name || 'clip'} at ${(seconds * share).toFixed(2)} s`,
        clip: index,
        time: seconds * share,
      });
  });
  return out;
}

/**
 * World matrices (16 per node) under a probe. On a later state of the character `nodeOf` gives the new index
 * of every old node (−1: gone), and `by` the similarity that the world went through since: a turn is then
 * turned along.
 */
export function probedWorld(
  character: Character,
  probe: Probe,
  nodeOf?: Int32Array,
  by: Similarity = STILL,
): Float64Array {
  if ('clip' in probe)
    return character.clips[probe.clip]
      ? clipWorld(character, character.clips[probe.clip], probe.time)
      : restWorld(character.nodes);
  const turns = new Map<number, readonly number[]>();
  for (const [node, rotation] of probe.turns) {
    const at = nodeOf ? nodeOf[node] : node;
    if (at >= 0) turns.set(at, quatMultiply(quatMultiply(by.rotation, rotation), quatConjugate(by.rotation)));
  }
  return posedWorld(character, turns);
}
