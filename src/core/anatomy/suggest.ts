import { type NameReading, readName, tokensOf } from './names';
import { type Crosswalk, type Rule, carriesBelow, tidy } from './crosswalk';
import { type Skeleton, bonesAbove, childrenOfBones } from './skeleton';

interface BoneFacts {
  readonly reading: NameReading;
  readonly plain: string;
  /** Place in a frame where the skeleton's height is 1 and its middle is at x = 0. */
  readonly place: readonly [number, number, number];
  /**
   * Length of the way from the root, and of the longest way on to a tip; the longest way of all is 1. Both
   * are the same in every stance.
   */
  readonly way: number;
  readonly below: number;
  readonly leaves: number;
  /** Place among the bones of the same part and side, 0 … 1, and their number. */
  readonly rank: number;
  readonly alike: number;
}

/** A joint-named skeleton calls the upper arm “shoulder”; one that knows elbows and no upper arm does so. */
function readings(skeleton: Skeleton): NameReading[] {
  const list = skeleton.bones.map((b) => readName(b.name));
  const upper = list.some((r) => r.part === 'upperarm');
  const lower = list.some((r) => r.part === 'lowerarm');
  return list.map((r) =>
    r.part === 'collar' && !upper && lower && r.tokens.includes('shoulder') ? { ...r, part: 'upperarm' } : r,
  );
}

function factsOf(skeleton: Skeleton, turn: number): BoneFacts[] {
  const { bones } = skeleton;
  const read = readings(skeleton);
  const children = childrenOfBones(skeleton);
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const turned = bones.map(({ place: [x, y, z] }) => [c * x + s * z, y, c * z - s * x]);
  const min = [0, 1, 2].map((k) => Math.min(...turned.map((p) => p[k])));
  const max = [0, 1, 2].map((k) => Math.max(...turned.map((p) => p[k])));
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2], 1e-6);
  const height = max[1] - min[1] > 0.5 * size ? max[1] - min[1] : size;
  const middle = [(min[0] + max[0]) / 2, min[1], turned[0] ? (min[2] + max[2]) / 2 : 0];
  const span = (i: number) =>
    bones[i].parent < 0
      ? 0
      : Math.hypot(...[0, 1, 2].map((k) => bones[i].place[k] - bones[bones[i].parent].place[k]));
  const way = new Float64Array(bones.length);
  const below = new Float64Array(bones.length);
  const leaves = new Float64Array(bones.length);
  bones.forEach((b, i) => {
    if (b.parent >= 0) way[i] = way[b.parent] + span(i);
  });
  for (let i = bones.length - 1; i >= 0; i--) {
    if (children[i].length === 0) leaves[i] = 1;
    for (const k of children[i]) {
      below[i] = Math.max(below[i], below[k] + span(k));
      leaves[i] += leaves[k];
    }
  }
  const longest = Math.max(...way, 1e-6);
  const groups = new Map<string, number[]>();
  bones.forEach((_, i) => {
    const r = read[i];
    if (!r.part || r.twist || r.end) return;
    const key = `${r.part}/${r.side}`;
    groups.set(key, [...(groups.get(key) ?? []), i]);
  });
  const rank = new Float64Array(bones.length);
  const alike = new Float64Array(bones.length).fill(1);
  for (const group of groups.values()) {
    const sorted = [...group].sort(
      (a, b) =>
        read[a].rank - read[b].rank ||
        bonesAbove(skeleton, a).length - bonesAbove(skeleton, b).length ||
        a - b,
    );
    sorted.forEach((b, k) => {
      rank[b] = group.length > 1 ? k / (group.length - 1) : 0;
      alike[b] = group.length;
    });
  }
  return bones.map((b, i) => ({
    reading: read[i],
    plain: tokensOf(b.name).join(' '),
    place: [0, 1, 2].map((k) => (turned[i][k] - middle[k]) / height) as [number, number, number],
    way: way[i] / longest,
    below: below[i] / longest,
    leaves: leaves[i],
    rank: rank[i],
    alike: alike[i],
  }));
}

/**
 * The source's places scaled and moved so that pairs lie on each other as well as can be (least squares), and
 * its ways scaled alike.
 */
function laidOver(
  s: readonly BoneFacts[],
  t: readonly BoneFacts[],
  pairs: ReadonlyMap<number, number>,
): BoneFacts[] {
  const list = [...pairs];
  if (list.length < 4) return [...s];
  const mean = (f: readonly BoneFacts[], of: (p: [number, number]) => number) =>
    [0, 1, 2].map((k) => list.reduce((sum, p) => sum + f[of(p)].place[k], 0) / list.length);
  const ms = mean(s, (p) => p[0]);
  const mt = mean(t, (p) => p[1]);
  let up = 0;
  let down = 0;
  let ways = 0;
  let wayUp = 0;
  for (const [i, j] of list) {
    for (let k = 0; k < 3; k++) {
      const a = s[i].place[k] - ms[k];
      up += a * (t[j].place[k] - mt[k]);
      down += a * a;
    }
    wayUp += s[i].way * t[j].way;
    ways += s[i].way * s[i].way;
  }
  const scale = up > 0 && down > 0 ? Math.min(2, Math.max(0.5, up / down)) : 1;
  const stretch = ways > 0 && wayUp > 0 ? Math.min(2, Math.max(0.5, wayUp / ways)) : 1;
  return s.map((b) => ({
    ...b,
    place: [0, 1, 2].map((k) => mt[k] + (b.place[k] - ms[k]) * scale) as [number, number, number],
    way: b.way * stretch,
    below: b.below * stretch,
  }));
}

const bell = (x: number, width: number) => Math.exp(-((x / width) ** 2));

interface NameScore {
  readonly score: number;
  readonly reason: string;
  readonly known: boolean;
}

/** Places along a chain of equal length, as shares of it: the same place, or how near. */
const scoreOfRank = (apart: number) => (apart < 1e-6 ? 0.97 : 0.45 * bell(apart, 0.5));

/**
 * How well two names agree: 1 for the same, 0 where they contradict each other; `known` is false where they
 * say nothing.
 */
function compareNames(a: BoneFacts, b: BoneFacts): NameScore {
  if (a.plain !== '' && a.plain === b.plain) return { score: 1, reason: 'same name', known: true };
  const [r, q] = [a.reading, b.reading];
  if (r.part && q.part) {
    if (r.part !== q.part || r.side !== q.side) return { score: 0, reason: '', known: true };
    if (r.twist !== q.twist || r.end !== q.end) return { score: 0.1, reason: '', known: true };
    const apart = Math.abs(a.rank - b.rank);
    const score = a.alike === b.alike ? scoreOfRank(apart) : 0.95 - 0.9 * Math.min(1, apart);
    const side = r.side === 'middle' ? '' : `${r.side} `;
    return {
      score,
      reason: `both names say ${side}${r.part}${a.alike > 1 ? `, place ${Math.round(a.rank * (a.alike - 1)) + 1} of ${a.alike}` : ''}`,
      known: true,
    };
  }
  const mine = new Set(r.tokens);
  const yours = new Set(q.tokens);
  const shared = [...mine].filter((t) => yours.has(t) && !/^\d+$/.test(t));
  if (shared.length > 0 && r.side === q.side && r.end === q.end) {
    return {
      score: 0.75 * (shared.length / Math.max(mine.size, yours.size)),
      reason: `names share “${shared.join(' ')}”`,
      known: true,
    };
  }
  return {
    score: r.side !== q.side && r.side !== 'middle' && q.side !== 'middle' ? 0 : 0.3,
    reason: '',
    known: false,
  };
}

/** A pair's score where names speak; one that contradicts leaves shape almost nothing to say. */
function scoreWithName(name: NameScore, shape: number, place: number, tree: number): number {
  if (!name.known) return 0.4 * shape;
  if (name.score === 0) return 0.05 * shape;
  return 0.72 * name.score + 0.14 * place + 0.14 * tree;
}

function nearnessInWords(place: number): string[] {
  if (place > 0.5) return ['joints lie together'];
  return place > 0.1 ? ['joints lie near each other'] : [];
}

/** A clear lead over the next best makes surer, a tie less sure. */
function bonusOfMargin(margin: number): number {
  if (margin > 0.15) return 0.05;
  return margin < 0.02 ? -0.12 : 0;
}

interface Score {
  readonly total: Float64Array;
  readonly names: NameScore[][];
  readonly places: Float64Array;
  readonly trees: Float64Array;
}

function scoresOf(source: readonly BoneFacts[], target: readonly BoneFacts[], named: boolean): Score {
  const n = target.length;
  const total = new Float64Array(source.length * n);
  const places = new Float64Array(source.length * n);
  const trees = new Float64Array(source.length * n);
  const names = source.map((s, i) =>
    target.map((t, j) => {
      const name = compareNames(s, t);
      const place = bell(
        Math.hypot(s.place[0] - t.place[0], s.place[1] - t.place[1], s.place[2] - t.place[2]),
        0.09,
      );
      const tree =
        bell(s.way - t.way, 0.12) *
        bell(s.below - t.below, 0.12) *
        bell(Math.log2(Math.max(1, s.leaves)) - Math.log2(Math.max(1, t.leaves)), 1.5);
      places[i * n + j] = place;
      trees[i * n + j] = tree;
      const shape = 0.6 * place + 0.4 * tree;
      // With names that speak, a name that says nothing is a bone of another kind (cloth, props) more often
      // than a counterpart.
      total[i * n + j] = named ? scoreWithName(name, shape, place, tree) : shape;
      return name;
    }),
  );
  return { total, names, places, trees };
}

/**
 * Pairs of different bones taken best first; none below the least score, none that turns the tree upside
 * down.
 */
function assign(
  source: Skeleton,
  target: Skeleton,
  total: Float64Array,
  least: number,
  fixed: ReadonlyMap<number, number>,
): Map<number, number> {
  const n = target.bones.length;
  const above = (k: Skeleton) => k.bones.map((_, i) => new Set(bonesAbove(k, i)));
  const [sa, ta] = [above(source), above(target)];
  const pairs: [number, number, number][] = [];
  for (let i = 0; i < source.bones.length; i++)
    for (let j = 0; j < n; j++) if (total[i * n + j] >= least) pairs.push([total[i * n + j], i, j]);
  pairs.sort((a, b) => b[0] - a[0] || a[1] - b[1] || a[2] - b[2]);
  const out = new Map(fixed);
  const taken = new Set(fixed.values());
  for (const [, i, j] of pairs) {
    if (out.has(i) || taken.has(j)) continue;
    let upside = false;
    for (const [s, t] of out) upside ||= (sa[i].has(s) && ta[t].has(j)) || (sa[s].has(i) && ta[j].has(t));
    if (upside) continue;
    out.set(i, j);
    taken.add(j);
  }
  return out;
}

/**
 * Raises pairs whose parents are paired and that stand alike to them, and lowers the others: shape seen from
 * the nearest matched bone.
 */
function refine(
  source: Skeleton,
  target: Skeleton,
  s: readonly BoneFacts[],
  t: readonly BoneFacts[],
  base: Float64Array,
  pairs: ReadonlyMap<number, number>,
): Float64Array {
  const n = target.bones.length;
  const out = new Float64Array(base.length);
  const matched = new Set(pairs.values());
  const anchorS = source.bones.map((_, i) => bonesAbove(source, i).find((b) => pairs.has(b)) ?? -1);
  const anchorT = target.bones.map((_, j) => bonesAbove(target, j).find((b) => matched.has(b)) ?? -1);
  const reach = (f: readonly BoneFacts[], anchor: number) => Math.max(f[anchor].below, 0.02);
  for (let i = 0; i < source.bones.length; i++) {
    for (let j = 0; j < n; j++) {
      const at = i * n + j;
      if (base[at] < 0.02) {
        out[at] = base[at];
        continue;
      }
      const a = anchorS[i];
      const b = anchorT[j];
      if (a < 0 || b < 0 || pairs.get(a) !== b) {
        out[at] = base[at] * (a < 0 && b < 0 ? 1 : 0.8);
        continue;
      }
      const ra = reach(s, a);
      const rb = reach(t, b);
      const d = Math.hypot(
        ...[0, 1, 2].map((k) => (s[i].place[k] - s[a].place[k]) / ra - (t[j].place[k] - t[b].place[k]) / rb),
      );
      out[at] = 0.6 * base[at] + 0.4 * bell(d, 0.35) * Math.min(1, base[at] + 0.4);
    }
  }
  return out;
}

/**
 * Proposes a rule for every bone of the source. Names (side, part, place in the chain, synonyms), the shape
 * of the tree and the places of the joints vote; where the names of either side say little, shape decides
 * alone. Rules in `locked` stay.
 */
export function suggest(source: Skeleton, target: Skeleton, locked: Crosswalk = []): Crosswalk {
  const held = new Map(locked.filter((r) => r.locked).map((r) => [r.source, r]));
  const t = factsOf(target, 0);
  const speaking = (f: readonly BoneFacts[]) =>
    f.filter((b) => b.reading.part !== '').length / Math.max(1, f.length);
  let s = factsOf(source, 0);
  const same = s.filter((a) => t.some((b) => b.plain === a.plain && a.plain !== '')).length;
  const named = (speaking(s) > 0.2 && speaking(t) > 0.3) || same > 0.5 * Math.min(s.length, t.length);
  // Facing: the quarter turn under which the joints lie best on each other; straight ahead wins a draw.
  const fit = (f: readonly BoneFacts[]) =>
    f.reduce(
      (sum, a) =>
        sum +
        Math.max(...t.map((b) => bell(Math.hypot(...[0, 1, 2].map((k) => a.place[k] - b.place[k])), 0.06))),
      0,
    );
  let best = fit(s) * 1.08;
  for (const turn of [Math.PI / 2, Math.PI, -Math.PI / 2]) {
    const f = factsOf(source, turn);
    if (fit(f) > best) {
      best = fit(f);
      s = f;
    }
  }
  let scores = scoresOf(s, t, named);
  const fixed = new Map(
    [...held.values()].filter((r) => r.kind === 'carry' && r.target >= 0).map((r) => [r.source, r.target]),
  );
  const blocked = new Set([...held.values()].filter((r) => r.kind !== 'carry').map((r) => r.source));
  const n = t.length;
  const open = (total: Float64Array): Float64Array =>
    total.map((x, at) => (blocked.has(Math.floor(at / n)) ? 0 : x));
  const least = named ? 0.45 : 0.3;
  let base = open(scores.total);
  let pairs = assign(source, target, base, least, fixed);
  for (let round = 0; round < 4; round++) {
    // A hat or a tail in only one of the two throws off a frame made from the outer measures: lay the pairs
    // on each other instead.
    s = laidOver(s, t, pairs);
    scores = scoresOf(s, t, named);
    base = open(scores.total);
    pairs = assign(source, target, refine(source, target, s, t, base, pairs), least * 0.8, fixed);
  }
  joinRoots(source, target, pairs, blocked);
  const below = carriesBelow(source);
  const rules = source.bones.map((_, i): Rule => {
    const hold = held.get(i);
    if (hold) return hold;
    const j = pairs.get(i);
    if (j !== undefined && source.bones[i].parent < 0 && scores.total[i * n + j] < least)
      return {
        source: i,
        kind: 'carry',
        target: j,
        confidence: 0.6,
        reasons: ['both stand above everything else'],
        locked: false,
      };
    if (j !== undefined) return carryRule(i, j, scores, n, named, target);
    return looseRule(source, target, i, s, t, pairs, below, named);
  });
  return tidy(rules);
}

/**
 * Two roots that nothing else claims, each above its side's pairs, stand for each other: the whole character
 * moves by them.
 */
function joinRoots(
  source: Skeleton,
  target: Skeleton,
  pairs: Map<number, number>,
  blocked: ReadonlySet<number>,
): void {
  const t = target.bones.findIndex(
    (b, j) => b.parent < 0 && [...pairs.values()].some((k) => bonesAbove(target, k).includes(j)),
  );
  const s = source.bones.findIndex(
    (b, i) => b.parent < 0 && [...pairs.keys()].some((k) => bonesAbove(source, k).includes(i)),
  );
  if (s >= 0 && t >= 0 && !pairs.has(s) && !blocked.has(s) && ![...pairs.values()].includes(t))
    pairs.set(s, t);
}

function carryRule(i: number, j: number, scores: Score, n: number, named: boolean, target: Skeleton): Rule {
  const at = i * n + j;
  const name = scores.names[i][j];
  const reasons = [
    ...(name.reason && name.score > 0 ? [name.reason] : []),
    ...nearnessInWords(scores.places[at]),
    ...(scores.trees[at] > 0.5 ? ['same place in the tree'] : []),
  ];
  const total = scores.total[at];
  const rivals = target.bones.map((_, k) => (k === j ? 0 : scores.total[i * n + k]));
  const margin = total - Math.max(0, ...rivals);
  const confidence =
    name.score === 1
      ? Math.max(0.95, total)
      : Math.max(0.05, Math.min(0.99, total + bonusOfMargin(margin) - (named ? 0 : 0.05)));
  return {
    source: i,
    kind: 'carry',
    target: j,
    confidence,
    reasons: reasons.length > 0 ? reasons : ['the best that is left'],
    locked: false,
  };
}

/** A bone without a counterpart: folded into a neighbour, kept, or released. */
function looseRule(
  source: Skeleton,
  target: Skeleton,
  i: number,
  s: readonly BoneFacts[],
  t: readonly BoneFacts[],
  pairs: ReadonlyMap<number, number>,
  below: readonly boolean[],
  named: boolean,
): Rule {
  const r = s[i].reading;
  const rule = (kind: Rule['kind'], to: number, confidence: number, reason: string): Rule => ({
    source: i,
    kind,
    target: to,
    confidence,
    reasons: [reason],
    locked: false,
  });
  const above = bonesAbove(source, i).find((b) => pairs.has(b));
  if (!below[i])
    return rule(
      'release',
      -1,
      0.9,
      source.bones[i].weight > 0
        ? 'nothing below it carries weight'
        : 'carries no weight, nor does anything below it',
    );
  if (r.end) return rule('release', -1, 0.6, 'an end: its weight goes to the bone above');
  // A bone of the same part, between two that are paired, joins the nearer of them.
  const kin = [...pairs].filter(
    ([k]) =>
      s[k].reading.part !== '' &&
      s[k].reading.part === r.part &&
      s[k].reading.side === r.side &&
      !s[k].reading.twist,
  );
  if (named && r.part && kin.length > 0 && above !== undefined) {
    const nearest = r.twist
      ? (kin.find(([k]) => k === above) ?? kin[0])
      : kin.reduce((a, b) => (distance(source, b[0], i) < distance(source, a[0], i) ? b : a));
    return rule(
      'fold',
      nearest[1],
      0.8,
      r.twist ? 'a twist bone joins its limb' : 'between two bones of the same part',
    );
  }
  const between =
    above !== undefined && !named && [...pairs.keys()].some((k) => bonesAbove(source, k).includes(i));
  if (between)
    return rule(
      'fold',
      pairs.get(above as number) as number,
      0.5,
      'lies between two bones that have counterparts',
    );
  if (above === undefined && source.bones[i].weight === 0)
    return rule('release', -1, 0.7, 'stands above the body and carries nothing');
  const offers = t.some(
    (b, j) =>
      ![...pairs.values()].includes(j) &&
      Math.hypot(...[0, 1, 2].map((k) => b.place[k] - s[i].place[k])) < 0.03,
  );
  return rule(
    'keep',
    -1,
    offers ? 0.55 : 0.8,
    `no counterpart in ${target.title}; it carries ${source.bones[i].weight > 0 ? 'weight' : 'something below'} and comes along`,
  );
}

const distance = (k: Skeleton, a: number, b: number) =>
  Math.hypot(...[0, 1, 2].map((x) => k.bones[a].place[x] - k.bones[b].place[x]));
