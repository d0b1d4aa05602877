/** The Pilot Heron’s body: a trunk with an S of a neck and a beak, long legs, wings of sleeves and feathers. */
import { CageBuilder, type Cage, type Point, type Weights } from './cage';
import { blade } from './blade';
import { type SweepRing, closeHalf, closeRing, halfSweep, tube } from './sweep';

const row = (
  y: number,
  z: number,
  a: number,
  b: number,
  weights: Weights,
  material = 'knit',
): SweepRing & { material: string } => ({ y, z, a, b, weights, material });

/** From below the tail over back, breast and neck to the point of the beak. */
const TRUNK = [
  row(0.572, -0.118, 0.034, 0.03, { pelvis: 0.7, tail: 0.3 }),
  row(0.596, -0.098, 0.078, 0.07, { pelvis: 0.9, tail: 0.1 }),
  row(0.66, -0.065, 0.116, 0.108, { pelvis: 1 }),
  row(0.74, -0.036, 0.134, 0.13, { pelvis: 0.6, spine_1: 0.4 }),
  row(0.83, -0.008, 0.138, 0.138, { spine_1: 0.8, spine_2: 0.2 }),
  row(0.92, 0.01, 0.132, 0.134, { spine_1: 0.25, spine_2: 0.75 }),
  row(1.0, 0.018, 0.11, 0.106, { spine_2: 1 }),
  row(1.05, 0.024, 0.072, 0.07, { spine_2: 0.65, neck_1: 0.35 }, 'canvas'),
  row(1.09, 0.04, 0.05, 0.05, { spine_2: 0.2, neck_1: 0.8 }, 'canvas'),
  row(1.125, 0.055, 0.042, 0.042, { neck_1: 0.8, neck_2: 0.2 }, 'canvas'),
  row(1.16, 0.061, 0.038, 0.038, { neck_1: 0.4, neck_2: 0.6 }, 'canvas'),
  row(1.2, 0.05, 0.035, 0.036, { neck_2: 0.95, neck_3: 0.05 }, 'canvas'),
  row(1.24, 0.027, 0.033, 0.034, { neck_2: 0.5, neck_3: 0.5 }, 'canvas'),
  row(1.28, 0.009, 0.032, 0.034, { neck_3: 0.95, neck_2: 0.05 }, 'canvas'),
  row(1.32, 0.007, 0.034, 0.036, { neck_3: 0.75, head: 0.25 }, 'canvas'),
  row(1.352, 0.022, 0.042, 0.043, { neck_3: 0.25, head: 0.75 }, 'canvas'),
  row(1.378, 0.054, 0.05, 0.05, { head: 1 }, 'canvas'),
  row(1.39, 0.094, 0.047, 0.044, { head: 1 }, 'canvas'),
  row(1.39, 0.13, 0.033, 0.03, { head: 1 }, 'canvas'),
  row(1.388, 0.15, 0.023, 0.019, { head: 1 }, 'horn'),
  row(1.386, 0.19, 0.017, 0.014, { head: 1 }, 'horn'),
  row(1.38, 0.26, 0.0125, 0.0105, { head: 1 }, 'horn'),
  row(1.373, 0.33, 0.008, 0.0075, { head: 1 }, 'horn'),
  row(1.367, 0.385, 0.0028, 0.003, { head: 1 }, 'horn'),
];

/** Half of the trunk, to be mirrored. */
export function trunkHalf(): Cage {
  const cage = new CageBuilder();
  const rings = halfSweep(cage, TRUNK);
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], TRUNK[i].material, false);
  closeHalf(cage, rings[0], TRUNK[0].material, true);
  closeHalf(cage, rings[rings.length - 1], 'horn', false);
  return cage;
}

const LEG: readonly (SweepRing & { x: number; material: string })[] = [
  [0.735, -0.04, 0.072, 0.04, 0.046, { pelvis: 0.75, leg_upper_lt: 0.25 }, 'knit'],
  [0.685, -0.036, 0.074, 0.052, 0.06, { pelvis: 0.4, leg_upper_lt: 0.6 }, 'knit'],
  [0.635, -0.004, 0.078, 0.05, 0.058, { leg_upper_lt: 1 }, 'knit'],
  [0.6, 0.02, 0.081, 0.044, 0.05, { leg_upper_lt: 0.85, leg_lower_lt: 0.15 }, 'knit'],
  [0.568, 0.03, 0.082, 0.039, 0.044, { leg_upper_lt: 0.5, leg_lower_lt: 0.5 }, 'knit'],
  [0.535, 0.024, 0.082, 0.034, 0.038, { leg_lower_lt: 0.9, leg_upper_lt: 0.1 }, 'knit'],
  [0.48, 0.006, 0.083, 0.025, 0.028, { leg_lower_lt: 1 }, 'knit'],
  [0.44, -0.008, 0.083, 0.0145, 0.016, { leg_lower_lt: 1 }, 'skin'],
  [0.38, -0.03, 0.084, 0.0125, 0.0135, { leg_lower_lt: 1 }, 'skin'],
  [0.338, -0.044, 0.084, 0.0145, 0.017, { leg_lower_lt: 0.85, foot_lt: 0.15 }, 'skin'],
  [0.315, -0.05, 0.084, 0.0165, 0.02, { leg_lower_lt: 0.5, foot_lt: 0.5 }, 'skin'],
  [0.292, -0.048, 0.084, 0.0145, 0.017, { foot_lt: 0.9, leg_lower_lt: 0.1 }, 'skin'],
  [0.24, -0.039, 0.084, 0.0105, 0.012, { foot_lt: 1 }, 'skin'],
  [0.12, -0.019, 0.085, 0.0098, 0.011, { foot_lt: 1 }, 'skin'],
  [0.06, -0.009, 0.085, 0.0115, 0.0135, { foot_lt: 0.9, toe_lt: 0.1 }, 'skin'],
  [0.032, -0.004, 0.085, 0.0145, 0.017, { foot_lt: 0.5, toe_lt: 0.5 }, 'skin'],
  [0.016, -0.002, 0.085, 0.013, 0.0155, { toe_lt: 1 }, 'skin'],
].map(([y, z, x, a, b, weights, material]) => ({ y, z, x, a, b, weights, material })) as never;

/** The left leg with its four toes: three ahead, one behind. */
export function legCage(): Cage {
  const cage = new CageBuilder();
  const rings = tube(cage, LEG, 8);
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i], rings[i - 1], LEG[i].material);
  closeRing(cage, rings[0], 'knit', false);
  closeRing(cage, rings[rings.length - 1], 'skin', true);
  const toe = (degrees: number, length: number) => {
    const angle = (degrees * Math.PI) / 180;
    const [s, c] = [Math.sin(angle), Math.cos(angle)];
    const at = (share: number, y: number): Point => [
      0.085 + s * length * share,
      y,
      -0.004 + c * length * share,
    ];
    blade(cage, {
      line: [at(0, 0.02), at(0.3, 0.0135), at(0.62, 0.0115), at(0.85, 0.009), at(1, 0.005)],
      across: [c, 0, -s],
      widths: [0.012, 0.0105, 0.0095, 0.0075, 0.002],
      thicknesses: [0.012, 0.0098, 0.0088, 0.0068, 0.003],
      weights: { toe_lt: 1 },
      material: 'skin',
    });
  };
  toe(-30, 0.115);
  toe(0, 0.135);
  toe(30, 0.115);
  toe(178, 0.07);
  return cage;
}

/** The lower half of the beak, on the jaw. */
export function lowerBeak(): Cage {
  const cage = new CageBuilder();
  blade(cage, {
    line: [
      [0, 1.366, 0.118],
      [0, 1.3655, 0.16],
      [0, 1.3635, 0.21],
      [0, 1.361, 0.28],
      [0, 1.36, 0.35],
    ],
    across: [1, 0, 0],
    widths: [0.022, 0.018, 0.0125, 0.0085, 0.0022],
    thicknesses: [0.011, 0.0095, 0.0075, 0.0055, 0.0022],
    weights: { jaw: 1 },
    material: 'horn',
  });
  return cage;
}

/** Two long plumes at the back of the head. */
export function crest(): Cage {
  const cage = new CageBuilder();
  for (const x of [0.014, -0.014])
    blade(cage, {
      line: [
        [x * 0.6, 1.395, 0.03],
        [x, 1.395, -0.02],
        [x * 1.6, 1.372, -0.075],
        [x * 2.2, 1.33, -0.125],
        [x * 2.6, 1.285, -0.155],
      ],
      across: [1, 0, 0],
      widths: [0.012, 0.014, 0.013, 0.009, 0.002],
      thicknesses: [0.006, 0.0045, 0.004, 0.003, 0.0015],
      weights: { head: 1 },
      material: 'rubber',
    });
  return cage;
}

/** Five feathers of the tail, out from under the coat. */
export function tailFan(): Cage {
  const cage = new CageBuilder();
  for (const k of [-2, -1, 0, 1, 2]) {
    const spread = 0.17 * k;
    const at = (along: number, drop: number): Point => [
      Math.sin(spread) * along + k * 0.012,
      0.622 - 0.62 * along - drop,
      -0.125 - 0.72 * along * Math.cos(spread) - Math.abs(k) * 0.002,
    ];
    blade(cage, {
      line: [at(0, 0), at(0.07, 0), at(0.14, 0.002), at(0.21, 0.006), at(0.26, 0.012)],
      across: [Math.cos(spread), 0.1 * k, -Math.sin(spread)],
      widths: [0.016, 0.027, 0.032, 0.027, 0.008],
      thicknesses: [0.007, 0.0055, 0.0045, 0.004, 0.002],
      weights: { tail: 1 },
      material: 'knit',
    });
  }
  return cage;
}

/** Which way feathers point from the arm of a wing: down and back. */
const DOWN: Point = [0, -0.92, -0.38];
/** Square to the wing’s plane. */
const OUT: Point = [0, -0.38, 0.92];

/** The arm of the left wing by x: height and depth of its middle, half its chord, half its thickness. */
const ARM: readonly [x: number, y: number, z: number, chord: number, thick: number, weights: Weights][] = [
  [0.05, 0.985, 0.008, 0.05, 0.036, { collar_lt: 0.95, wing_upper_lt: 0.05 }],
  [0.086, 0.987, 0.004, 0.053, 0.038, { collar_lt: 0.8, wing_upper_lt: 0.2 }],
  [0.118, 0.99, -0.004, 0.052, 0.037, { collar_lt: 0.5, wing_upper_lt: 0.5 }],
  [0.155, 0.994, -0.009, 0.049, 0.034, { wing_upper_lt: 0.92, collar_lt: 0.08 }],
  [0.22, 1.001, -0.019, 0.045, 0.029, { wing_upper_lt: 1 }],
  [0.285, 1.008, -0.029, 0.043, 0.026, { wing_upper_lt: 0.88, wing_lower_lt: 0.12 }],
  [0.318, 1.012, -0.034, 0.042, 0.025, { wing_upper_lt: 0.5, wing_lower_lt: 0.5 }],
  [0.352, 1.015, -0.029, 0.041, 0.024, { wing_lower_lt: 0.88, wing_upper_lt: 0.12 }],
  [0.43, 1.021, -0.016, 0.038, 0.021, { wing_lower_lt: 1 }],
  [0.51, 1.027, -0.003, 0.035, 0.019, { wing_lower_lt: 0.88, wing_hand_lt: 0.12 }],
  [0.545, 1.03, 0.002, 0.034, 0.018, { wing_lower_lt: 0.5, wing_hand_lt: 0.5 }],
  [0.58, 1.03, -0.001, 0.031, 0.0165, { wing_hand_lt: 0.88, wing_lower_lt: 0.12 }],
  [0.635, 1.029, -0.006, 0.025, 0.013, { wing_hand_lt: 1 }],
  [0.68, 1.0285, -0.011, 0.014, 0.008, { wing_hand_lt: 1 }],
];

/** How far round its section each of the ten points of a ring stands, degrees from the leading edge. */
const SECTION = [18, 54, 90, 126, 162, 198, 234, 270, 306, 342];

/** The left wing: an arm of rings, covered by three rows of feathers. */
export function wingCage(): Cage {
  const cage = new CageBuilder();
  const rings = ARM.map(([x, y, z, chord, thick, weights]) =>
    SECTION.map((degrees) => {
      const angle = (degrees * Math.PI) / 180;
      const along = -Math.cos(angle) * chord;
      const out = Math.sin(angle) * thick;
      return cage.point([x, y + DOWN[1] * along + OUT[1] * out, z + DOWN[2] * along + OUT[2] * out], weights);
    }),
  );
  for (let i = 1; i < rings.length; i++) cage.bridge(rings[i - 1], rings[i], 'knit');
  closeRing(cage, rings[0], 'knit', true);
  closeRing(cage, rings[rings.length - 1], 'knit', false);
  for (const feather of FEATHERS) blade(cage, feather);
  return cage;
}

/** Where the arm’s middle stands at x. */
function armAt(x: number): Point {
  const k = Math.max(
    1,
    ARM.findIndex(([at]) => at >= x),
  );
  const [a, b] = [ARM[k - 1], ARM[k]];
  const share = (x - a[0]) / (b[0] - a[0]);
  return [x, a[1] + share * (b[1] - a[1]), a[2] + share * (b[2] - a[2])];
}

interface FeatherRow {
  readonly bone: string;
  readonly from: number;
  readonly to: number;
  readonly count: number;
  readonly length: readonly [number, number];
  /** How far the feathers lean outwards, degrees, at the first and the last. */
  readonly lean: readonly [number, number];
  readonly width: number;
  readonly layer: number;
  readonly material: string;
}

const ROWS: readonly FeatherRow[] = [
  {
    bone: 'feather_3_lt',
    from: 0.15,
    to: 0.3,
    count: 4,
    length: [0.22, 0.27],
    lean: [-4, 4],
    width: 0.032,
    layer: 0,
    material: 'knit',
  },
  {
    bone: 'feather_2_lt',
    from: 0.335,
    to: 0.53,
    count: 5,
    length: [0.29, 0.33],
    lean: [6, 18],
    width: 0.033,
    layer: 1,
    material: 'knit',
  },
  {
    bone: 'feather_1_lt',
    from: 0.56,
    to: 0.675,
    count: 6,
    length: [0.36, 0.3],
    lean: [22, 74],
    width: 0.027,
    layer: 2,
    material: 'rubber',
  },
];

const FEATHERS = ROWS.flatMap((feathers) =>
  Array.from({ length: feathers.count }, (_, k) => feather(feathers, k / (feathers.count - 1), k % 2)),
);

function feather(of: FeatherRow, share: number, layer: number) {
  const x = of.from + share * (of.to - of.from);
  const [ax, ay, az] = armAt(x);
  const lean = ((of.lean[0] + share * (of.lean[1] - of.lean[0])) * Math.PI) / 180;
  const length = of.length[0] + share * (of.length[1] - of.length[0]);
  const [s, c] = [Math.sin(lean), Math.cos(lean)];
  const aside = 0.005 * (layer === 0 ? 1 : -1) + 0.0012 * of.layer;
  const at = (along: number, bend: number): Point => [
    ax + s * along,
    ay + DOWN[1] * (c * along) + OUT[1] * (aside + bend),
    az + DOWN[2] * (c * along) + OUT[2] * (aside + bend),
  ];
  const shares = [0, 0.3, 0.6, 0.85, 1];
  return {
    line: shares.map((t) => at(0.012 + t * length, -0.03 * t * t)),
    across: [c, -DOWN[1] * s, -DOWN[2] * s] as Point,
    widths: [0.5, 0.9, 1, 0.8, 0.16].map((t) => t * of.width),
    thicknesses: [0.006, 0.005, 0.0042, 0.0034, 0.0018],
    weights: { [of.bone]: 1 },
    material: of.material,
  };
}
