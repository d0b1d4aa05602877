/** Renaming bones: what forbids new names, how they are given, and the remedies that make them out of the old ones. */
import { type AnyObjectSchema, type InferType } from 'yup';
import { bonesOf } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import type { BriefBase } from '../../contracts/brief';
import { type Remedy, NothingToDo, RemedyError, defineRemedy, promise } from '../../contracts/remedy';

/** New names by node. */
export type NewNames = ReadonlyMap<number, string>;

/** Names that two bones would have; two may change places, but none may meet one that stays. */
export function clashesOf(character: Character, names: NewNames): string[] {
  const count = new Map<string, number>();
  character.nodes.forEach((node, i) => {
    if (node.kind !== 'bone') return;
    const name = names.get(i) ?? node.name;
    count.set(name, (count.get(name) ?? 0) + 1);
  });
  const doubled = [...names].filter(
    ([node, name]) => character.nodes[node].kind === 'bone' && (count.get(name) ?? 0) > 1,
  );
  return [...new Set(doubled.map(([, name]) => name))];
}

/**
 * The character with new names. Clips, vertex groups and sets hold nodes, not names, and so follow by themselves.
 * @throws RemedyError for a name that is empty, or that two bones would have
 */
export function renamed(character: Character, names: NewNames): Character {
  const empty = [...names].find(([, name]) => name.trim() === '');
  if (empty)
    throw new RemedyError(`“${character.nodes[empty[0]].name}” would be left without a name; give it one.`);
  const [clash] = clashesOf(character, names);
  if (clash !== undefined)
    throw new RemedyError(`Two bones would be called “${clash}”; choose another name for one of them.`);
  return {
    ...character,
    nodes: character.nodes.map((node, i) =>
      names.has(i) ? { ...node, name: names.get(i) as string } : node,
    ),
  };
}

/** Names are listed before and after up to so many. */
const LISTED = 200;

/** A remedy that makes new names out of the old ones, of the bones that are given, or of all. */
export function defineRenaming<S extends AnyObjectSchema, B extends BriefBase = BriefBase>(remedy: {
  readonly id: string;
  readonly title: string;
  readonly does: string;
  /** With `bones`: a list of them, not needed. */
  readonly params: S;
  /** The new names of bones; one that is left out, or the same, stays. Throws RemedyError. */
  newNames(character: Character, bones: readonly number[], params: InferType<S>, brief: B): NewNames;
}): Remedy<InferType<S>, B> {
  const meant = (character: Character, { bones }: { bones?: readonly number[] }): readonly number[] =>
    bones && bones.length > 0 ? bones : bonesOf(character);
  return defineRemedy<S, B>({
    ...remedy,
    room: 'skeleton',
    rows: (character, params) =>
      meant(character, params)
        .slice(0, LISTED)
        .map((bone) => ({ label: `Bone ${bone}`, value: character.nodes[bone]?.name ?? '', unit: '' })),
    promises: () => promise(['names']),
    apply(character, params, brief) {
      const bones = meant(character, params);
      if (bones.some((bone) => character.nodes[bone]?.kind !== 'bone'))
        throw new RemedyError('One of these bones is not there any more; choose them again.');
      const names = new Map(
        [...remedy.newNames(character, bones, params, brief)].filter(
          ([bone, name]) => character.nodes[bone].name !== name,
        ),
      );
      if (names.size === 0) throw new NothingToDo('All of these names are so already; nothing changes.');
      return renamed(character, names);
    },
  });
}
