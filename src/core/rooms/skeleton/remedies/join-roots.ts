import { object } from 'yup';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { bonesOf, parentBone } from '../../../character/hierarchy';
import { type Character, type SceneNode, replaceAt } from '../../../character/model';
import { hungUnder, rebasedChannel } from '../../../character/rehang';
import { withRoots } from '../../../character/remove';

/** The bones that have no bone above them. */
export const rootsOf = (character: Character): number[] =>
  bonesOf(character).filter((bone) => parentBone(character.nodes, bone) < 0);

/** Hangs nodes under another, where they stand; their clips keep what they do relative to rest. */
export function hungTogether(character: Character, nodes: readonly number[], under: number): Character {
  const changed = new Map<number, SceneNode>(nodes.map((i) => [i, hungUnder(character, i, under)]));
  const clips = character.clips.map((clip) =>
    clip.channels.some((ch) => changed.has(ch.node))
      ? {
          ...clip,
          channels: clip.channels.map((ch) => {
            const after = changed.get(ch.node);
            return after ? rebasedChannel(ch, character.nodes[ch.node], after) : ch;
          }),
        }
      : clip,
  );
  return withRoots({ ...character, nodes: replaceAt(character.nodes, changed), clips });
}

/** Hangs every other root under one of them; all stay where they are. */
export const joinRoots = defineRemedy({
  id: 'join-roots',
  room: 'skeleton',
  title: 'Join all under one root',
  does: 'Every other bone that has none above it hangs under this one, and stays where it is.',
  params: object({ bone: refTo('bone', 'Root') }),
  rows: (character) => [{ label: 'Root bones', value: rootsOf(character).length, unit: 'roots' }],
  promises: () => promise(['tree', 'places', 'clips', 'carried'], { holds: 'at rest' }),
  apply(character, { bone }) {
    const roots = rootsOf(character);
    if (!roots.includes(bone))
      throw new RemedyError('That bone hangs under another one; choose a bone that has none above it.');
    const others = roots.filter((root) => root !== bone);
    if (others.length === 0)
      throw new NothingToDo('The skeleton has one root already; there is nothing to join.');
    return hungTogether(character, others, bone);
  },
});
