/** Which pairs of two skeletons are right, and how many of them a matching found. */
import { readName } from '../../core/anatomy/names';
import type { Skeleton } from '../../core/anatomy/skeleton';
import type { BonePair } from '../../core/anatomy/match';

/** What the bones of the shipped skeletons are, by their names. */
export function rolesOfShipped(skeleton: Skeleton): (string | null)[] {
  const counts = new Map<string, number>();
  return skeleton.bones.map((bone) => {
    const role = ROLE_BY_NAME.get(bone.name) ?? roleFromName(bone.name);
    if (!role) return null;
    const count = (counts.get(role) ?? 0) + 1;
    counts.set(role, count);
    const [part, side] = role.split('/');
    return `${part} ${count} ${side}`;
  });
}

const ROLE_BY_NAME: ReadonlyMap<string, string> = new Map([
  ['chest', 'spine/middle'],
  ['upperChest', 'spine/middle'],
  ['spine', 'spine/middle'],
]);

function roleFromName(name: string): string | null {
  const reading = readName(name);
  if (reading.twist || !reading.part || ['root', 'jaw', 'eye'].includes(reading.part)) return null;
  return `${reading.part}/${reading.side}`;
}

/** What came of one matching. */
export interface Score {
  /** Bones that have a counterpart, and those of them that got it. */
  readonly wanted: number;
  readonly right: number;
  /** Pairs that were said, of those that can be judged, with how sure they were. */
  readonly said: readonly {
    readonly confidence: number;
    readonly isRight: boolean;
    readonly pair: BonePair;
  }[];
  /** Left and right exchanged. */
  readonly crossed: number;
  readonly wrong: readonly string[];
}

const trunk = (role: string) => /^(spine|neck|tail) /.test(role);
const groupOf = (role: string) => role.replace(/ \d+ /, ' ');

/** Judges pairs by roles. A chain of the trunk that has another number of bones on both sides is not judged. */
export function judge(
  source: Skeleton,
  sourceRoles: readonly (string | null)[],
  target: Skeleton,
  targetRoles: readonly (string | null)[],
  pairs: readonly BonePair[],
  extraTrunk: ReadonlySet<string>,
): Score {
  const count = (roles: readonly (string | null)[]) => {
    const out = new Map<string, number>();
    for (const role of roles) if (role) out.set(groupOf(role), (out.get(groupOf(role)) ?? 0) + 1);
    return out;
  };
  const [mine, theirs] = [count(sourceRoles), count(targetRoles)];
  const isJudged = (role: string) =>
    !trunk(role) || (mine.get(groupOf(role)) === theirs.get(groupOf(role)) && !extraTrunk.has(groupOf(role)));
  // Chains are numbered from the body out on both sides.
  const ordered = renumbered(sourceRoles);
  const targetOf = new Map<string, number>();
  renumbered(targetRoles).forEach((role, j) => {
    if (role) targetOf.set(role, j);
  });
  const found = new Map(pairs.map((pair) => [pair.source, pair]));
  let wanted = 0;
  let right = 0;
  let crossed = 0;
  const said: { confidence: number; isRight: boolean; pair: BonePair }[] = [];
  const wrong: string[] = [];
  ordered.forEach((role, i) => {
    const pair = found.get(i);
    if (role && !isJudged(role)) return;
    const want = role ? (targetOf.get(role) ?? -1) : -1;
    const isExtraTrunk = !role && pair && trunk(targetRoles[pair.target] ?? '');
    const isRoot = !role && pair && !targetRoles[pair.target];
    if (want >= 0) wanted++;
    if (pair && !isExtraTrunk && !isRoot)
      said.push({ confidence: pair.confidence, isRight: pair.target === want, pair });
    if (want >= 0 && pair?.target === want) right++;
    else if (want >= 0 || (pair && !isExtraTrunk && !isRoot)) {
      const to = pair ? (targetRoles[pair.target] ?? target.bones[pair.target].name) : 'nothing';
      wrong.push(`${source.bones[i].name} (${role ?? 'extra'}) → ${to}`);
      if (role && pair && targetRoles[pair.target] === exchanged(role)) crossed++;
    }
  });
  return { wanted, right, said, crossed, wrong };
}

const exchanged = (role: string) =>
  role.endsWith('left') ? role.replace(/left$/, 'right') : role.replace(/right$/, 'left');

function renumbered(roles: readonly (string | null)[]): (string | null)[] {
  const groups = new Map<string, { i: number; n: number }[]>();
  roles.forEach((role, i) => {
    if (!role) return;
    const value = Number(/ (\d+) /.exec(role)?.[1]);
    groups.set(groupOf(role), [...(groups.get(groupOf(role)) ?? []), { i, n: value }]);
  });
  const out: (string | null)[] = roles.map(() => null);
  for (const [group, list] of groups)
    list
      .sort((a, b) => a.n - b.n)
      .forEach(({ i }, k) => {
        const [part, side] = group.split(' ');
        out[i] = `${part} ${k + 1} ${side}`;
      });
  return out;
}
