/** What the skeleton that was asked for costs, apart from what a move onto it adds. */
import { floorOf } from '../../motion/floor';
import type { TrialPose } from './poses';
import type { Proof } from './proof';
import type { Remapped } from './remap';

/** How far points lie from where they were at least, metres, over all poses of a proof. */
export interface DeviationFloor {
  readonly max: number;
  readonly rms: number;
  /** 95th percentile of each point's worst. */
  readonly p95: number;
}

/** How much farther than that a move may add where the skeleton costs something, as a share of what it costs. */
const ON_TOP = 0.25;

/** What a move adds to the price, metres. */
export const addedTo = (price: DeviationFloor, { max, rms, p95 }: DeviationFloor): DeviationFloor => ({
  max: max - price.max,
  rms: rms - price.rms,
  p95: p95 - price.p95,
});

/**
 * Whether a move adds more to the price than a brief allows, metres: in the mean, and at the farthest point, where a
 * quarter of the price itself comes on top, since the farthest point of the nearest fit is not the nearest possible.
 */
export function addsTooMuch(price: DeviationFloor, proof: DeviationFloor, allowed: number): boolean {
  const { max, rms } = addedTo(price, proof);
  return rms > allowed || max > allowed + ON_TOP * price.max;
}

/** Points that the price is sought at, and how many more of a mesh that lie farthest off. */
const POINTS = 2400;
const WORST = 60;

/** What lies nearer than this costs nothing, as a share of the height. */
const NOTHING = 1e-6;

/**
 * How near the mesh could come at best in the poses of a proof: what was found, and never farther than the
 * proof shows. Yields how much is done, 0 … 1.
 */
export function* priceOf(
  { withoutClips, sourceNodeOf, report, motionSource, reference, isRestFree }: Remapped,
  poses: readonly TrialPose[],
  { max, rms, p95, worst, ofHeight }: Proof,
): Generator<number, DeviationFloor> {
  if (ofHeight.max <= NOTHING) return { max, rms, p95 };
  const worlds = poses.map((pose) => pose.world);
  const points = pointsOf(worst);
  const least = yield* floorOf(
    {
      source: motionSource,
      reference,
      target: withoutClips,
      sourceNodeOf,
      trimmed: report.trimmed,
      worlds,
      isRestFree,
    },
    points.map(({ node, even, worst: far }) => ({ node, vertices: [...even, ...far] })),
  );
  const evenOf = (node: number) => points.find((point) => point.node === node)?.even.length ?? 0;
  const offs = Float64Array.from(least.flatMap((off) => [...off.worst.subarray(0, evenOf(off.node))])).sort();
  const sum = least.reduce(
    (total, off) => off.squares.subarray(0, evenOf(off.node)).reduce((a, b) => a + b, total),
    0,
  );
  if (offs.length === 0) return { max, rms, p95 };
  return {
    max: Math.min(max, Math.max(...least.map((off) => off.worst.reduce((a, b) => Math.max(a, b), 0)))),
    rms: Math.min(rms, Math.sqrt(sum / (offs.length * worlds.length))),
    p95: Math.min(p95, offs[Math.min(offs.length - 1, Math.floor(offs.length * 0.95))]),
  };
}

/** Points evenly over all meshes, and those that lie farthest off. */
function pointsOf(worst: Proof['worst']): { node: number; even: number[]; worst: number[] }[] {
  const total = worst.reduce((sum, mesh) => sum + mesh.distance.length, 0);
  const stride = Math.max(1, Math.ceil(total / POINTS));
  return worst.map(({ node, distance }) => {
    const order = Array.from(distance, (_, value) => value);
    const even = order.filter((value) => value % stride === 0);
    return { node, even, worst: order.sort((a, b) => distance[b] - distance[a]).slice(0, WORST) };
  });
}
