/**
 * How far every triangle of a surface is drawn out of shape in a pose: the singular values of its deformation gradient, from
 * the first fundamental forms of the triangle at rest and posed (Bonet & Wood 1997, ch. 3: the square roots of the
 * eigenvalues of G₀⁻¹ G₁). 1 and 1 where it only moves. A pass over the triangles, nothing allocated but what comes out.
 */

/** Two numbers per triangle, both 1 where it only moves and turns. */
export interface SurfaceStrain {
  /** The largest stretch within each triangle, as a factor. */
  readonly most: Float32Array;
  /** The least: below 1 it is pressed together or thinned across. */
  readonly least: Float32Array;
}

/** An area at rest below this share of the squared edges tells no direction apart. */
const FLAT = 1e-9;

/**
 * Stretch of every triangle. One without area at rest counts as not stretched.
 * @param rest places at rest, 3 per vertex
 * @param posed places in the pose, 3 per vertex
 * @param triangles 3 vertices per triangle
 */
export function surfaceStrain(
  rest: ArrayLike<number>,
  posed: ArrayLike<number>,
  triangles: Uint32Array,
): SurfaceStrain {
  const count = triangles.length / 3;
  const strain = { most: new Float32Array(count).fill(1), least: new Float32Array(count).fill(1) };
  for (let triangle = 0; triangle < count; triangle++) {
    const i = triangles[triangle * 3] * 3;
    const j = triangles[triangle * 3 + 1] * 3;
    const k = triangles[triangle * 3 + 2] * 3;
    let [a, b, c] = [0, 0, 0];
    let [p, q, r] = [0, 0, 0];
    for (let axis = 0; axis < 3; axis++) {
      const u = rest[j + axis] - rest[i + axis];
      const v = rest[k + axis] - rest[i + axis];
      const s = posed[j + axis] - posed[i + axis];
      const t = posed[k + axis] - posed[i + axis];
      a += u * u;
      b += u * v;
      c += v * v;
      p += s * s;
      q += s * t;
      r += t * t;
    }
    const area = a * c - b * b;
    if (area <= FLAT * (a + c) * (a + c)) continue;
    const half = (c * p - 2 * b * q + a * r) / (2 * area);
    const spread = Math.sqrt(Math.max(0, half * half - Math.max(0, p * r - q * q) / area));
    strain.most[triangle] = Math.sqrt(half + spread);
    strain.least[triangle] = Math.sqrt(Math.max(0, half - spread));
  }
  return strain;
}
