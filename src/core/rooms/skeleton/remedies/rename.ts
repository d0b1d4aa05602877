import { refsTo } from '../../../contracts/params';
import { type NamePattern, wildcardPattern } from '../../../contracts/pattern';
import { mixed, object } from 'yup';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { topDown } from '../../../character/hierarchy';
import type { Character } from '../../../character/model';
import { clashesOf, renamed } from '../renaming';

/** A name and what it becomes. */
export interface Renaming {
  readonly node: number;
  readonly from: string;
  readonly to: string;
}

/**
 * What a table of old → new names does to a character: the renamings, and the clashes that forbid them. Two
 * names may change places; a new name may not meet one that stays. `*` in an old name stands for any letters, and in
 * its new one for the same; `#` in a new name counts the nodes that it is given to (`##` with two digits). `among`: the
 * nodes that the table is for; all where nothing is said.
 */
export function planRenaming(
  character: Character,
  table: Readonly<Record<string, string>>,
  among?: readonly number[],
): { renamings: Renaming[]; clashes: string[]; unknown: string[] } {
  const renamings: Renaming[] = [];
  const used = new Set<string>();
  const counts = new Map<string, number>();
  const patterns = Object.keys(table)
    .filter((old) => old.includes('*'))
    .map((old) => ({ old, expression: patternOfOld(old) }));
  const isMeant = among && new Set(among);
  for (const node of topDown(character.nodes)) {
    if (isMeant && !isMeant.has(node)) continue;
    const { name } = character.nodes[node];
    const rule = Object.hasOwn(table, name)
      ? { old: name, found: [] as string[] }
      : firstMatch(patterns, name);
    if (!rule) continue;
    used.add(rule.old);
    const target = withMatches(table[rule.old], rule.found);
    const count = (counts.get(target) ?? 0) + 1;
    counts.set(target, count);
    const to = target.replace(/#+/g, (signs) => String(count).padStart(signs.length, '0'));
    if (to !== name) renamings.push({ node, from: name, to });
  }
  renamings.sort((x, y) => x.node - y.node);
  const clashes = clashesOf(character, new Map(renamings.map(({ node, to }) => [node, to])));
  return { renamings, clashes, unknown: Object.keys(table).filter((key) => !used.has(key)) };
}

/** An old name with stars as an expression over the whole name. */
const patternOfOld = (old: string) => wildcardPattern(old, { '*': '(.*?)' });

function firstMatch(
  patterns: readonly { old: string; expression: NamePattern }[],
  name: string,
): { old: string; found: string[] } | null {
  for (const { old, expression } of patterns) {
    const found = expression.exec(name);
    if (found) return { old, found: found.slice(1) };
  }
  return null;
}

/** The stars of a new name filled with what those of the old one stood for, in order. */
function withMatches(target: string, found: readonly string[]): string {
  let k = 0;
  return found.length === 0 ? target : target.replaceAll('*', () => found[Math.min(k++, found.length - 1)]);
}

/** A name of a table, old or new, as an expression over whole names. */
const expressionOf = (name: string) => wildcardPattern(name, { '*': '.*', '#': '\\d+' });

/**
 * Renames nodes by a table. Clips, vertex groups and sets hold nodes, not names, and so follow by themselves.
 */
export const rename = defineRemedy({
  id: 'rename',
  room: 'skeleton',
  title: 'Rename from a table',
  does: 'Every old name in the table becomes its new one; vertex groups, clips and sets follow. “*” stands for any letters, “#” counts.',
  params: object({
    table: mixed<Record<string, string>>(
      (x): x is Record<string, string> =>
        !!x && typeof x === 'object' && Object.values(x).every((value) => typeof value === 'string'),
    )
      .default({})
      .meta({ label: 'Old → new' }),
    bones: refsTo('bone', 'Bones that it is for; all where none is named'),
  }),
  rows(character, { table, bones }) {
    const patterns = Object.keys(table).filter((old) => old.includes('*'));
    const expressions = [...patterns, ...Object.values(table)].map(expressionOf);
    const names = new Set([...Object.keys(table), ...Object.values(table)]);
    const isConcerned = (name: string) =>
      names.has(name) || expressions.some((expression) => expression.test(name));
    const isMeant = bones && new Set(bones);
    const named = character.nodes.flatMap(({ name }, i) =>
      (isMeant ? isMeant.has(i) : isConcerned(name)) ? [{ label: `Node ${i}`, value: name, unit: '' }] : [],
    );
    return named.slice(0, 200);
  },
  promises: () => promise(['names']),
  apply(character, { table, bones }) {
    const plan = planRenaming(character, table, bones);
    if (plan.renamings.length === 0)
      throw new RemedyError(
        'No name in the table belongs to this character; give at least one old name and its new one.',
      );
    return renamed(character, new Map(plan.renamings.map(({ node, to }) => [node, to])));
  },
});
