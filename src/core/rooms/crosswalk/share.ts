/** One bone over several: every point's weight split by where the point lies along them. */
import { type Influences, influencesFrom } from '../../geometry/influences';
import { type Vec3, dot, length, subtract } from '../../geometry/matrix';
import { type Crosswalk, type Rule, leadsToTarget, targetsOf } from '../../anatomy/crosswalk';
import { type Skeleton, bonesAbove, childrenOfBones } from '../../anatomy/skeleton';

/** A chain, or several that begin with one bone, that a weight is shared over. */
export interface ShareSpan {
  /** Joints that share, the first one first. */
  readonly joints: readonly number[];
  /** Ways from the first joint to each end, as places in `joints`. */
  readonly ways: readonly ShareWay[];
}

/** One way along a chain. */
export interface ShareWay {
  /** Places in the span's `joints`, from the first on. */
  readonly at: readonly number[];
  /** Where each of them stands, and where the last one ends; world space, metres. */
  readonly places: readonly Vec3[];
}

/** What the weight of a bone of the source that arrives at a bone of the target is shared over, if at all. */
export type SpanOf = (source: number, arrives: number) => ShareSpan | undefined;

/**
 * What weights are shared over: those of a shared bone over its targets; and what arrives at a bone that a shared one
 * leads, over those of that one. Joints are bones of the target.
 * @param placeOf where a bone of the target stands on the mesh, world space, metres
 */
export function spansOf(
  target: Skeleton,
  crosswalk: Crosswalk,
  placeOf: (bone: number) => Vec3,
): SpanOf | null {
  const shares = crosswalk.filter((rule) => rule.kind === 'share');
  if (shares.length === 0) return null;
  const children = childrenOfBones(target);
  const spanOf = (rule: Rule): ShareSpan => {
    const joints = targetsOf(rule).sort((x, y) => x - y);
    const ends = joints.filter((joint) => !joints.some((x) => target.bones[x].parent === joint));
    const ways = ends.map((end) => {
      const way = joints.filter((joint) => joint === end || bonesAbove(target, end).includes(joint));
      const places = [...way.map(placeOf), endOf(way.map(placeOf), children[end].map(placeOf))];
      return { at: way.map((bone) => joints.indexOf(bone)), places };
    });
    return { joints, ways };
  };
  const own = new Map(shares.map((share) => [share.source, spanOf(share)]));
  const led = new Map(
    shares
      .filter(leadsToTarget)
      .map((rule): [number, ShareSpan] => [rule.target, own.get(rule.source) as ShareSpan]),
  );
  return (source, arrives) => own.get(source) ?? led.get(arrives);
}

/** Where a chain ends: at the next bone, where one goes on from it; else as far on as its last bone is long. */
function endOf(places: readonly Vec3[], next: readonly Vec3[]): Vec3 {
  if (next.length > 0) return next[0];
  const last = places[places.length - 1];
  const before = places[places.length - 2] ?? last;
  return [0, 1, 2].map((k) => 2 * last[k] - before[k]) as unknown as Vec3;
}

/** Two ways count alike where a point is this near to both, metres. */
const NEAR = 1e-6;

/**
 * How a weight at a place is split over a span; 1 per joint of it, their sum is 1. Around every joint it goes over
 * smoothly, as far as half of the shorter bone on either side reaches.
 */
export function sharesAt(place: Vec3, { joints, ways }: ShareSpan): Float64Array {
  const out = new Float64Array(joints.length);
  let total = 0;
  for (const way of ways) {
    const { along, distance } = nearestAlong(place, way.places);
    const weight = 1 / (distance ** 4 + NEAR ** 4);
    total += weight;
    splitAlong(along, way.places).forEach((share, k) => {
      out[way.at[k]] += weight * share;
    });
  }
  for (let k = 0; k < out.length; k++) out[k] /= total;
  return out;
}

/** Shares at a length along a chain, metres; 1 per bone. */
function splitAlong(along: number, places: readonly Vec3[]): number[] {
  const lengths = places.slice(1).map((place, k) => length(subtract(place, places[k])));
  // How far over each joint the point is, 0 … 1; the first is behind it, the end never reached.
  const over = [1];
  let at = 0;
  for (let k = 1; k < lengths.length; k++) {
    at += lengths[k - 1];
    const half = Math.min(lengths[k - 1], lengths[k]) / 2;
    over.push(half > 0 ? smooth((along - at + half) / (2 * half)) : Number(along >= at));
  }
  return over.map((x, k) => x - (over[k + 1] ?? 0));
}

const smooth = (x: number) => {
  const share = Math.min(1, Math.max(0, x));
  return share * share * (3 - 2 * share);
};

/** The nearest point of a chain: its length along it, and how far off it is. */
function nearestAlong(place: Vec3, places: readonly Vec3[]): { along: number; distance: number } {
  let best = { along: 0, distance: Infinity };
  let from = 0;
  for (let k = 0; k + 1 < places.length; k++) {
    const way = subtract(places[k + 1], places[k]);
    const size = length(way);
    const to = subtract(place, places[k]);
    const fraction = size > 0 ? Math.min(1, Math.max(0, dot(to, way) / (size * size))) : 0;
    const distance = Math.hypot(...[0, 1, 2].map((a) => to[a] - fraction * way[a]));
    if (distance < best.distance) best = { along: from + fraction * size, distance };
    from += size;
  }
  return best;
}

/** Where the weight on a joint of a skin goes: to a joint of the new one, or over several. */
export interface WeightTarget {
  readonly to: number;
  readonly span: ShareSpan | undefined;
}

/**
 * Rows in which weights are sent on, those that are shared over all of their span. Where that makes more
 * bones than the limit, the smallest shares stay with the largest of their span: that moves no point, and
 * letting go of others would.
 * @param places of the vertices at rest, 3 each, world space
 * @param arrivals by joint of the skin as it was
 */
export function shareRows(
  influences: Influences,
  places: ArrayLike<number>,
  arrivals: readonly WeightTarget[],
  limit: number,
): Influences {
  const rows = Array.from({ length: influences.offsets.length - 1 }, (_, vertex) => {
    const row = new Row();
    const shares = new Map<ShareSpan, Float64Array>();
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
      const { to, span } = arrivals[influences.joint[k]];
      if (!span) {
        row.add(to, influences.weight[k]);
        continue;
      }
      const known = shares.get(span);
      const own =
        known ?? sharesAt([places[vertex * 3], places[vertex * 3 + 1], places[vertex * 3 + 2]], span);
      if (!known) shares.set(span, own);
      row.share(span.joints, own, influences.weight[k]);
    }
    return row.within(limit);
  });
  return influencesFrom(rows);
}

/** Shares below what a byte can say are not worth a bone. */
const DUST = 1 / 255;

/** The weights of one vertex while they are shared. */
class Row {
  private readonly weight = new Map<number, number>();
  /** Joints with weight that is no share: it stays there. */
  private readonly fixed = new Set<number>();
  /** The joints of every share. */
  private readonly parts: number[][] = [];

  add(joint: number, weight: number): void {
    this.put(joint, weight);
    this.fixed.add(joint);
  }

  share(joints: readonly number[], shares: Float64Array, weight: number): void {
    const part = joints.filter((_, i) => shares[i] > 0);
    joints.forEach((j, i) => shares[i] > 0 && this.put(j, shares[i] * weight));
    this.parts.push(part);
  }

  /** Joints and weights, the smallest shares joined to the largest of theirs until they are few enough. */
  within(limit: number): [number, number][] {
    const { weight } = this;
    for (let least = this.least(); least; least = this.least()) {
      if (weight.size <= limit && (weight.get(least.joint) as number) >= DUST) break;
      this.put(least.onto, weight.get(least.joint) as number);
      weight.delete(least.joint);
    }
    return [...weight];
  }

  private put(joint: number, weight: number): void {
    this.weight.set(joint, (this.weight.get(joint) ?? 0) + weight);
  }

  /** The smallest weight that is nothing but a share, and the largest of that share. */
  private least(): { joint: number; onto: number } | null {
    const { weight, fixed } = this;
    const of = (j: number) => weight.get(j) as number;
    let least: { joint: number; onto: number } | null = null;
    for (const part of this.parts) {
      const on = part.filter((j) => weight.has(j)).sort((a, b) => of(a) - of(b));
      const joint = on.find((j) => !fixed.has(j));
      const onto = on[on.length - 1];
      if (joint === undefined || joint === onto || (least && of(joint) >= of(least.joint))) continue;
      least = { joint, onto };
    }
    return least;
  }
}
