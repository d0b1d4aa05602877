/** One bone over several: every point's weight split by where the point lies along them. */
import { type Influences, influencesFrom } from '../../geometry/influences';
import { type Vec3, dot, length, subtract } from '../../geometry/matrix';
import { type Crosswalk, targetsOf } from '../../anatomy/crosswalk';
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

/**
 * What weights are shared over, by the first bone of each; joints are bones of the target.
 * @param placeOf where a bone of the target stands on the mesh, world space, metres
 */
export function spansOf(
  target: Skeleton,
  crosswalk: Crosswalk,
  placeOf: (bone: number) => Vec3,
): Map<number, ShareSpan> {
  const children = childrenOfBones(target);
  return new Map(
    crosswalk.flatMap((r): [number, ShareSpan][] => {
      if (r.kind !== 'share') return [];
      const joints = targetsOf(r);
      const ends = joints.filter((t) => !joints.some((x) => target.bones[x].parent === t));
      const ways = ends.map((end) => {
        const way = joints.filter((t) => t === end || bonesAbove(target, end).includes(t));
        const places = [...way.map(placeOf), endOf(way.map(placeOf), children[end].map(placeOf))];
        return { at: way.map((t) => joints.indexOf(t)), places };
      });
      return [[r.target, { joints, ways }]];
    }),
  );
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
    splitAlong(along, way.places).forEach((s, k) => {
      out[way.at[k]] += weight * s;
    });
  }
  for (let k = 0; k < out.length; k++) out[k] /= total;
  return out;
}

/** Shares at a length along a chain, metres; 1 per bone. */
function splitAlong(along: number, places: readonly Vec3[]): number[] {
  const lengths = places.slice(1).map((p, k) => length(subtract(p, places[k])));
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
  const t = Math.min(1, Math.max(0, x));
  return t * t * (3 - 2 * t);
};

/** The nearest point of a chain: its length along it, and how far off it is. */
function nearestAlong(place: Vec3, places: readonly Vec3[]): { along: number; distance: number } {
  let best = { along: 0, distance: Infinity };
  let from = 0;
  for (let k = 0; k + 1 < places.length; k++) {
    const way = subtract(places[k + 1], places[k]);
    const size = length(way);
    const to = subtract(place, places[k]);
    const f = size > 0 ? Math.min(1, Math.max(0, dot(to, way) / (size * size))) : 0;
    const distance = Math.hypot(...[0, 1, 2].map((a) => to[a] - f * way[a]));
    if (distance < best.distance) best = { along: from + f * size, distance };
    from += size;
  }
  return best;
}

/**
 * Rows in which what arrives at the first joint of a span is shared over all of it. Where that makes more bones than the
 * limit, the smallest shares stay with the largest of their span: that moves no point, and letting go of others would.
 * @param places of the vertices at rest, 3 each, world space
 * @param spans by their first joints
 */
export function shareRows(
  f: Influences,
  places: ArrayLike<number>,
  spans: ReadonlyMap<number, ShareSpan>,
  limit: number,
): Influences {
  const rows = Array.from({ length: f.offsets.length - 1 }, (_, v) => {
    const row: [number, number][] = [];
    const parts: number[][] = [];
    for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
      const span = spans.get(f.joint[k]);
      if (!span) {
        row.push([f.joint[k], f.weight[k]]);
        continue;
      }
      const shares = sharesAt([places[v * 3], places[v * 3 + 1], places[v * 3 + 2]], span);
      const part: number[] = [];
      shares.forEach((s, i) => {
        if (s > 0) part.push(row.push([span.joints[i], s * f.weight[k]]) - 1);
      });
      parts.push(part);
    }
    joinSmallest(row, parts, limit);
    return row;
  });
  return influencesFrom(rows);
}

/** Shares below what a byte can say are not worth a bone. */
const DUST = 1 / 255;

/** Joins the smallest parts of a span to its largest: those that are next to nothing, and as many as are over the limit. */
function joinSmallest(row: [number, number][], parts: readonly (readonly number[])[], limit: number): void {
  const weight = (i: number) => row[i][1];
  for (;;) {
    const over = row.filter(([, w]) => w > 0).length > limit;
    let least: { i: number; onto: number } | null = null;
    for (const part of parts) {
      const on = part.filter((i) => weight(i) > 0).sort((a, b) => weight(a) - weight(b));
      if (on.length < 2 || (least && weight(on[0]) >= weight(least.i))) continue;
      least = { i: on[0], onto: on[on.length - 1] };
    }
    if (!least || (!over && weight(least.i) >= DUST)) return;
    row[least.onto][1] += weight(least.i);
    row[least.i][1] = 0;
  }
}
