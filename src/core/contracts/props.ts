/** What a brief says of props: things that belong to a character and are no part of its body. */
import { namePattern } from './pattern';
import { type InferType, array, number, object, string } from 'yup';
import type { Character } from '../character/model';
import { pattern, setting } from './setting';

const prop = object({
  /** A regular expression over names. */
  pattern: pattern('Names hold', 'What is named so is this prop; capitals do not matter.').required(),
  title: string().required().meta({ label: 'What it is', bound: 'is' }),
  height: number()
    .positive()
    .required()
    .meta(setting('Longest side', 'length', 'is', 'Its size, however it is held.')),
  tolerance: number()
    .min(0)
    .required()
    .meta(setting('More or less by', 'length', 'most', 'So far its size may be off.')),
});

/** Known props by a pattern over their names: the length of their longest side, metres. */
export const PROPS = {
  props: array(prop)
    .default([])
    .meta({ label: 'Props', fresh: { pattern: 'name', title: 'a prop', height: 0.3, tolerance: 0.01 } }),
};

/** A brief as far as it speaks of props. */
export interface PropsBrief {
  readonly props: readonly InferType<typeof prop>[];
}

/** The pattern's prop that a node is, by its name or its mesh's name. */
export function knownProp(
  character: Character,
  node: number,
  brief: PropsBrief,
): PropsBrief['props'][number] | null {
  const names = [character.nodes[node].name, character.meshes[character.nodes[node].mesh]?.name ?? ''];
  return (
    brief.props.find((prop) => {
      const pattern = namePattern(prop.pattern, true);
      return names.some((name) => pattern.test(name));
    }) ?? null
  );
}
