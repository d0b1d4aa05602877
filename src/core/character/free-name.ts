import type { Character } from './model';

/** A name that no node has: the one that is wanted, or that with a number behind it. */
export function freeName({ nodes }: Pick<Character, 'nodes'>, wanted: string): string {
  const taken = new Set(nodes.map((node) => node.name));
  let name = wanted;
  for (let k = 2; taken.has(name); k++) name = `${wanted}_${k}`;
  return name;
}
