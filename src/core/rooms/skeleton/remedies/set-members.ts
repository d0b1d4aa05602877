import { object } from 'yup';
import type { Character } from '../../../character/model';
import { choiceOf, refTo, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';

const WAYS = { in: 'go into it', out: 'go out of it', over: 'go over to it, out of all others' } as const;

/** Puts bones into a set, takes them out, or moves them over from the others. */
export const setMembers = defineRemedy({
  id: 'set-members',
  room: 'skeleton',
  title: 'Put bones into a set',
  does: 'The set holds these bones from now on, or no longer; what else it holds stays, and so does the figure.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    set: refTo('set', 'Set'),
    way: choiceOf('They', WAYS).default('in'),
  }),
  rows: (character, { set, bones }) => {
    const chosen = new Set(bones);
    const own = character.sets[set];
    const elsewhere = character.sets.filter(
      (other) => other !== own && other.bones.some((bone) => chosen.has(bone)),
    );
    return [
      { label: `Bones in “${own?.name ?? ''}”`, value: own?.bones.length ?? 0, unit: 'bones' },
      { label: 'Other sets that hold any of them', value: elsewhere.length, unit: 'sets' },
    ];
  },
  promises: () => promise(['sets']),
  apply(character, { bones, set, way }): Character {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    if (!character.sets[set]) throw new RemedyError('That set is not in this revision; choose another one.');
    const chosen = new Set(bones);
    const sets = character.sets.map((other, i) => {
      const rest = other.bones.filter((bone) => !chosen.has(bone));
      if (i === set && way !== 'out') {
        const held = [...rest, ...chosen].sort((a, b) => a - b);
        return held.length === other.bones.length ? other : { ...other, bones: held };
      }
      const leaves = i === set || way === 'over';
      return leaves && rest.length < other.bones.length ? { ...other, bones: rest } : other;
    });
    if (sets.every((other, i) => other === character.sets[i]))
      throw new NothingToDo(
        way === 'out' ? 'None of these bones is in that set.' : 'The set holds all of these bones already.',
      );
    return { ...character, sets };
  },
});
