/** What the table of pairs shows, row by row: groups with their heads, or one sorted list. */
import { type Crosswalk, RULE_KINDS, type Rule } from '@/core/anatomy/crosswalk';
import type { Limb } from '@/core/anatomy/limbs';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { type Doubt, doubtOf } from '@/core/rooms/crosswalk/doubts';
import type { BoneProof } from '@/core/rooms/crosswalk/proof';

export type Filter = 'all' | 'look' | 'keep' | 'release' | 'waiting';
export type Sort = 'limb' | 'name' | 'rule' | 'sure';

/** A pairing with what the proof shows of it. */
export interface Pairing {
  readonly source: Skeleton;
  readonly skeleton: Skeleton;
  readonly crosswalk: Crosswalk;
  readonly shown: readonly (BoneProof | null)[];
  /** How far a point may lie off, metres. */
  readonly allowed: number;
}

export interface HeadRow {
  readonly kind: 'head';
  readonly id: string;
  readonly title: string;
  readonly side: -1 | 0 | 1;
  /** Bones of the source in the group. */
  readonly bones: readonly number[];
  /** How many of them want a look. */
  readonly open: number;
  readonly isClosed: boolean;
}

export interface PairRow {
  readonly kind: 'pair';
  readonly rule: Rule;
  readonly doubt: Doubt | null;
  /** Group that it stands in. */
  readonly group: string;
}

export type Row = HeadRow | PairRow;

/** Id of the group of what wants a look, which stands before the limbs. */
export const LOOK = 'look';

export const doubtAt = ({ crosswalk, shown, allowed }: Pairing, bone: number): Doubt | null =>
  doubtOf(crosswalk[bone], shown[bone] ?? null, allowed);

export interface Asked {
  readonly filter: Filter;
  readonly find: string;
  readonly sort: Sort;
  readonly limbs: readonly Limb[];
  /** Bones that have wanted a look. */
  readonly listed: ReadonlySet<number>;
  /** Groups that are turned from how they are at first. */
  readonly turned: ReadonlySet<string>;
}

/** Groups of more bones than this that only come along are closed at first. */
const MANY = 8;

export function rowsOf(pairing: Pairing, asked: Asked): Row[] {
  const { source, skeleton, crosswalk } = pairing;
  const needle = asked.find.trim().toLowerCase();
  const nameOf = (bone: number) => source.bones[bone].name.toLowerCase();
  const isWanted = (bone: number) => {
    const rule = crosswalk[bone];
    if (asked.filter === 'look' && !asked.listed.has(bone)) return false;
    if ((asked.filter === 'keep' || asked.filter === 'release') && rule.kind !== asked.filter) return false;
    const theirs = rule.target < 0 ? '' : skeleton.bones[rule.target].name.toLowerCase();
    return nameOf(bone).includes(needle) || theirs.includes(needle);
  };
  const pair = (bone: number, group: string): PairRow => ({
    kind: 'pair',
    rule: crosswalk[bone],
    doubt: doubtAt(pairing, bone),
    group,
  });
  if (asked.sort !== 'limb') {
    const bones = crosswalk.map((r) => r.source).filter(isWanted);
    return bones.sort(orderOf(pairing, asked.sort)).map((b) => pair(b, ''));
  }
  return groupsOf(asked, isWanted).flatMap(({ id, title, side, bones }): Row[] => {
    const isClosed = needle === '' && isClosedAtFirst(id, bones) !== asked.turned.has(id);
    const open = bones.filter((b) => doubtAt(pairing, b) !== null).length;
    const head: HeadRow = { kind: 'head', id, title, side, bones, open, isClosed };
    return isClosed ? [head] : [head, ...bones.map((b) => pair(b, id))];
  });
}

/** What only comes along, and is many: a coat’s bones. */
const isClosedAtFirst = (id: string, bones: readonly number[]) => id.startsWith('on ') && bones.length > MANY;

/** What wants a look, in the order of the limbs; then the limbs with what is left of them. */
function groupsOf({ filter, limbs, listed }: Asked, isWanted: (bone: number) => boolean): Limb[] {
  const hasOwn = filter === 'all' && listed.size > 0;
  const isLeft = (bone: number) => isWanted(bone) && !(hasOwn && listed.has(bone));
  const looks = limbs.flatMap((l) => l.bones).filter((b) => listed.has(b) && isWanted(b));
  const first: Limb[] = hasOwn ? [{ id: LOOK, title: 'Wants a look', side: 0, bones: looks }] : [];
  return [...first, ...limbs.map((l) => ({ ...l, bones: l.bones.filter(isLeft) }))].filter(
    (g) => g.bones.length > 0,
  );
}

function orderOf({ source, crosswalk, shown }: Pairing, sort: Sort): (a: number, b: number) => number {
  const name = (b: number) => source.bones[b].name;
  const rule = (b: number) => RULE_KINDS.indexOf(crosswalk[b].kind);
  const off = (b: number) => shown[b]?.max ?? 0;
  if (sort === 'name') return (a, b) => name(a).localeCompare(name(b), 'en', { numeric: true });
  if (sort === 'rule') return (a, b) => rule(a) - rule(b) || a - b;
  return (a, b) => off(b) - off(a) || crosswalk[a].confidence - crosswalk[b].confidence || a - b;
}

/** The group that a bone stands in, by the limbs alone. */
export const limbOf = (limbs: readonly Limb[], bone: number): Limb | undefined =>
  limbs.find((l) => l.bones.includes(bone));
