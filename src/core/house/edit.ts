import { pack, unpack } from '../character/bundle';
import type { Character } from '../character/model';
import type { Aspect } from '../contracts/aspect';
import { type Params, type Promised, RemedyError, promise } from '../contracts/remedy';
import type { NamedParams } from '../contracts/step';
import type { Brief } from './brief';
import { remedyById } from './registry';
import { nameParams, refitParams } from './rerun';

/** One thing that the hand did: a remedy with its parameters. */
export interface Patch {
  readonly remedy: string;
  readonly params: Params;
}

/** A character after patches, with what they promised. */
export interface Edited {
  readonly character: Character;
  readonly promised: Promised;
  /** What the indices of every patch stood for. */
  readonly names: readonly NamedParams[];
}

/** Does patches one after the other. Throws RemedyError where one cannot be done. */
export function applyPatches(base: Character, patches: readonly Patch[], brief: Brief): Edited {
  let character = base;
  const changes = new Set<Aspect>();
  const meant = new Set<number>();
  const names: NamedParams[] = [];
  let holds: Promised['holds'] = 'in every pose';
  for (const patch of patches) {
    const { remedy, params } = checkPatch(patch);
    const promised = remedy.promises(character, params, brief);
    names.push(nameParams(character, remedy, params));
    character = remedy.apply(character, params, brief);
    for (const aspect of promised.changes) changes.add(aspect);
    for (const node of promised.meant) meant.add(node);
    if (promised.holds === 'at rest') holds = 'at rest';
  }
  return { character, promised: promise([...changes], { meant, holds }), names };
}

/** A patch whose remedy is known and whose parameters are as they should be. Throws RemedyError. */
export function checkPatch(patch: Patch) {
  const remedy = remedyById(patch.remedy);
  if (!remedy) throw new RemedyError(`There is no remedy “${patch.remedy}”; reload the page.`);
  return { remedy, params: remedy.params.validateSync(patch.params) as Params };
}

/** Patches as one binary bundle, which carries numbers and arrays exactly. */
export const packPatches = (patches: readonly Patch[]): Uint8Array =>
  new Uint8Array(pack({ edit: 1, patches }));

/** Most patches that one edit may hold. */
const MOST_PATCHES = 10_000;

/** Reads a bundle of patches. Throws {@link RemedyError} for anything that is none. */
export function unpackPatches(bytes: Uint8Array): Patch[] {
  let value: unknown;
  try {
    value = unpack(bytes.slice().buffer);
  } catch (error) {
    throw new RemedyError(
      `The edit cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const { patches } = (value ?? {}) as { patches?: unknown };
  if (!Array.isArray(patches) || patches.length === 0 || patches.length > MOST_PATCHES)
    throw new RemedyError(`The edit holds no list of 1 to ${MOST_PATCHES} changes; make it again.`);
  return patches.map((patch: Partial<Patch> | null, i) => {
    if (typeof patch?.remedy !== 'string' || !patch.params || typeof patch.params !== 'object')
      throw new RemedyError(`Change ${i + 1} of the edit names no remedy; make it again.`);
    return { remedy: patch.remedy, params: patch.params };
  });
}

/**
 * Patches that were made on another delivery, pointed at what has their names here; and what is not there, in
 * words.
 */
export function refitPatches(
  character: Character,
  patches: readonly Patch[],
  names: readonly NamedParams[],
): { readonly patches: Patch[]; readonly misfits: string[] } {
  const misfits: string[] = [];
  const fitting = patches.flatMap((patch, i): Patch[] => {
    const { remedy, params } = checkPatch(patch);
    const fit = refitParams(character, remedy, params, names[i] ?? {});
    if ('missing' in fit) {
      misfits.push(fit.missing);
      return [];
    }
    misfits.push(...fit.misfits);
    return [{ remedy: patch.remedy, params: fit.params }];
  });
  return { patches: fitting, misfits };
}

/** What patches did, in words: “moved 3 joints, placed a part”. */
export function titleOf(patches: readonly Patch[]): string {
  const counts = new Map<string, Set<string>>();
  for (const patch of patches) {
    const target = JSON.stringify(patch.params.bone ?? patch.params.node ?? null);
    counts.set(patch.remedy, (counts.get(patch.remedy) ?? new Set()).add(target));
  }
  return [...counts]
    .map(([id, targets]) => {
      const title = remedyById(id)?.title.toLowerCase() ?? id;
      return targets.size > 1 ? `${title} (${targets.size})` : title;
    })
    .join(', ');
}
