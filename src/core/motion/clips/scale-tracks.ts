/**
 * Bones that a clip scales. Many games take turns and shifts of bones alone; a scale arrives as none, or as a shear.
 */
import { ancestorsOf } from '../../character/hierarchy';
import type { Channel, Character, Clip } from '../../character/model';
import { offsetOfKey } from './channel-keys';

export interface ScaledBone {
  readonly node: number;
  /** The scale that is farthest from that at rest, as a factor. */
  readonly factor: number;
  /** When, seconds. */
  readonly seconds: number;
}

/** A joint of a skin, or what joints hang on: what is scaled there is skin. */
function carriesSkin({ nodes, skins }: Character): ReadonlySet<number> {
  const joints = skins.flatMap((skin) => skin.joints);
  return new Set(joints.flatMap((joint) => [joint, ...ancestorsOf(nodes, joint)]));
}

/** Tells of a channel whether it is the scale of something that carries skin. */
export function scalesSkin(character: Character): (channel: Channel) => boolean {
  const carrying = carriesSkin(character);
  return ({ path, node }) => path === 'scale' && carrying.has(node);
}

/** What a clip scales, by how far it goes from 1 : 1, the most first; a factor of 1 for a track that does nothing. */
export function scaledBones(character: Character, clip: Clip): ScaledBone[] {
  return clip.channels
    .filter(scalesSkin(character))
    .map((channel) => farthestScale(channel, character.nodes[channel.node].scale))
    .sort((a, b) => Math.abs(Math.log(b.factor)) - Math.abs(Math.log(a.factor)));
}

/** What is scaled to less is scaled to nothing. */
const NOTHING = 1e-6;

function farthestScale(channel: Channel, rest: readonly number[]): ScaledBone {
  const { node, times, values } = channel;
  let farthest = 0;
  let factor = 1;
  let seconds = 0;
  for (let key = 0; key < times.length; key++) {
    const offset = offsetOfKey(channel, key);
    for (let axis = 0; axis < 3; axis++) {
      const here = Math.abs(values[offset + axis] / (rest[axis] || 1));
      const away = Math.abs(Math.log(Math.max(here, NOTHING)));
      if (away <= farthest) continue;
      farthest = away;
      factor = here;
      seconds = times[key];
    }
  }
  return { node, factor, seconds };
}
