/**
 * What the deckhand wears: an oilskin coat, a sou'wester, rubber boots; and the lantern. Each has a cage of
 * its own.
 */
import { ARM, TRUNK, armHole, armRing, bodySolid, crown, joint, leg, trunkRing } from './body';
import { type Cage, CageBuilder, type Point, type Weights, mirror } from './cage';
import { drawn } from './solid';
import { quayOther } from '../core/anatomy/skeletons/quay';

/** Five chains a side round the skirt of the coat, by their angle from the front; three bones each. */
export const COAT_CHAINS = [20, 56, 92, 128, 164] as const;
const COAT_HEIGHTS = [0.9, 0.775, 0.65, 0.53] as const;

const skirt = (y: number) => {
  const t = (0.9 - y) / 0.38;
  return { a: 0.203 + 0.066 * t, b: 0.153 + 0.076 * t, z: -0.012 - 0.006 * t };
};

export function coatPlace(chain: number, rank: number): Point {
  const height = COAT_HEIGHTS[rank];
  const s = skirt(height);
  const angle = (COAT_CHAINS[chain] * Math.PI) / 180;
  return [s.a * Math.sin(angle), height, s.z + s.b * Math.cos(angle)];
}

export const coatBone = (chain: number, rank: number) => `coat_${'abcde'[chain]}_${rank + 1}_lt`;

/**
 * Weights of a point of the skirt at a column's angle and a height: two chains by angle, two bones of each by
 * height.
 */
function skirtWeights(deg: number, y: number): Weights {
  const out: Record<string, number> = {};
  let k = 0;
  while (k < 3 && deg > COAT_CHAINS[k + 1]) k++;
  const fraction = Math.min(1, Math.max(0, (deg - COAT_CHAINS[k]) / (COAT_CHAINS[k + 1] - COAT_CHAINS[k])));
  const hang = Math.min(1, Math.max(0, (0.93 - y) / 0.07));
  if (hang < 1) out.pelvis = 1 - hang;
  const along = Math.max(0, Math.min(2.999, ((0.9 - y) / (0.9 - 0.53)) * 3));
  const rank = Math.floor(along);
  const f = along - rank;
  const blendUp = rank > 0 && f < 0.25 ? 0.5 - 2 * f : 0;
  const blendDown = rank < 2 && f > 0.75 ? 2 * (f - 0.75) : 0;
  for (const [chain, share] of [
    [k, 1 - fraction],
    [k + 1, fraction],
  ] as const) {
    if (share <= 0) continue;
    const put = (rank: number, weight: number) => {
      if (weight > 0) out[coatBone(chain, rank)] = (out[coatBone(chain, rank)] ?? 0) + weight * share * hang;
    };
    put(rank, 1 - blendUp - blendDown);
    put(rank - 1, blendUp);
    put(rank + 1, blendDown);
  }
  return out;
}

/**
 * The coat: trunk and sleeves a thumb's breadth off the body, a skirt to the knee, a stand-up collar, and
 * returned hems.
 */
export function coatCage(): Cage {
  const cage = new CageBuilder();
  const solid = bodySolid();
  const wear = (i: number, off: number) => {
    cage.points[i] = drawn(solid, cage.points[i], off, 1, 0.2);
  };
  const rings = TRUNK.slice(1).map((otherRing, i) => {
    const ring = trunkRing(cage, { ...otherRing, a: otherRing.a + 0.03, b: otherRing.b + 0.03 });
    const off = [0.03, 0.026, 0.022, 0.02, 0.02, 0.02, 0.019][i];
    ring.forEach((p) => wear(p, off));
    ring.forEach((point, k) => {
      if (k === 0 || k === 8) cage.points[point] = [0, cage.points[point][1], cage.points[point][2]];
    });
    return ring;
  });
  for (let i = 1; i < rings.length; i++)
    cage.bridge(rings[i - 1], rings[i], 'oilskin', false, (k) => i === rings.length - 1 && k >= 2 && k <= 5);
  // Sleeves, with a returned cuff.
  let ring = armHole(rings[rings.length - 2], rings[rings.length - 1]);
  for (const otherRing of ARM) {
    const next = armRing(cage, Math.min(otherRing.x, 0.7), otherRing.r + 0.02, otherRing.weights);
    next.forEach((p) => wear(p, 0.018 + 0.012 * Math.max(0, (otherRing.x - 0.5) / 0.2)));
    cage.bridge(next, ring, 'oilskin');
    ring = next;
  }
  const cuff = armRing(cage, 0.712, 0.052, { wrist_twist_lt: 0.9, hand_lt: 0.1 });
  const inside = armRing(cage, 0.706, 0.046, { wrist_twist_lt: 0.9, hand_lt: 0.1 });
  const deep = armRing(cage, 0.67, 0.042, { wrist_twist_lt: 1 });
  cage.bridge(cuff, ring, 'oilskin');
  cage.bridge(inside, cuff, 'oilskin');
  cage.bridge(deep, inside, 'oilskin');
  // Collar.
  const collar = [
    { y: 1.512, a: 0.086, b: 0.08, z: -0.026 },
    { y: 1.55, a: 0.082, b: 0.083, z: -0.02 },
    { y: 1.572, a: 0.088, b: 0.09, z: -0.018 },
    { y: 1.572, a: 0.081, b: 0.083, z: -0.018 },
    { y: 1.545, a: 0.07, b: 0.072, z: -0.019 },
  ];
  let below = rings[rings.length - 1];
  for (const [i, c] of collar.entries()) {
    const weights: Weights = i === 0 ? { spine_5: 0.6, neck_1: 0.4 } : { spine_5: 0.35, neck_1: 0.65 };
    const next = trunkRing(cage, { ...c, weights });
    cage.bridge(below, next, 'oilskin', false);
    below = next;
  }
  // Skirt, a returned hem.
  const columns = [0, 30, 58, 74, 90, 106, 122, 150, 180];
  let above = rings[0];
  const heights: [number, number][] = [
    [0.9, 0],
    [0.84, 0],
    [0.775, 0],
    [0.71, 0],
    [0.65, 0],
    [0.59, 0],
    [0.54, 0],
    [0.526, 0.004],
    [0.54, 0.016],
    [0.6, 0.022],
  ];
  for (const [y, inward] of heights) {
    const s = skirt(y);
    const next = columns.map((deg) => {
      const angle = (deg * Math.PI) / 180;
      const wave = 1 + (0.9 - y) * 0.11 * Math.cos(angle * 10);
      return cage.point(
        [
          deg === 0 || deg === 180 ? 0 : (s.a * wave - inward) * Math.sin(angle),
          y,
          s.z + (s.b * wave - inward) * Math.cos(angle),
        ],
        skirtWeights(deg, y),
      );
    });
    cage.bridge(next, above, 'oilskin', false);
    above = next;
  }
  const coat = mirror(cage, quayOther);
  return coat;
}

/** Five toggles down the front and a pocket flap on either side of the skirt are separate, closed parts. */
export function toggles(): Cage {
  const cage = new CageBuilder();
  const solid = bodySolid();
  const rows: [number, Weights][] = [
    [1.4, { spine_5: 1 }],
    [1.31, { spine_4: 1 }],
    [1.22, { spine_3: 1 }],
    [1.13, { spine_2: 1 }],
    [1.04, { spine_1: 1 }],
  ];
  for (const [y, weights] of rows) {
    const front = drawn(solid, [0.022, y, 0.16], 0.026, 1, 0.2);
    pill(cage, [0.022, y, front[2] + 0.002], [0.013, 0.006, 0.006], weights, 'horn');
    pill(cage, [-0.022, y, front[2] + 0.002], [0.013, 0.006, 0.006], weights, 'horn');
  }
  return cage;
}

/** A rounded box of quads, two by two by two. */
export function pill(cage: CageBuilder, c: Point, row: Point, weights: Weights, material: string): void {
  const id = new Map<string, number>();
  const at = (x: number, y: number, z: number) => {
    const key = `${x},${y},${z}`;
    const known = id.get(key);
    if (known !== undefined) return known;
    const length = Math.hypot(x, y, z) ** 0.6 || 1;
    const i = cage.point(
      [
        c[0] + (x / length) * row[0] * 1.2,
        c[1] + (y / length) * row[1] * 1.2,
        c[2] + (z / length) * row[2] * 1.2,
      ],
      weights,
    );
    id.set(key, i);
    return i;
  };
  const axes: [Point, Point, Point][] = [
    [
      [1, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ],
    [
      [0, 1, 0],
      [0, 0, 1],
      [1, 0, 0],
    ],
    [
      [0, 0, 1],
      [1, 0, 0],
      [0, 1, 0],
    ],
  ];
  for (const [n, u, v] of axes) {
    for (const s of [1, -1]) {
      for (const i of [-1, 0]) {
        for (const j of [-1, 0]) {
          const p = (a: number, b: number) =>
            at(
              n[0] * s + u[0] * a + v[0] * b,
              n[1] * s + u[1] * a + v[1] * b,
              n[2] * s + u[2] * a + v[2] * b,
            );
          const rotation = [p(i, j), p(i + 1, j), p(i + 1, j + 1), p(i, j + 1)];
          cage.face(s > 0 ? rotation : rotation.reverse(), material);
        }
      }
    }
  }
}

/** A sou'wester: crown, band and a brim that falls long behind. */
export function capCage(): Cage {
  const cage = new CageBuilder();
  const weights: Weights = { cap: 1 };
  const brim = (y: number, a: number, b: number, z: number, drop: number, long: number) => {
    const ring = trunkRing(cage, { y, a, b, z, weights });
    ring.forEach((point, k) => {
      const [x, py, pz] = cage.points[point];
      const back = Math.max(0, -Math.cos(([0, 30, 58, 74, 90, 106, 122, 150, 180][k] * Math.PI) / 180));
      const front = Math.max(0, Math.cos(([0, 30, 58, 74, 90, 106, 122, 150, 180][k] * Math.PI) / 180));
      cage.points[point] = [
        x,
        py - drop * (0.45 + 0.55 * back) + drop * 0.55 * front,
        pz - long * back * back,
      ];
    });
    return ring;
  };
  const rings = [
    trunkRing(cage, { y: 1.712, a: 0.083, b: 0.106, z: 0.001, weights }),
    trunkRing(cage, { y: 1.698, a: 0.0855, b: 0.1085, z: 0.001, weights }),
    brim(1.69, 0.115, 0.138, 0.001, 0.016, 0.02),
    brim(1.684, 0.15, 0.17, 0, 0.045, 0.06),
    brim(1.689, 0.153, 0.173, 0, 0.045, 0.062),
    brim(1.698, 0.117, 0.14, 0.001, 0.014, 0.02),
    trunkRing(cage, { y: 1.708, a: 0.094, b: 0.117, z: 0.001, weights }),
    trunkRing(cage, { y: 1.725, a: 0.092, b: 0.114, z: 0, weights }),
    trunkRing(cage, { y: 1.75, a: 0.085, b: 0.105, z: -0.002, weights }),
    trunkRing(cage, { y: 1.772, a: 0.066, b: 0.082, z: -0.004, weights }),
  ];
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], 'oilskin', false);
  crown(cage, rings[rings.length - 1], 1.786, weights, 'oilskin');
  return mirror(cage, quayOther);
}

/** Rubber boots: the lower leg and foot a finger off the body, with a rim. */
export function bootsCage(): Cage {
  const cage = new CageBuilder();
  const first = leg(cage, null, 'rubber', 0.013, 0.35);
  const low = (dy: number, swell: number) =>
    first.map((point) => {
      const [x, y, z] = cage.points[point];
      return cage.point([0.1 + (x - 0.1) * swell, y + dy, -0.014 + (z + 0.014) * swell], { leg_lower_lt: 1 });
    });
  const rim = low(0.03, 1.07);
  const roll = low(0.036, 1.04);
  const inner = low(0.03, 0.96);
  const deep = low(-0.03, 0.92);
  cage.bridge(first, rim, 'rubber');
  cage.bridge(rim, roll, 'rubber');
  cage.bridge(roll, inner, 'rubber');
  cage.bridge(inner, deep, 'rubber');
  // A flat sole.
  cage.points.forEach((point, i) => {
    if (point[1] < 0.004) cage.points[i] = [point[0], 0, point[2]];
  });
  return mirror(cage, quayOther);
}

/** Two eyes. */
export function eyes(): Cage {
  const cage = new CageBuilder();
  for (const x of [0.0305, -0.0305])
    pill(cage, [x, 1.667, 0.0755], [0.0118, 0.0112, 0.0112], { head: 1 }, 'eye');
  return cage;
}

/** The storm lantern: base, glass, hood and a ring to hold it by; its origin is the ring. */
export function lanternCage(): Cage {
  const cage = new CageBuilder();
  const n = 12;
  const weights: Weights = {};
  const profile: [number, number, string][] = [
    [0.001, -0.335, 'brass'],
    [0.055, -0.335, 'brass'],
    [0.058, -0.33, 'brass'],
    [0.058, -0.295, 'brass'],
    [0.05, -0.288, 'brass'],
    [0.044, -0.284, 'brass'],
    [0.044, -0.278, 'glass'],
    [0.053, -0.235, 'glass'],
    [0.047, -0.185, 'glass'],
    [0.044, -0.178, 'brass'],
    [0.056, -0.172, 'brass'],
    [0.057, -0.166, 'brass'],
    [0.034, -0.135, 'brass'],
    [0.026, -0.12, 'brass'],
    [0.026, -0.105, 'brass'],
    [0.016, -0.096, 'brass'],
    [0.001, -0.094, 'brass'],
  ];
  let below: number[] | null = null;
  for (const [r, y, material] of profile) {
    const ring = Array.from({ length: n }, (_, k) => {
      const a = (k / n) * 2 * Math.PI;
      return cage.point([r * Math.sin(a), y, r * Math.cos(a)], weights);
    });
    if (below) cage.bridge(below, ring, material);
    below = ring;
  }
  // The bail: a thin hoop from shoulder to shoulder over the top.
  const rings: number[][] = [];
  const m = 14;
  for (let i = 0; i <= m; i++) {
    const t = (i / m) * Math.PI;
    const c: Point = [0.054 * Math.cos(t), -0.165 + 0.165 * Math.sin(t), 0];
    const d: Point = [Math.cos(t), Math.sin(t), 0];
    rings.push(
      [0, 1, 2, 3].map((k) => {
        const a = (k * Math.PI) / 2;
        return cage.point(
          [c[0] + d[0] * 0.0028 * Math.cos(a), c[1] + d[1] * 0.0028 * Math.cos(a), 0.0028 * Math.sin(a)],
          weights,
        );
      }),
    );
  }
  for (let i = 1; i <= m; i++) cage.bridge(rings[i], rings[i - 1], 'brass');
  cage.face(rings[0], 'brass');
  cage.face([...rings[m]].reverse(), 'brass');
  return cage;
}

export const lanternPlace = (): Point => {
  const p = joint('hand_rt');
  return [p[0] - 0.07, p[1] - 0.03, p[2]];
};
