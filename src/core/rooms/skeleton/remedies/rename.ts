import { mixed, object } from 'yup';
import { RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import type { Character } from '../../../character/model';

/** A name and what it becomes. */
export interface Renaming {
  readonly node: number;
  readonly from: string;
  readonly to: string;
}

/**
 * What a table of old → new names does to a character: the renamings, and the clashes that forbid them. Two
 * names may change places; a new name may not meet one that stays.
 */
export function planRenaming(
  character: Character,
  table: Readonly<Record<string, string>>,
): { renamings: Renaming[]; clashes: string[]; unknown: string[] } {
  const renamings: Renaming[] = [];
  const used = new Set<string>();
  character.nodes.forEach((n, node) => {
    if (!Object.hasOwn(table, n.name)) return;
    used.add(n.name);
    if (table[n.name] !== n.name) renamings.push({ node, from: n.name, to: table[n.name] });
  });
  const changing = new Map(renamings.map((r) => [r.node, r.to]));
  const count = new Map<string, number>();
  character.nodes.forEach((n, i) => {
    const name = changing.get(i) ?? n.name;
    if (n.kind === 'bone') count.set(name, (count.get(name) ?? 0) + 1);
  });
  const clashes = [
    ...new Set(
      renamings
        .filter((r) => character.nodes[r.node].kind === 'bone' && (count.get(r.to) ?? 0) > 1)
        .map((r) => r.to),
    ),
  ];
  return { renamings, clashes, unknown: Object.keys(table).filter((k) => !used.has(k)) };
}

/**
 * Renames nodes by a table. Clips, vertex groups and sets hold nodes, not names, and so follow by themselves.
 */
export const rename = defineRemedy({
  id: 'rename',
  room: 'skeleton',
  title: 'Rename from a table',
  does: 'Every old name in the table becomes its new one; vertex groups, clips and sets follow.',
  params: object({
    table: mixed<Record<string, string>>(
      (x): x is Record<string, string> =>
        !!x && typeof x === 'object' && Object.values(x).every((v) => typeof v === 'string'),
    )
      .default({})
      .meta({ label: 'Old → new' }),
  }),
  rows(character, { table }) {
    const concerned = new Set([...Object.keys(table), ...Object.values(table)]);
    const named = character.nodes.flatMap((n, i) => (concerned.has(n.name) ? [{ n, i }] : []));
    return named.slice(0, 200).map(({ n, i }) => ({ label: `Node ${i}`, value: n.name, unit: '' }));
  },
  promises: () => promise(['names']),
  apply(character, { table }) {
    const plan = planRenaming(character, table);
    const empty = plan.renamings.find((r) => r.to.trim() === '');
    if (empty) throw new RemedyError(`“${empty.from}” would be left without a name; give it one.`);
    if (plan.clashes.length > 0)
      throw new RemedyError(
        `Two bones would be called “${plan.clashes[0]}”; choose another name for one of them.`,
      );
    if (plan.renamings.length === 0)
      throw new RemedyError(
        'No name in the table belongs to this character; give at least one old name and its new one.',
      );
    const to = new Map(plan.renamings.map((r) => [r.node, r.to]));
    return {
      ...character,
      nodes: character.nodes.map((n, i) => (to.has(i) ? { ...n, name: to.get(i) as string } : n)),
    };
  },
});
