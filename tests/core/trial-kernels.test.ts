/** Kernels of trials: stretch, volume of a cut piece, stiff motion, dual quaternions, against closed forms and libraries. */
import fc from 'fast-check';
import { quat, quat2, vec3 } from 'gl-matrix';
import { Matrix, SingularValueDecomposition } from 'ml-matrix';
import { type CappedRegion, cornerPlaces, cutRegion, volumeOfRegion } from '@/core/geometry/capped-region';
import { dualQuaternionsOf, skinByDualQuaternions } from '@/core/geometry/dual-quaternions';
import { influencesFrom } from '@/core/geometry/influences';
import { composeMatrix, quatAbout, quatRotate } from '@/core/geometry/matrix';
import { makeRandom } from '@/core/geometry/random';
import { rigidResidual } from '@/core/geometry/rigid-fit';
import { skinPoints } from '@/core/geometry/skinning';
import { surfaceStrain } from '@/core/geometry/surface-strain';
import { twistRings } from '@/core/geometry/twist-rings';
import { meshFrom } from './support/build';
import { solidsOf } from './support/manifold';

const place = fc.tuple(
  fc.double({ min: -2, max: 2, noNaN: true }),
  fc.double({ min: -2, max: 2, noNaN: true }),
  fc.double({ min: -2, max: 2, noNaN: true }),
);
const turn = fc
  .tuple(place, fc.double({ min: -3, max: 3, noNaN: true }))
  .filter(([axis]) => Math.hypot(...axis) > 0.1)
  .map(([axis, angle]) =>
    quatAbout(
      axis.map((x) => x / Math.hypot(...axis)),
      angle,
    ),
  );

describe('stretch of triangles', () => {
  const sheet = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]);
  const triangles = Uint32Array.of(0, 1, 2);
  const through = (m: readonly number[]) =>
    Float32Array.from(
      [0, 1, 2].flatMap((i) =>
        [0, 1, 2].map((k) => m[k * 2] * sheet[i * 3] + m[k * 2 + 1] * sheet[i * 3 + 1]),
      ),
    );

  it('of a sheet that is sheared by s is what the closed form says: √(1 + s²/4) ± s/2', () => {
    for (const shear of [0.2, 1, 3]) {
      const { most, least } = surfaceStrain(sheet, through([1, shear, 0, 1, 0, 0]), triangles);
      expect(most[0]).toBeCloseTo(Math.sqrt(1 + (shear * shear) / 4) + shear / 2, 5);
      expect(least[0]).toBeCloseTo(Math.sqrt(1 + (shear * shear) / 4) - shear / 2, 5);
    }
  });
  it('of a sheet that is scaled by 3 and ½ is 3 and ½', () => {
    const { most, least } = surfaceStrain(sheet, through([3, 0, 0, 0.5, 0, 0]), triangles);
    expect([most[0], least[0]]).toEqual([3, 0.5]);
  });
  it('is the singular values of the deformation gradient (ml-matrix), whatever the triangle', () => {
    const six = fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: 6, maxLength: 6 });
    fc.assert(
      fc.property(six, (values) => {
        const { most, least } = surfaceStrain(sheet, through(values), triangles);
        const [large, small] = new SingularValueDecomposition(
          new Matrix([0, 1, 2].map((k) => [values[k * 2], values[k * 2 + 1]])),
        ).diagonal;
        expect(most[0]).toBeCloseTo(large, 3);
        expect(least[0]).toBeCloseTo(small, 2);
      }),
    );
  });
  it('is one of what only turns and moves, and of a triangle without area', () => {
    fc.assert(
      fc.property(turn, place, (rotation, by) => {
        const moved = Float32Array.from(
          [0, 1, 2].flatMap((i) =>
            quatRotate(rotation, sheet.subarray(i * 3, i * 3 + 3)).map((x, k) => x + by[k]),
          ),
        );
        const { most, least } = surfaceStrain(sheet, moved, triangles);
        expect(most[0]).toBeCloseTo(1, 4);
        expect(least[0]).toBeCloseTo(1, 4);
      }),
    );
    const flat = Float32Array.from([0, 0, 0, 1, 0, 0, 2, 0, 0]);
    expect(surfaceStrain(flat, sheet, triangles).most[0]).toBe(1);
  });
});

/** A ball of triangles. */
function ball(radius: number, rows = 24, columns = 32) {
  const points: number[][] = [[0, 0, radius]];
  for (let row = 1; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const [down, round] = [(Math.PI * row) / rows, (2 * Math.PI * column) / columns];
      points.push([
        radius * Math.sin(down) * Math.cos(round),
        radius * Math.sin(down) * Math.sin(round),
        radius * Math.cos(down),
      ]);
    }
  points.push([0, 0, -radius]);
  const at = (row: number, column: number) => 1 + (row - 1) * columns + (column % columns);
  const faces: number[][] = [];
  for (let column = 0; column < columns; column++) {
    faces.push([0, at(1, column), at(1, column + 1)]);
    for (let row = 1; row + 1 < rows; row++) {
      faces.push([at(row, column), at(row + 1, column), at(row + 1, column + 1)]);
      faces.push([at(row, column), at(row + 1, column + 1), at(row, column + 1)]);
    }
    faces.push([points.length - 1, at(rows - 1, column + 1), at(rows - 1, column)]);
  }
  return { points, faces };
}

const every = (count: number) => Uint32Array.from({ length: count }, (_, i) => i);

const volumeAt = (region: CappedRegion, points: ArrayLike<number>): number => {
  const places = new Float64Array(region.share.length * 3);
  cornerPlaces(region, points, places);
  return volumeOfRegion(region, places);
};

describe('the piece of a surface between cuts', () => {
  const { points, faces } = ball(1);
  const flat = Float32Array.from(points.flat());

  it('all of a ball has the volume that manifold-3d tells', () => {
    const whole = cutRegion(faces.flat(), new Float32Array(points.length).fill(-1), every(points.length));
    const [{ volume }] = solidsOf([meshFrom(points, faces)]);
    expect(whole.borderOffsets).toHaveLength(1);
    expect(volumeAt(whole, flat)).toBeCloseTo(volume, 5);
  });
  it('a slice of a ball has the volume of a spherical segment, πh(3a² + 3b² + h²)/6', () => {
    for (const [low, high] of [
      [-0.3, 0.5],
      [0.1, 0.8],
      [-0.9, -0.2],
    ]) {
      const field = Float32Array.from(points, ([, , z]) => Math.max(z - high, low - z));
      const slice = cutRegion(faces.flat(), field, every(points.length));
      const [a2, b2, height] = [1 - low * low, 1 - high * high, high - low];
      const exact = (Math.PI * height * (3 * a2 + 3 * b2 + height * height)) / 6;
      expect(slice.borderOffsets).toHaveLength(3);
      expect(volumeAt(slice, flat) / exact).toBeCloseTo(1, 1);
      // The ball of triangles is a little smaller than the ball.
      expect(volumeAt(slice, flat) / exact).toBeGreaterThan(0.97);
    }
  });
  it('keeps its volume however it is turned and moved, and has the cube of its scale', () => {
    const field = Float32Array.from(points, ([x, y, z]) => x + 0.3 * y - 0.2 * z - 0.15);
    const piece = cutRegion(faces.flat(), field, every(points.length));
    const before = volumeAt(piece, flat);
    fc.assert(
      fc.property(turn, place, fc.double({ min: 0.2, max: 3, noNaN: true }), (rotation, by, scale) => {
        const moved = points.flatMap((point) => quatRotate(rotation, point).map((x, k) => scale * x + by[k]));
        expect(volumeAt(piece, moved) / before / scale ** 3).toBeCloseTo(1, 4);
      }),
    );
  });
  it('is the same where a seam splits its vertices', () => {
    // Every face has corners of its own, as a file with a seam at each edge would have.
    const split = faces.flat().flatMap((vertex) => points[vertex]);
    const pointOf = Uint32Array.from(faces.flat());
    const cutOf = (list: ArrayLike<number>, at: (i: number) => number, own: Uint32Array) =>
      cutRegion(
        list,
        Float32Array.from({ length: own.length }, (_, i) => at(i) - 0.2),
        own,
      );
    const whole = cutOf(faces.flat(), (i) => points[i][2], every(points.length));
    const apart = cutOf(every(pointOf.length), (i) => split[i * 3 + 2], pointOf);
    expect(apart.borderOffsets).toHaveLength(2);
    expect(volumeAt(apart, split)).toBeCloseTo(volumeAt(whole, flat), 6);
  });
  it('a half-and-half ring that is twisted by θ leaves two frusta: (1 + c + c²)/3 with c = cos(θ/2) (Kavan et al. 2007)', () => {
    const segments = 64;
    const rings = [-1, 0, 1];
    const tubePoints = rings.flatMap((x) =>
      Array.from({ length: segments }, (_, k) => {
        const angle = (2 * Math.PI * k) / segments;
        return [x, 0.4 * Math.cos(angle), 0.4 * Math.sin(angle)];
      }),
    );
    const quads = [0, 1].flatMap((row) =>
      Array.from({ length: segments }, (_, k) => {
        const next = (k + 1) % segments;
        const [a, b] = [row * segments + k, row * segments + next];
        return [
          [a, a + segments, b + segments],
          [a, b + segments, b],
        ];
      }),
    );
    const region = cutRegion(
      quads.flat(2),
      new Float32Array(tubePoints.length).fill(-1),
      every(tubePoints.length),
    );
    const rest = Float32Array.from(tubePoints.flat());
    const shares = rings.flatMap((_, row) => Array.from({ length: segments }, () => row / 2));
    const influences = influencesFrom(
      shares.map((share) => [
        [0, 1 - share],
        [1, share],
      ]),
    );
    for (const degrees of [0, 60, 90, 150]) {
      const rotation = quatAbout([1, 0, 0], (degrees * Math.PI) / 180);
      const matrices = rowsOf([
        composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1, 1]),
        composeMatrix([0, 0, 0], rotation, [1, 1, 1]),
      ]);
      const posed = new Float32Array(rest.length);
      skinPoints(rest, influences, matrices, posed);
      const narrow = Math.cos((degrees * Math.PI) / 360);
      // Sides that are turned against each other are no cones: their middle points lie as far in, and the ends as they were.
      const radius = Math.hypot(posed[segments * 3 + 1], posed[segments * 3 + 2]);
      expect(radius).toBeCloseTo(0.4 * narrow, 5);
      const kept = volumeAt(region, posed) / volumeAt(region, rest);
      expect(kept).toBeLessThanOrEqual((1 + narrow + narrow * narrow) / 3 + 1e-6);
      expect(kept).toBeGreaterThan((1 + narrow + narrow * narrow) / 3 - 0.12);

      skinByDualQuaternions(rest, influences, dualQuaternionsOf(matrices), posed);
      expect(Math.hypot(posed[segments * 3 + 1], posed[segments * 3 + 2])).toBeCloseTo(0.4, 5);
    }
  });
});

/** Matrices (16) as three rows of four, as skinning takes them. */
const rowsOf = (matrices: readonly ArrayLike<number>[]): Float32Array =>
  Float32Array.from(
    matrices.flatMap((matrix) =>
      [0, 1, 2].flatMap((row) => [0, 1, 2, 3].map((column) => matrix[column * 4 + row])),
    ),
  );

describe('a stiff motion', () => {
  it('leaves nothing, whatever it is; what bends leaves as much as the best rotation of ml-matrix', () => {
    const random = makeRandom(7);
    const rest = Float32Array.from({ length: 60 }, () => random() - 0.5);
    const all = every(20);
    fc.assert(
      fc.property(turn, place, (rotation, by) => {
        const moved = Float32Array.from(
          Array.from({ length: 20 }, (_, i) =>
            quatRotate(rotation, rest.subarray(i * 3, i * 3 + 3)).map((x, k) => x + by[k]),
          ).flat(),
        );
        expect(rigidResidual(rest, moved, all).most).toBeLessThan(1e-5);
        const bent = moved.map((x, i) => x + 0.2 * Math.sin(3 * rest[i - (i % 3)]));
        expect(rigidResidual(rest, bent, all).rms).toBeCloseTo(kabsch(rest, bent), 4);
      }),
    );
  });
});

// The second pair comes out of its matrices as quaternions on opposite sides.
it.each([
  ['170° one way and the other', [0, 0, 1], [170, -170], [1, 0, 0], [-1, 0, 0]],
  [
    '100° and 130°',
    [-1, 0, 0],
    [100, 130],
    [0, 1, 0],
    [0, Math.cos((115 * Math.PI) / 180), -Math.sin((115 * Math.PI) / 180)],
  ],
] as const)(
  'half way between turns of %s lies between them the short way',
  (_, axis, degrees, point, half) => {
    const turns = degrees.map((angle) =>
      composeMatrix([0, 0, 0], quatAbout(axis, (angle * Math.PI) / 180), [1, 1, 1]),
    );
    const out = new Float32Array(3);
    const influences = influencesFrom([
      [
        [0, 0.5],
        [1, 0.5],
      ],
    ]);
    skinByDualQuaternions(Float32Array.from(point), influences, dualQuaternionsOf(rowsOf(turns)), out);
    out.forEach((number, k) => expect(number).toBeCloseTo(half[k], 5));
  },
);

/** Root of the mean square that the best rotation leaves, by a singular value decomposition (Kabsch 1976). */
function kabsch(rest: Float32Array, posed: Float32Array): number {
  const rows = (points: Float32Array) => {
    const list = Array.from({ length: points.length / 3 }, (_, i) => [...points.subarray(i * 3, i * 3 + 3)]);
    const middle = [0, 1, 2].map((k) => list.reduce((sum, row) => sum + row[k], 0) / list.length);
    return new Matrix(list.map((row) => row.map((x, k) => x - middle[k])));
  };
  const [before, after] = [rows(rest), rows(posed)];
  const { leftSingularVectors, rightSingularVectors } = new SingularValueDecomposition(
    after.transpose().mmul(before),
  );
  const straight = leftSingularVectors.mmul(rightSingularVectors.transpose());
  const flip = Matrix.diag([1, 1, Math.sign(determinant(straight))]);
  const rotation = leftSingularVectors.mmul(flip).mmul(rightSingularVectors.transpose());
  const off = Matrix.sub(after, before.mmul(rotation.transpose()));
  return Math.sqrt(off.to1DArray().reduce((sum, x) => sum + x * x, 0) / before.rows);
}

function determinant(matrix: Matrix): number {
  const [a, b, c] = matrix.to2DArray();
  return (
    a[0] * (b[1] * c[2] - b[2] * c[1]) -
    a[1] * (b[0] * c[2] - b[2] * c[0]) +
    a[2] * (b[0] * c[1] - b[1] * c[0])
  );
}

it('dual quaternions are those of gl-matrix, and move points as their blends do', () => {
  fc.assert(
    fc.property(
      turn,
      place,
      turn,
      place,
      fc.double({ min: 0, max: 1, noNaN: true }),
      place,
      (one, from, other, to, share, point) => {
        const matrices = rowsOf([composeMatrix(from, one, [1, 1, 1]), composeMatrix(to, other, [1, 1, 1])]);
        const duals = dualQuaternionsOf(matrices);
        const theirs = [
          [one, from],
          [other, to],
        ].map(([rotation, by]) =>
          quat2.fromRotationTranslation(quat2.create(), quat.clone(rotation as quat), by as vec3),
        );
        // Of the two that are one rotation, that on the side of the first.
        if (quat.dot(theirs[0] as never, theirs[1] as never) < 0) quat2.scale(theirs[1], theirs[1], -1);
        const sum = quat2.add(
          quat2.create(),
          quat2.scale(quat2.create(), theirs[0], 1 - share),
          quat2.scale(quat2.create(), theirs[1], share),
        );
        const size = Math.hypot(sum[0], sum[1], sum[2], sum[3]);
        fc.pre(size > 0.05);
        quat2.scale(sum, sum, 1 / size);
        const wanted = vec3.transformQuat(vec3.create(), point as vec3, quat2.getReal(quat.create(), sum));
        vec3.add(wanted, wanted, quat2.getTranslation(vec3.create(), sum));
        const out = new Float32Array(3);
        const influences = influencesFrom([
          [
            [0, 1 - share],
            [1, share],
          ],
        ]);
        skinByDualQuaternions(Float32Array.from(point), influences, duals, out);
        for (let k = 0; k < 3; k++) expect(Math.abs(out[k] - wanted[k])).toBeLessThan(2e-4);
      },
    ),
  );
});

describe('rings of a limb that is twisted', () => {
  const segments = 24;
  const tubeOf = (turnAt: (along: number) => number, radiusAt: (along: number) => number = () => 0.1) =>
    Float32Array.from(
      Array.from({ length: 41 }, (_, row) => row / 40).flatMap((along) =>
        Array.from({ length: segments }, (_, k) => {
          const angle = (2 * Math.PI * k) / segments + (turnAt(along) * Math.PI) / 180;
          return [along, radiusAt(along) * Math.cos(angle), radiusAt(along) * Math.sin(angle)];
        }).flat(),
      ),
    );
  const rest = tubeOf(() => 0);
  const all = new Uint8Array(rest.length / 3).fill(1);
  const ends = { from: [0, 0, 0], to: [1, 0, 0] } as const;

  it('have the turn that each was given, in any pose of the whole and whatever it lost of its radius', () => {
    fc.assert(
      fc.property(fc.double({ min: -170, max: 170, noNaN: true }), place, turn, (degrees, at, q) => {
        const moved = (points: Float32Array) =>
          Float32Array.from(
            Array.from({ length: points.length / 3 }, (_, i) =>
              quatRotate(q, [points[i * 3], points[i * 3 + 1], points[i * 3 + 2]]).map((x, k) => x + at[k]),
            ).flat(),
          );
        const [from, to] = [ends.from, ends.to].map(
          (end) => [...moved(Float32Array.from(end))] as [number, number, number],
        );
        const posed = tubeOf(
          (along) => degrees * along,
          (along) => 0.1 - 0.05 * along,
        );
        // The ends themselves lie at the border of the way: rounded off it they are of no ring.
        const rings = twistRings(moved(rest), moved(posed), all, { from, to }, 8);
        expect(rings).toHaveLength(8);
        for (const { along, turned } of rings)
          expect(Math.abs(turned - degrees * along)).toBeLessThan(0.05 + Math.abs(degrees) / 500);
      }),
      { numRuns: 60 },
    );
  });
  it('a ring bound half and half turns by θ/2 (Kavan et al. 2007); one that nobody asks for, or of too few points, is none', () => {
    const [one, other] = [0, 120].map((degrees) => tubeOf(() => degrees));
    const wrung = rest.map((_, i) => (one[i] + other[i]) / 2);
    for (const { turned } of twistRings(rest, wrung, all, ends)) expect(turned).toBeCloseTo(60, 3);
    expect(twistRings(rest, wrung, new Uint8Array(all.length), ends)).toEqual([]);
    const three = all.map((_, point) => (point < 3 ? 1 : 0));
    expect(twistRings(rest, wrung, three, ends)).toEqual([]);
    expect(twistRings(rest, wrung, all, { from: [0, 0, 0], to: [0, 0, 0] })).toEqual([]);
  });
});
