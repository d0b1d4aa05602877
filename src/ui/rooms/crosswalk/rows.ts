/** What the table of pairs shows, row by row: groups with their heads, or one sorted list. */
import { type Crosswalk, RULE_KINDS, type Rule } from '@/core/anatomy/crosswalk';
import type { BoneGroup } from '@/core/anatomy/limbs';
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

export type PairListRow = HeadRow | PairRow;

/** Id of the group of what wants a look, which stands before the limbs. */
export const LOOK = 'look';

export const doubtAt = ({ crosswalk, shown, allowed }: Pairing, bone: number): Doubt | null =>
  doubtOf(crosswalk[bone], shown[bone] ?? null, allowed);

export interface PairQuery {
  readonly filter: Filter;
  readonly find: string;
  readonly sort: Sort;
  readonly limbs: readonly BoneGroup[];
  /** Bones that have wanted a look. */
  readonly listed: ReadonlySet<number>;
  /** Groups that are turned from how they are at first. */
  readonly turned: ReadonlySet<string>;
}

/** Groups of more bones than this that only come along are closed at first. */
const MANY = 8;

export function rowsOf(pairing: Pairing, asked: PairQuery): PairListRow[] {
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
    const bones = crosswalk.map((rule) => rule.source).filter(isWanted);
    return bones.sort(orderOf(pairing, asked.sort)).map((bone) => pair(bone, ''));
  }
  return groupsOf(asked, isWanted).flatMap(({ id, title, side, bones }): PairListRow[] => {
    const isClosed = needle === '' && isClosedAtFirst(id, bones) !== asked.turned.has(id);
    const open = bones.filter((bone) => doubtAt(pairing, bone) !== null).length;
    const head: HeadRow = { kind: 'head', id, title, side, bones, open, isClosed };
    return isClosed ? [head] : [head, ...bones.map((bone) => pair(bone, id))];
  });
}

/** What only comes along, and is many: a coat’s bones. */
const isClosedAtFirst = (id: string, bones: readonly number[]) => id.startsWith('on ') && bones.length > MANY;

/** What wants a look, in the order of the limbs; then the limbs with what is left of them. */
function groupsOf({ filter, limbs, listed }: PairQuery, isWanted: (bone: number) => boolean): BoneGroup[] {
  const hasOwn = filter === 'all' && listed.size > 0;
  const isLeft = (bone: number) => isWanted(bone) && !(hasOwn && listed.has(bone));
  const looks = limbs.flatMap((limb) => limb.bones).filter((b) => listed.has(b) && isWanted(b));
  const first: BoneGroup[] = hasOwn ? [{ id: LOOK, title: 'Wants a look', side: 0, bones: looks }] : [];
  return [...first, ...limbs.map((limb) => ({ ...limb, bones: limb.bones.filter(isLeft) }))].filter(
    (limb) => limb.bones.length > 0,
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
export const limbOf = (limbs: readonly BoneGroup[], bone: number): BoneGroup | undefined =>
  limbs.find((limb) => limb.bones.includes(bone));
