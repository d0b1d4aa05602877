/** Which side of a figure is which, told from what lies ahead on it. */
import { cross, dot, length, normalise, subtract, type Vec3 } from '../geometry/matrix';
import type { Side } from './looks';
import type { Shape } from './shape';
import { fleshAt } from './skeleton';

/**
 * Whether the sides of two skeletons, as their shapes number them, lie alike (above 0) or exchanged (below 0).
 * Seen along the trunk and across it, what is ahead is ahead on both: feet and thumbs point there, knees lie there
 * and elbows do not, in every stance. Every joint votes with how clear it is on both. Where none does, both are
 * taken to look the same way.
 */
export function handedness(s: Side, t: Side, pairs: Int32Array): number {
  const top = topOfTrunk(s, t, pairs);
  const mine = aheadOf(s, top);
  const theirs = aheadOf(t, top < 0 ? -1 : pairs[top]);
  if (!mine || !theirs) return 0;
  let sum = 1e-3 * dot(mine.across, theirs.across);
  for (let i = 0; i < s.shape.count; i++) {
    if (pairs[i] < 0) continue;
    const p = pairedAbove(s.shape, pairs, i);
    if (p < 0) continue;
    const c = pairedBelow(s.shape, pairs, i);
    const [q, j, d] = [pairs[p], pairs[i], c < 0 ? -1 : pairs[c]];
    const weight = s.shape.fan[i] >= 0 ? 0.15 : 1;
    if (c < 0) {
      sum += weight * pointing(s, p, i, mine.ahead) * pointing(t, q, j, theirs.ahead);
      if (s.shape.fan[i] < 0 && (hasFlesh(s, i) || hasFlesh(t, j)))
        sum += beyond(s, i, mine.ahead) * beyond(t, j, theirs.ahead);
    } else {
      sum += weight * bulging(s, p, i, c, mine.ahead) * clear(bulging(t, q, j, d, theirs.ahead));
    }
    if (s.shape.fan[i] >= 0 && s.shape.fan[p] !== s.shape.fan[i])
      sum +=
        besideOthers(s, pairs, p, i, mine.ahead, (x) => x) *
        besideOthers(s, pairs, p, i, theirs.ahead, (x) => pairs[x], t);
  }
  return sum;
}

/** The paired bone in the middle that stands farthest on from the core on both; −1 for none. */
function topOfTrunk(s: Side, t: Side, pairs: Int32Array): number {
  let top = -1;
  let most = 0;
  pairs.forEach((j, i) => {
    if (j < 0 || s.side[i] !== 0 || t.side[j] !== 0) return;
    const far = Math.min(s.shape.way[i] / s.shape.reach, t.shape.way[j] / t.shape.reach);
    if (far > most) [top, most] = [i, far];
  });
  return top;
}

/** The nearest paired bone above; −1 for none. */
export function pairedAbove({ parents }: Shape, pairs: Int32Array, i: number): number {
  let p = parents[i];
  while (p >= 0 && pairs[p] < 0) p = parents[p];
  return p;
}

/** The paired bone below on the longest way on; −1 for none. */
function pairedBelow({ children, below, span }: Shape, pairs: Int32Array, i: number): number {
  const sorted = [...children[i]].sort((a, b) => below[b] + span[b] - below[a] - span[a]);
  for (const c of sorted) {
    if (pairs[c] >= 0) return c;
    const found = pairedBelow({ children, below, span } as Shape, pairs, c);
    if (found >= 0) return found;
  }
  return -1;
}

const unit = (v: Vec3): Vec3 => (length(v) > 1e-12 ? normalise(v) : [0, 0, 0]);

/** How far a bone points along a direction, −1 … 1. */
function pointing({ shape: { places } }: Side, from: number, to: number, ahead: Vec3): number {
  return dot(unit(subtract(places[to], places[from])), ahead);
}

/**
 * How far what ends at a bone reaches along a direction, −1 … 1: its flesh from its joint, as a foot reaches ahead of the
 * ankle whether it has toes or not; where nothing is bound, the bones that hang there, or itself from the one above.
 */
function beyond({ shape: { children, parents, places }, skeleton }: Side, bone: number, ahead: Vec3): number {
  const along = (from: Vec3, to: Vec3) => dot(unit(subtract(to, from)), ahead);
  const flesh = fleshAt(skeleton, bone);
  if (flesh) return along(places[bone], flesh);
  const ends = children[bone].map((c) => along(places[bone], places[c]));
  if (ends.length > 0) return ends.reduce((sum, x) => sum + x, 0) / ends.length;
  return parents[bone] < 0 ? 0 : along(places[parents[bone]], places[bone]);
}

const hasFlesh = ({ skeleton }: Side, bone: number) => fleshAt(skeleton, bone) !== undefined;

/** A bend in a template says which way a joint turns, however slight it is. */
const clear = (x: number): number => x / (Math.abs(x) + 0.03);

/** How far a joint stands off the line between its neighbours along a direction, as a share of that line. */
function bulging({ shape: { places } }: Side, a: number, b: number, c: number, ahead: Vec3): number {
  const line = subtract(places[c], places[a]);
  const off = subtract(places[b], places[a]);
  const l = dot(line, line);
  if (l < 1e-18) return 0;
  const t = dot(off, line) / l;
  const rest: Vec3 = [off[0] - t * line[0], off[1] - t * line[1], off[2] - t * line[2]];
  return Math.max(-1, Math.min(1, (4 * dot(rest, ahead)) / Math.sqrt(l)));
}

/** How far the beginning of a chain in a fan lies from the others along a direction, as a share of its way there. */
function besideOthers(
  s: Side,
  pairs: Int32Array,
  p: number,
  i: number,
  ahead: Vec3,
  of: (bone: number) => number,
  side: Side = s,
): number {
  const others = s.shape.children[p].filter((c) => c !== i && pairs[c] >= 0);
  if (others.length < 2) return 0;
  const { places } = side.shape;
  const from = places[of(p)];
  const middle =
    others.reduce((sum, c) => sum + dot(subtract(places[of(c)], from), ahead), 0) / others.length;
  const way = Math.max(1e-9, ...others.map((c) => length(subtract(places[of(c)], from))));
  return (dot(subtract(places[of(i)], from), ahead) - middle) / way;
}

/**
 * Across the body, from side −1 to side 1, and square to it and to the trunk: ahead. Null where sides are not
 * known.
 */
function aheadOf({ shape, side }: Side, top: number): { across: Vec3; ahead: Vec3 } | null {
  const sum: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < shape.count; i++) {
    const other = shape.twin[i];
    if (other < 0 || shape.limb[i] !== i || side[i] <= 0) continue;
    const v = subtract(shape.places[i], shape.places[other]);
    for (let k = 0; k < 3; k++) sum[k] += v[k];
  }
  if (length(sum) < 1e-9 || top < 0) return null;
  const across = normalise(sum);
  const up = subtract(shape.places[top], shape.places[shape.core]);
  const ahead = cross(across, up);
  return length(ahead) < 1e-9 ? null : { across, ahead: normalise(ahead) };
}
