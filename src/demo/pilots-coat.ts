/** What the Pilot Heron wears: a double-breasted coat with sleeves to the elbow of the wing, and a peaked cap. */
import { quayOther } from '../core/anatomy/skeletons/quay';
import { CageBuilder, type Cage, type Point, type Weights, mirror } from './cage';
import { pill } from './clothes';
import { HALF_COLUMNS, type SweepRing, closeHalf, halfSweep } from './sweep';

/** Two chains a side hang from the waist: before and behind, by their angle from the front. */
const CHAINS: readonly (readonly [letter: string, degrees: number])[] = [
  ['a', 42],
  ['b', 132],
];
const CHAIN_HEIGHTS = [0.668, 0.588] as const;

const skirtAt = (y: number) => {
  const share = (0.7 - y) / 0.2;
  return { a: 0.144 + 0.046 * share, b: 0.142 + 0.05 * share, z: -0.045 - 0.014 * share };
};

/** The joints of the skirt: name of the left bone, the one above, place. */
export const skirtJoints = (): [name: string, parent: string, place: Point][] =>
  CHAINS.flatMap(([letter, degrees]) =>
    CHAIN_HEIGHTS.map((y, rank): [string, string, Point] => {
      const { a, b, z } = skirtAt(y);
      const angle = (degrees * Math.PI) / 180;
      return [
        `coat_${letter}_${rank + 1}_lt`,
        rank === 0 ? 'pelvis' : `coat_${letter}_${rank}_lt`,
        [a * Math.sin(angle), y, z + b * Math.cos(angle)],
      ];
    }),
  );

/** Weights of the skirt by column and height: two chains by angle, two bones of each by height. */
function skirtWeights(degrees: number, y: number): Weights {
  const hang = Math.min(1, Math.max(0, (0.7 - y) / 0.06));
  const lower = Math.min(1, Math.max(0, (0.608 - y) / 0.04));
  const behind = Math.min(1, Math.max(0, (degrees - 42) / 90));
  const out: Record<string, number> = { pelvis: 1 - hang };
  for (const [letter, share] of [
    ['a', 1 - behind],
    ['b', behind],
  ] as const) {
    out[`coat_${letter}_1_lt`] = hang * share * (1 - lower);
    out[`coat_${letter}_2_lt`] = hang * share * lower;
  }
  return out;
}

const SKIRT_HEIGHTS = [0.53, 0.575, 0.62, 0.665] as const;

/** How much shorter the skirt is behind, where the tail comes out. */
const lift = (degrees: number, y: number) =>
  0.075 * Math.max(0, -Math.cos((degrees * Math.PI) / 180)) * Math.min(1, Math.max(0, (0.7 - y) / 0.17));

const SHELL: readonly SweepRing[] = [
  { y: 0.71, z: -0.046, a: 0.15, b: 0.148, weights: { pelvis: 0.95, spine_1: 0.05 } },
  { y: 0.745, z: -0.034, a: 0.154, b: 0.15, weights: { pelvis: 0.55, spine_1: 0.45 } },
  { y: 0.83, z: -0.008, a: 0.159, b: 0.159, weights: { spine_1: 0.8, spine_2: 0.2 } },
  { y: 0.915, z: 0.01, a: 0.154, b: 0.155, weights: { spine_1: 0.25, spine_2: 0.75 } },
  { y: 0.985, z: 0.018, a: 0.136, b: 0.132, weights: { spine_2: 1 } },
  { y: 1.035, z: 0.022, a: 0.104, b: 0.1, weights: { spine_2: 0.9, neck_1: 0.1 } },
  { y: 1.062, z: 0.028, a: 0.08, b: 0.078, weights: { spine_2: 0.6, neck_1: 0.4 } },
];

/** The collar stands, falls over and comes back inside. */
const COLLAR: readonly SweepRing[] = [
  { y: 1.092, z: 0.038, a: 0.072, b: 0.07, weights: { spine_2: 0.35, neck_1: 0.65 } },
  { y: 1.124, z: 0.048, a: 0.076, b: 0.075, weights: { spine_2: 0.25, neck_1: 0.75 } },
  { y: 1.137, z: 0.054, a: 0.071, b: 0.07, weights: { spine_2: 0.25, neck_1: 0.75 } },
  { y: 1.126, z: 0.052, a: 0.063, b: 0.062, weights: { spine_2: 0.25, neck_1: 0.75 } },
  { y: 1.09, z: 0.042, a: 0.06, b: 0.058, weights: { spine_2: 0.35, neck_1: 0.65 } },
];

/** A half ring of the skirt, `inside` by so many metres. */
function skirtRing(cage: CageBuilder, height: number, inside: number): number[] {
  const { a, b, z } = skirtAt(height);
  return HALF_COLUMNS.map((degrees) => {
    const angle = (degrees * Math.PI) / 180;
    const fold = 1 + Math.max(0, 0.66 - height) * 0.3 * Math.cos(angle * 8);
    const y = height + lift(degrees, height);
    return cage.point(
      [
        degrees === 0 || degrees === 180 ? 0 : (a * fold - inside) * Math.sin(angle),
        y,
        z + (b * fold - inside) * Math.cos(angle),
      ],
      skirtWeights(degrees, y),
    );
  });
}

/** The coat, both halves. */
export function coatCage(): Cage {
  const cage = new CageBuilder();
  const skirt = [
    skirtRing(cage, 0.62, 0.02),
    skirtRing(cage, 0.545, 0.016),
    skirtRing(cage, 0.525, 0.006),
    ...SKIRT_HEIGHTS.map((y) => skirtRing(cage, y, 0)),
  ];
  const rings = [...skirt, ...halfSweep(cage, [...SHELL, ...COLLAR])];
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], 'oilskin', false);
  return mirror(cage, quayOther);
}

/** The left sleeve by x: height and depth of its middle, half its chord, half its thickness. */
const SLEEVE: readonly [number, number, number, number, number, Weights][] = [
  [0.06, 0.985, 0.008, 0.058, 0.044, { collar_lt: 1 }],
  [0.09, 0.987, 0.003, 0.067, 0.053, { collar_lt: 0.8, wing_upper_lt: 0.2 }],
  [0.118, 0.99, -0.004, 0.07, 0.056, { collar_lt: 0.5, wing_upper_lt: 0.5 }],
  [0.15, 0.994, -0.009, 0.067, 0.053, { wing_upper_lt: 0.92, collar_lt: 0.08 }],
  [0.19, 0.998, -0.015, 0.064, 0.048, { wing_upper_lt: 1 }],
  [0.225, 1.002, -0.02, 0.062, 0.045, { wing_upper_lt: 1 }],
  [0.236, 1.003, -0.022, 0.06, 0.043, { wing_upper_lt: 1 }],
  [0.23, 1.003, -0.021, 0.056, 0.039, { wing_upper_lt: 1 }],
  [0.2, 0.999, -0.016, 0.054, 0.037, { wing_upper_lt: 1 }],
];

/** Sleeves of the coat, from under its shoulders to above the elbows of the wings. */
export function sleevesCage(): Cage {
  const cage = new CageBuilder();
  const rings = SLEEVE.map(([x, y, z, chord, thick, weights]) =>
    Array.from({ length: 10 }, (_, k) => {
      const angle = ((k + 0.5) / 10) * 2 * Math.PI;
      const [along, out] = [-Math.cos(angle) * chord, Math.sin(angle) * thick];
      return cage.point([x, y - 0.92 * along - 0.38 * out, z - 0.38 * along + 0.92 * out], weights);
    }),
  );
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], 'oilskin');
  return mirror(cage, quayOther);
}

/** Two rows of brass buttons down the breast. */
export function buttons(): Cage {
  const cage = new CageBuilder();
  const rows: readonly [number, number, Weights][] = [
    [0.965, 0.1495, { spine_2: 1 }],
    [0.9, 0.163, { spine_2: 1 }],
    [0.835, 0.1525, { spine_1: 1 }],
    [0.77, 0.1245, { spine_1: 1 }],
  ];
  for (const [y, z, weights] of rows)
    for (const x of [0.042, -0.042]) pill(cage, [x, y, z], [0.011, 0.011, 0.005], weights, 'brass');
  return cage;
}

const cap = (y: number, z: number, a: number, b: number): SweepRing => ({ y, z, a, b, weights: { head: 1 } });

/** A cap with a peak over the beak and a brass badge. */
export function pilotsCap(): Cage {
  const cage = new CageBuilder();
  const rows = [
    cap(1.4, 0.046, 0.048, 0.055),
    cap(1.412, 0.045, 0.054, 0.061),
    cap(1.412, 0.046, 0.058, 0.066),
    cap(1.424, 0.045, 0.058, 0.066),
    cap(1.434, 0.042, 0.06, 0.068),
    cap(1.446, 0.038, 0.076, 0.086),
    cap(1.461, 0.036, 0.084, 0.094),
    cap(1.472, 0.036, 0.08, 0.09),
    cap(1.478, 0.036, 0.062, 0.07),
  ];
  // Rings lie flat, whatever the line through their middles does.
  const rings = rows.map(({ y, z, a, b, weights }, i) =>
    HALF_COLUMNS.map((degrees) => {
      const angle = (degrees * Math.PI) / 180;
      const front = Math.max(0, Math.cos(angle));
      const peak = i === 1 || i === 2 ? 0.062 * front ** 1.2 : 0;
      const dip = i === 1 || i === 2 ? 0.014 * front ** 1.2 : 0;
      const rise = i >= 5 ? 0.01 * front : 0;
      return cage.point(
        [
          degrees === 0 || degrees === 180 ? 0 : a * Math.sin(angle),
          y - dip + rise + (i === 2 ? 0.004 : 0),
          z + b * Math.cos(angle) + peak,
        ],
        weights,
      );
    }),
  );
  for (let i = 1; i < rings.length; i++)
    cage.bridge(rings[i - 1], rings[i], i < 3 ? 'rubber' : 'oilskin', false);
  closeHalf(cage, rings[rings.length - 1], 'oilskin', false);
  return mirror(cage, quayOther);
}

/** The badge of the cap. */
export function badge(): Cage {
  const cage = new CageBuilder();
  pill(cage, [0, 1.437, 0.114], [0.011, 0.013, 0.005], { head: 1 }, 'brass');
  return cage;
}

/** Two eyes. */
export function birdEyes(): Cage {
  const cage = new CageBuilder();
  for (const x of [0.0425, -0.0425])
    pill(cage, [x, 1.393, 0.085], [0.006, 0.0095, 0.0095], { head: 1 }, 'eye');
  return cage;
}
