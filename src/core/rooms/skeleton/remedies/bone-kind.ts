import { object } from 'yup';
import { boneKindsOf } from '../../../anatomy/bone-kinds';
import { BONE_KINDS, BONE_KIND_WORDS, type BoneKind } from '../../../character/bone-kinds';
import type { Character, SceneNode } from '../../../character/model';
import { choiceOf, refsTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';

/** Not said by hand: read off names, weights and the tree. */
const AS_READ = 'as-read';

const CHOICES = { [AS_READ]: 'as it is read', ...BONE_KIND_WORDS } as const;

/** Bones are listed before and after up to so many. */
const LISTED = 200;

/** Says what bones are for, where what is read of them is wrong. */
export const boneKind = defineRemedy({
  id: 'bone-kind',
  room: 'skeleton',
  title: 'Say what bones are for',
  does: 'Checks take these bones for what is said here, and it goes out with the file. Nothing of the character moves.',
  params: object({
    bones: refsTo('bone', 'Bones').required(),
    kind: choiceOf<BoneKind | typeof AS_READ>('They are', CHOICES).default(BONE_KINDS[0]),
  }),
  rows(character, { bones }) {
    const kinds = boneKindsOf(character);
    return bones.slice(0, LISTED).map((bone) => ({
      label: character.nodes[bone]?.name ?? `Bone ${bone}`,
      value: BONE_KIND_WORDS[kinds.get(bone)?.kind ?? 'helper'],
      unit: '',
    }));
  },
  promises: () => promise(['kind']),
  apply(character, { bones, kind }): Character {
    if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
      throw new RemedyError('One of these bones is not there any more; choose them again.');
    const said = kind === AS_READ ? undefined : kind;
    const meant = new Set(bones.filter((bone) => character.nodes[bone].boneKind !== said));
    if (meant.size === 0) throw new NothingToDo('That is what is said of them already; choose another kind.');
    return {
      ...character,
      nodes: character.nodes.map((node, i) => (meant.has(i) ? withKind(node, said) : node)),
    };
  },
});

function withKind({ boneKind: _before, ...node }: SceneNode, said: BoneKind | undefined): SceneNode {
  return said ? { ...node, boneKind: said } : node;
}
