/** Bones that a clip scales. Many games take turns and shifts of bones alone; a scale arrives as none, or as a shear. */
import { ancestorsOf } from '../../character/hierarchy';
import type { Channel, Character, Clip } from '../../character/model';
import { valueOfKey } from './channel-keys';

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

function farthestScale(channel: Channel, rest: readonly number[]): ScaledBone {
  let factor = 1;
  let seconds = 0;
  channel.times.forEach((time, key) => {
    valueOfKey(channel, key).forEach((number, axis) => {
      const here = Math.abs(number / (rest[axis] || 1));
      if (Math.abs(Math.log(here || 1e-6)) <= Math.abs(Math.log(factor))) return;
      factor = here;
      seconds = time;
    });
  });
  return { node: channel.node, factor, seconds };
}
