import type { Character } from '../character/model';
import { type NamedPlace, finderOf, namedIn } from '../character/named';
import { type Field, type RefKind, fieldsOf } from '../contracts/params';
import type { Params, Remedy } from '../contracts/remedy';
import type { NamedParams } from '../contracts/step';

/**
 * The names of the list that a reference counts in. A skin goes by its own name, or by the first node that it
 * binds.
 */
function namesFor(character: Character, ref: RefKind): string[] {
  if (ref !== 'skin') return character.nodes.map((node) => node.name);
  return character.skins.map(
    (skin, i) => skin.name || (character.nodes.find((node) => node.skin === i)?.name ?? ''),
  );
}

const referencesOf = (remedy: Pick<Remedy, 'params'>): (Field & { ref: RefKind })[] =>
  fieldsOf(remedy.params).filter((field): field is Field & { ref: RefKind } => field.ref !== undefined);

/**
 * What a step's indices stand for, so that the step can be done again on another delivery, where they count
 * otherwise.
 */
export function nameParams(
  character: Character,
  remedy: Pick<Remedy, 'params'>,
  params: Params,
): NamedParams {
  const out: Record<string, NamedPlace | null | NamedPlace[]> = {};
  for (const { name, ref } of referencesOf(remedy)) {
    const names = namesFor(character, ref);
    const value = params[name];
    if (Array.isArray(value))
      out[name] = value
        .filter((i): i is number => names[i as number] !== undefined)
        .map((i) => namedIn(names, i));
    else if (typeof value === 'number') out[name] = names[value] === undefined ? null : namedIn(names, value);
  }
  return out;
}

/** The parameters with their indices found again by name; or the one sentence that says what is not there. */
export function refitParams(
  character: Character,
  remedy: Pick<Remedy, 'params'>,
  params: Params,
  named: NamedParams,
): { readonly params: Params } | { readonly missing: string } {
  const out: Params = { ...params };
  for (const { name, ref } of referencesOf(remedy)) {
    const wanted = named[name];
    if (!wanted) continue;
    const find = finderOf(namesFor(character, ref));
    const list = Array.isArray(wanted) ? (wanted as readonly NamedPlace[]) : [wanted as NamedPlace];
    const lost = list.find((named) => find(named) < 0);
    if (lost) {
      const which = lost.nth > 0 ? ` number ${lost.nth + 1}` : '';
      const kind = ref === 'skin' ? 'skin' : 'node';
      return { missing: `there is no ${kind} “${lost.name}”${which} in the new delivery` };
    }
    out[name] = Array.isArray(wanted) ? list.map(find) : find(list[0]);
  }
  return { params: out };
}

/**
 * The parameters as they count after a step of the same character, for its numbers afterwards; null where
 * something that they point at is gone.
 * @param nodeOf new index of every node, −1 for one that went
 */
export function paramsAfter(
  remedy: Pick<Remedy, 'params'>,
  params: Params,
  nodeOf: Int32Array,
): Params | null {
  const out: Params = { ...params };
  for (const { name, ref, isList } of referencesOf(remedy)) {
    const value = params[name];
    if (ref === 'skin' || value === undefined) continue;
    if (isList) {
      out[name] = (value as number[]).map((i) => nodeOf[i] ?? -1).filter((i) => i >= 0);
    } else if ((value as number) >= 0) {
      const to = nodeOf[value as number] ?? -1;
      if (to < 0) return null;
      out[name] = to;
    }
  }
  return out;
}
