/** Half of an affine motion. */
import { invertAffine } from './matrix';

/** How often the iteration is taken on at most, and when it has arrived. */
const ROUNDS = 40;
const ARRIVED = 1e-14;

/**
 * The principal square root of an affine matrix (16, column-major): done twice it is the whole. By the iteration of
 * Denman and Beavers (1976, “The matrix sign function and computations in systems”): Y ← ½(Y + Z⁻¹), Z ← ½(Z + Y⁻¹).
 * A turn by half a circle has no such half; throws a RangeError there.
 */
export function halfOf(m: Float64Array): Float64Array {
  let y = m.slice();
  let z = Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? 1 : 0));
  for (let round = 0; round < ROUNDS; round++) {
    const [a, b] = [invertAffine(z), invertAffine(y)];
    if (!a || !b) break;
    let step = 0;
    const next = y.map((x, i) => {
      const to = (x + a[i]) / 2;
      step = Math.max(step, Math.abs(to - x));
      return to;
    });
    z = z.map((x, i) => (x + b[i]) / 2);
    y = next;
    if (step < ARRIVED) return y;
    if (!Number.isFinite(step)) break;
  }
  if (y.every(Number.isFinite) && isRootOf(y, m)) return y;
  throw new RangeError('A turn by half a circle has no half.');
}

function isRootOf(y: Float64Array, m: Float64Array): boolean {
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += y[k * 4 + r] * y[c * 4 + k];
      if (Math.abs(sum - m[c * 4 + r]) > 1e-9) return false;
    }
  return true;
}
