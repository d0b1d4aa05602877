/** What the words of a call name in a character. */
import { wildcardPattern } from '../core/contracts/pattern';
import { type Field, listReferredTo, nounOf } from '../core/contracts/params';
import { candidatesOf } from '../core/house/by-hand';
import type { Character } from '../core/character/model';
import { UsageError } from './errors';

/** What is asked for: its name, and what it points at. */
type Named = Pick<Field, 'name' | 'ref'>;

/** All bones, or nodes, that a name with stars stands for; else the one that is called so. */
export function indicesOf(text: string, field: Named, character: Character, file: string): number[] {
  if (!/[*?]/.test(text) || nounOf(field.ref ?? 'node') !== 'node')
    return [indexOf(text, field, character, file)];
  const pattern = wildcardPattern(text, { '*': '.*', '?': '.' });
  const found = candidatesOf(character, field.ref ?? 'node').filter((node) =>
    pattern.test(character.nodes[node].name),
  );
  if (found.length === 0)
    throw new UsageError(`Nothing in “${file}” has a name like “${text}” that “${field.name}” may be.`);
  return found;
}

/** What a reference points at, by its number or its name. */
export function indexOf(text: string, { ref }: Named, character: Character, file: string): number {
  if (/^-?\d+$/.test(text)) return Number(text);
  const index = listReferredTo(character, ref ?? 'node').findIndex(({ name }) => name === text);
  if (index < 0) throw new UsageError(`There is no ${nounOf(ref ?? 'node')} “${text}” in ${file}.`);
  return index;
}
