import type { Character, ElementsOf } from '../character/model';
import { type NamedPlace, finderOf, namedIn } from '../character/named';
import {
  type ElementKind,
  type FoundElements,
  type PlacedElements,
  foundElements,
  namedElements,
} from '../character/sets';
import {
  type ElementsParam,
  type RowsParam,
  type Field,
  type RefKind,
  fieldsOf,
  listReferredTo,
  nounOf,
} from '../contracts/params';
import type { Params, Remedy } from '../contracts/remedy';
import type { NamedParams } from '../contracts/step';

/**
 * The names of the list that a reference counts in. A skin goes by its own name, or by the first node that it
 * binds.
 */
function namesFor(character: Character, ref: RefKind): string[] {
  if (ref !== 'skin') return listReferredTo(character, ref).map(({ name }) => name);
  return character.skins.map(
    (skin, i) => skin.name || (character.nodes.find((node) => node.skin === i)?.name ?? ''),
  );
}

const referencesOf = (remedy: Pick<Remedy, 'params'>): (Field & { ref: RefKind })[] =>
  fieldsOf(remedy.params).filter((field): field is Field & { ref: RefKind } => field.ref !== undefined);

const elementFieldsOf = (remedy: Pick<Remedy, 'params'>): (Field & { elements: ElementKind })[] =>
  fieldsOf(remedy.params).filter(
    (field): field is Field & { elements: ElementKind } => field.elements !== undefined,
  );

/**
 * What a step's indices stand for, so that the step can be done again on another delivery, where they count
 * otherwise.
 */
export function nameParams(
  character: Character,
  remedy: Pick<Remedy, 'params'>,
  params: Params,
): NamedParams {
  const out: Record<string, NamedPlace | null | NamedPlace[] | PlacedElements[]> = {};
  for (const { name, ref } of referencesOf(remedy)) {
    const names = namesFor(character, ref);
    const value = params[name];
    if (Array.isArray(value))
      out[name] = value
        .filter((i): i is number => names[i as number] !== undefined)
        .map((i) => namedIn(names, i));
    else if (typeof value === 'number') out[name] = names[value] === undefined ? null : namedIn(names, value);
  }
  for (const { name, elements } of elementFieldsOf(remedy))
    out[name] = asElements(params[name]).flatMap((some) => namedElements(character, elements, some) ?? []);
  return out;
}

/** Points and polygons as a parameter holds them: after a request as plain numbers. */
const asElements = (value: unknown): ElementsOf[] =>
  ((value ?? []) as ElementsParam[]).map(({ node, ids }) => ({ node, ids: Uint32Array.from(ids) }));

/**
 * The parameters with their indices found again by name, and what of points and polygons is not found; or the one sentence
 * that says what is not there.
 */
export function refitParams(
  character: Character,
  remedy: Pick<Remedy, 'params'>,
  params: Params,
  named: NamedParams,
): Refitted {
  const out: Params = { ...params };
  for (const { name, ref } of referencesOf(remedy)) {
    const wanted = named[name];
    if (!wanted) continue;
    const find = finderOf(namesFor(character, ref));
    const list = Array.isArray(wanted) ? (wanted as readonly NamedPlace[]) : [wanted as NamedPlace];
    const lost = list.find((named) => find(named) < 0);
    if (lost) {
      const which = lost.nth > 0 ? ` number ${lost.nth + 1}` : '';
      return { missing: `there is no ${nounOf(ref)} “${lost.name}”${which} in the new delivery` };
    }
    out[name] = Array.isArray(wanted) ? list.map(find) : find(list[0]);
  }
  const misfits: string[] = [];
  let isAnythingLeft = referencesOf(remedy).some(({ name }) => [named[name] ?? []].flat().length > 0);
  let missing = '';
  for (const { name, elements, isOptional, hasRows, label } of elementFieldsOf(remedy)) {
    const wanted = (named[name] ?? []) as readonly PlacedElements[];
    if (wanted.length === 0) continue;
    const found = wanted.map((some) => foundElements(character, elements, some));
    const lost = found.reduce((sum, one) => sum + one.lost, 0);
    const total = wanted.reduce((sum, { ids }) => sum + ids.length, 0);
    const words = elements === 'vertices' ? 'points' : 'polygons';
    if (lost === total)
      missing = `none of the ${total} ${words} of “${label}” lies where it lay in the new delivery`;
    else isAnythingLeft = true;
    if (lost === total && !isOptional) return { missing };
    if (lost > 0) misfits.push(`${lost} of ${total} ${words} are not found in the new delivery`);
    out[name] = hasRows
      ? (params[name] as RowsParam[]).flatMap((given, i) => foundRows(given, found[i]))
      : found.flatMap((one) => one.elements ?? []);
  }
  if (missing && !isAnythingLeft) return { missing };
  return { params: out, misfits };
}

/** The rows of the points that were found. */
function foundRows({ rows }: RowsParam, { elements, found }: FoundElements): RowsParam[] {
  if (!elements) return [];
  const known = new Set<number>();
  const ids: number[] = [];
  const kept: number[] = [];
  found.forEach((id, i) => {
    // Two points may have become one: the first counts.
    if (id < 0 || known.has(id)) return;
    known.add(id);
    ids.push(id);
    kept.push(i);
  });
  const offsets = new Uint32Array(kept.length + 1);
  kept.forEach((row, i) => {
    offsets[i + 1] = offsets[i] + rows.offsets[row + 1] - rows.offsets[row];
  });
  const joint = new Uint32Array(offsets[kept.length]);
  const weight = new Float32Array(offsets[kept.length]);
  kept.forEach((row, i) => {
    joint.set(rows.joint.subarray(rows.offsets[row], rows.offsets[row + 1]), offsets[i]);
    weight.set(rows.weight.subarray(rows.offsets[row], rows.offsets[row + 1]), offsets[i]);
  });
  return [{ node: elements.node, ids: Uint32Array.from(ids), rows: { offsets, joint, weight } }];
}

/** Parameters that were found again, with what is not found of them in sentences; or what is not there at all. */
export type Refitted =
  { readonly params: Params; readonly misfits: readonly string[] } | { readonly missing: string };

/**
 * The parameters as they count after a step of the same character, for its numbers afterwards; null where
 * something that they point at is gone.
 * @param nodeOf new index of every node, −1 for one that went
 */
export function paramsAfter(
  remedy: Pick<Remedy, 'params'>,
  params: Params,
  nodeOf: Int32Array,
  mayBeGone: readonly string[] = [],
): Params | null {
  const out: Params = { ...params };
  for (const { name, ref, isList } of referencesOf(remedy)) {
    const value = params[name];
    if (nounOf(ref) !== 'node' || value === undefined) continue;
    if (isList) {
      out[name] = (value as number[]).map((i) => nodeOf[i] ?? -1).filter((i) => i >= 0);
    } else if ((value as number) >= 0) {
      const to = nodeOf[value as number] ?? -1;
      if (to < 0 && !mayBeGone.includes(name)) return null;
      out[name] = to;
    }
  }
  for (const { name } of elementFieldsOf(remedy))
    if (params[name] !== undefined)
      out[name] = (params[name] as ElementsParam[]).flatMap(({ node, ids, ...rest }) =>
        nodeOf[node] >= 0 ? [{ ...rest, node: nodeOf[node], ids }] : [],
      );
  return out;
}
