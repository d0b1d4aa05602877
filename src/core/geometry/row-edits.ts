/**
 * Exact edits of a point's weights. A row holds the share of every joint, sums to one and is changed as a whole: what one joint
 * gains the others lose in proportion, and what it loses they gain. Locked joints keep what they have.
 */

/** Joint → its share, 0 … 1, above 0. */
export type WeightShares = Map<number, number>;

/** What an edit has to respect. */
export interface EditRules {
  /** Joints whose shares must stay as they are. */
  readonly locked: ReadonlySet<number>;
  /** The joint that takes what nobody else at the point can take; −1 for none: the weight then stays. */
  readonly otherwise: number;
}

/** Shares below this are none. */
const NONE = 1e-6;

/** A row brought to a sum of one; empty where it has nothing. */
export function normalisedShares(row: WeightShares): WeightShares {
  let sum = 0;
  for (const share of row.values()) sum += share;
  if (!(sum > NONE)) return new Map();
  const out: WeightShares = new Map();
  for (const [joint, share] of row) if (share / sum > NONE) out.set(joint, share / sum);
  return out;
}

/**
 * A row in which one joint has a share, as nearly as the locked ones allow.
 * @param row sums to one, or is empty
 * @param wanted 0 … 1
 */
export function withShare(
  row: WeightShares,
  joint: number,
  wanted: number,
  { locked, otherwise }: EditRules,
): WeightShares {
  if (locked.has(joint)) return row;
  let held = 0;
  let free = 0;
  for (const [other, share] of row) {
    if (other === joint) continue;
    if (locked.has(other)) held += share;
    else free += share;
  }
  const aim = Math.min(Math.max(wanted, 0), 1 - held);
  const rest = Math.max(0, 1 - held - aim);
  const out: WeightShares = new Map();
  for (const [other, share] of row) if (other !== joint && locked.has(other)) out.set(other, share);
  // Nobody is there to take it.
  if (rest > NONE && free <= NONE) {
    const takes = otherwise >= 0 && otherwise !== joint && !locked.has(otherwise);
    if (!takes) return row.size > 0 ? row : new Map([[joint, 1]]);
    out.set(otherwise, (out.get(otherwise) ?? 0) + rest);
  }
  if (aim > NONE) out.set(joint, aim);
  if (free > NONE)
    for (const [other, share] of row) {
      const scaled = (share / free) * rest;
      if (other !== joint && !locked.has(other) && scaled > NONE) out.set(other, scaled);
    }
  return normalisedShares(out);
}

/** The mean of rows; each is brought to one before, and what has no weight does not count. */
export function meanShares(rows: Iterable<WeightShares>): WeightShares {
  const sum: WeightShares = new Map();
  for (const row of rows)
    for (const [joint, share] of normalisedShares(row)) sum.set(joint, (sum.get(joint) ?? 0) + share);
  return normalisedShares(sum);
}

/** A row part of the way from one to another. */
export function blendedShares(from: WeightShares, to: WeightShares, way: number): WeightShares {
  const out: WeightShares = new Map();
  for (const [joint, share] of from) out.set(joint, share * (1 - way));
  for (const [joint, share] of to) out.set(joint, (out.get(joint) ?? 0) + share * way);
  return normalisedShares(out);
}

/**
 * A row that goes towards another as far as the locked joints allow: those keep their shares, and the others part among them
 * what is left as the other row has them.
 */
export function towardsShares(
  from: WeightShares,
  to: WeightShares,
  way: number,
  locked: ReadonlySet<number>,
): WeightShares {
  const blend = blendedShares(from, to, way);
  if (locked.size === 0 || from.size === 0) return blend;
  let held = 0;
  let free = 0;
  for (const [joint, share] of from) if (locked.has(joint)) held += share;
  for (const [joint, share] of blend) if (!locked.has(joint)) free += share;
  if (free <= NONE) return from;
  const out: WeightShares = new Map();
  for (const [joint, share] of from) if (locked.has(joint)) out.set(joint, share);
  for (const [joint, share] of blend) if (!locked.has(joint)) out.set(joint, (share / free) * (1 - held));
  return normalisedShares(out);
}

const NONE_LOCKED: ReadonlySet<number> = new Set();

/** The heaviest of a row, and what is locked, brought to one again. Of equal shares those that came first stay. */
export function limitedShares(
  row: WeightShares,
  limit: number,
  locked: ReadonlySet<number> = NONE_LOCKED,
): WeightShares {
  if (row.size <= limit) return row;
  const free = [...row].filter(([joint]) => !locked.has(joint));
  const room = Math.max(row.size === free.length ? 1 : 0, limit - (row.size - free.length));
  const heaviest = free.sort((a, b) => b[1] - a[1]).slice(0, room);
  const kept = new Set(heaviest.map(([joint]) => joint));
  const left = new Map([...row].filter(([joint]) => kept.has(joint) || locked.has(joint)));
  // What went is shared by those that are free, so that locked ones keep what they have.
  const held = [...left].reduce((sum, [joint, share]) => sum + (locked.has(joint) ? share : 0), 0);
  const rest = [...left].reduce((sum, [joint, share]) => sum + (kept.has(joint) ? share : 0), 0);
  if (held === 0 || rest <= NONE) return normalisedShares(left);
  for (const joint of kept) left.set(joint, ((left.get(joint) as number) / rest) * (1 - held));
  return normalisedShares(left);
}

/** A row without its lightest shares, brought to one again; one that has nothing else keeps its heaviest. */
export function sweptShares(row: WeightShares, least: number): WeightShares {
  const kept = [...row].filter(([, share]) => share >= least);
  if (kept.length === row.size) return row;
  const heaviest = [...row].sort((a, b) => b[1] - a[1]).slice(0, 1);
  return normalisedShares(new Map(kept.length > 0 ? kept : heaviest));
}

/** Whether two rows differ by anything that single precision tells. */
export function sameShares(one: WeightShares, other: WeightShares): boolean {
  if (one.size !== other.size) return false;
  for (const [joint, share] of one) if (Math.abs((other.get(joint) ?? -1) - share) > NONE) return false;
  return true;
}
