import type { Character } from '../character/model';
import { type Named, finderOf, namedIn } from '../character/named';

/** Parameters that count in the lists of one state of a character. */
const NODES = new Set(['node', 'bone', 'parent', 'nodes']);
const SKINS = new Set(['skin']);

export type NamedParams = Readonly<Record<string, Named | null | readonly Named[]>>;

const nodeNames = (c: Character) => c.nodes.map((n) => n.name);
/** A skin by its own name, or by the first node that it binds. */
const skinNames = (c: Character) =>
  c.skins.map((s, i) => s.name || (c.nodes.find((n) => n.skin === i)?.name ?? ''));

/** The list that a parameter counts in, by name; null where it counts in none. */
function namesFor(character: Character, key: string): string[] | null {
  if (NODES.has(key)) return nodeNames(character);
  return SKINS.has(key) ? skinNames(character) : null;
}

/** What a step's indices stand for, so that the step can be done again on another delivery, where they count otherwise. */
export function namesOfParams(character: Character, params: Readonly<Record<string, unknown>>): NamedParams {
  const out: Record<string, Named | null | Named[]> = {};
  for (const [key, value] of Object.entries(params)) {
    const names = namesFor(character, key);
    if (!names) continue;
    if (Array.isArray(value))
      out[key] = value
        .filter((i): i is number => names[i as number] !== undefined)
        .map((i) => namedIn(names, i));
    else if (typeof value === 'number')
      out[key] = value < 0 || names[value] === undefined ? null : namedIn(names, value);
  }
  return out;
}

/** The parameters with their indices found again by name; or the one sentence that says what is not there. */
export function refitted(
  character: Character,
  params: Readonly<Record<string, unknown>>,
  names: NamedParams,
): { readonly params: Record<string, unknown> } | { readonly missing: string } {
  const out: Record<string, unknown> = { ...params };
  for (const [key, what] of Object.entries(names)) {
    if (what === null) continue;
    const find = finderOf(SKINS.has(key) ? skinNames(character) : nodeNames(character));
    const found = (Array.isArray(what) ? (what as readonly Named[]) : [what as Named]).map((w) => ({
      w,
      at: find(w),
    }));
    const lost = found.find((f) => f.at < 0);
    if (lost)
      return {
        missing: `there is no ${SKINS.has(key) ? 'skin' : 'node'} “${lost.w.name}”${lost.w.nth > 0 ? ` number ${lost.w.nth + 1}` : ''} in the new delivery`,
      };
    out[key] = Array.isArray(what) ? found.map((f) => f.at) : found[0].at;
  }
  return { params: out };
}
