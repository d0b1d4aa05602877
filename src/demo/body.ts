/**
 * The sailor's body: a hand-laid cage for the left half, rings at every joint, and the solid that gives it
 * its form.
 */
import { QUAY } from '../core/anatomy/skeletons/quay';
import { CageBuilder, type Point, type Weights } from './cage';
import { type Solid, blend, bothSides, ellipsoid, pressed, roundCone } from './solid';

export const joint = (name: string): Point => {
  const bone = QUAY.bones.find((candidate) => candidate.name === name);
  if (!bone) throw new Error(`The Quay skeleton has no ${name}.`);
  return bone.place;
};

/** Columns of half a trunk ring, front middle over the left to back middle, in degrees from the front. */
const COLUMNS = [0, 30, 58, 74, 90, 106, 122, 150, 180];
/** The head's columns crowd towards the face. */
const FACE_COLUMNS = [0, 13, 28, 46, 68, 94, 120, 150, 180];
const rad = (deg: number) => (deg * Math.PI) / 180;

export interface TrunkRing {
  readonly y: number;
  readonly a: number;
  readonly b: number;
  readonly z: number;
  readonly weights: Weights;
  readonly side?: Weights;
  readonly square?: number;
}

/**
 * Half a ring of a trunk: an ellipse with half width a and half depth b; `square` above 2 fills its corners.
 */
export function trunkRing(
  cage: CageBuilder,
  ring: TrunkRing,
  columns: readonly number[] = COLUMNS,
): number[] {
  return columns.map((deg, k) => {
    const [s, c] = [Math.sin(rad(deg)), Math.cos(rad(deg))];
    const square = ring.square ?? 2.2;
    const f = (Math.abs(s) ** square + Math.abs(c) ** square) ** (-1 / square);
    const x = deg === 0 || deg === 180 ? 0 : ring.a * s * f;
    return cage.point(
      [x, ring.y, ring.z + ring.b * c * f],
      ring.side && k >= 2 && k <= 6 ? ring.side : ring.weights,
    );
  });
}

/** Rings of the trunk from the hips to the base of the neck. */
export const TRUNK: readonly TrunkRing[] = [
  {
    y: 0.885,
    a: 0.168,
    b: 0.116,
    z: -0.008,
    weights: { pelvis: 0.85, leg_upper_lt: 0.15 },
    side: { pelvis: 0.55, leg_upper_lt: 0.45 },
  },
  {
    y: 0.955,
    a: 0.166,
    b: 0.115,
    z: -0.012,
    weights: { pelvis: 0.95, spine_1: 0.05 },
    side: { pelvis: 0.9, leg_upper_lt: 0.1 },
  },
  { y: 1.03, a: 0.152, b: 0.108, z: -0.012, weights: { pelvis: 0.5, spine_1: 0.5 } },
  { y: 1.115, a: 0.147, b: 0.104, z: -0.012, weights: { spine_1: 0.5, spine_2: 0.5 } },
  { y: 1.2, a: 0.154, b: 0.11, z: -0.014, weights: { spine_2: 0.5, spine_3: 0.5 } },
  { y: 1.285, a: 0.167, b: 0.118, z: -0.016, weights: { spine_3: 0.5, spine_4: 0.5 } },
  {
    y: 1.375,
    a: 0.176,
    b: 0.12,
    z: -0.018,
    weights: { spine_4: 0.45, spine_5: 0.55 },
    side: { spine_4: 0.25, spine_5: 0.5, arm_upper_lt: 0.25 },
  },
  {
    y: 1.483,
    a: 0.158,
    b: 0.085,
    z: -0.026,
    weights: { spine_5: 0.8, neck_1: 0.2 },
    side: { spine_5: 0.3, collar_lt: 0.5, arm_upper_lt: 0.2 },
  },
];

export interface ArmRing {
  readonly x: number;
  readonly r: number;
  readonly weights: Weights;
}

export const ARM: readonly ArmRing[] = [
  { x: 0.222, r: 0.066, weights: { arm_upper_lt: 0.75, collar_lt: 0.25 } },
  { x: 0.29, r: 0.056, weights: { arm_upper_lt: 0.9, arm_twist_lt: 0.1 } },
  { x: 0.37, r: 0.049, weights: { arm_upper_lt: 0.4, arm_twist_lt: 0.6 } },
  { x: 0.435, r: 0.045, weights: { arm_twist_lt: 0.96, arm_lower_lt: 0.04 } },
  { x: 0.478, r: 0.043, weights: { arm_twist_lt: 0.5, arm_lower_lt: 0.5 } },
  { x: 0.523, r: 0.043, weights: { arm_lower_lt: 0.96, arm_twist_lt: 0.04 } },
  { x: 0.6, r: 0.039, weights: { arm_lower_lt: 0.6, wrist_twist_lt: 0.4 } },
  { x: 0.69, r: 0.03, weights: { wrist_twist_lt: 0.95, hand_lt: 0.05 } },
];

const ARM_ANGLES = [28, 59, 90, 121, 152, 208, 239, 270, 301, 332];

/** A ring of ten around the arm: five above from front to back, five below from back to front. */
export function armRing(cage: CageBuilder, x: number, r: number, weights: Weights): number[] {
  const share = Math.min(1, Math.max(0, (x - 0.182) / (0.735 - 0.182)));
  const y = 1.438 - 0.004 * share;
  const z = -0.018 + 0.006 * share - 0.02 * Math.sin(Math.PI * Math.min(1, share)) * 0.5;
  return ARM_ANGLES.map((deg) =>
    cage.point([x, y + r * Math.sin(rad(deg)), z + r * Math.cos(rad(deg))], weights),
  );
}

/** The opening for the arm between the two top rings of a trunk: columns 2 … 6 above, 6 … 2 below. */
export const armHole = (lower: readonly number[], upper: readonly number[]): number[] =>
  [2, 3, 4, 5, 6].map((k) => upper[k]).concat([6, 5, 4, 3, 2].map((k) => lower[k]));

function hand(cage: CageBuilder, wristRing: readonly number[], material: string): void {
  const flat = (x: number, y: number, z: number, weight: number, h: number, weights: Weights) =>
    [0, 1, 2, 3, 4]
      .map((k) =>
        cage.point([x, y + h * (k === 0 || k === 4 ? 0.75 : 1), z + weight - (weight * k) / 2], weights),
      )
      .concat(
        [4, 3, 2, 1, 0].map((k) =>
          cage.point([x, y - h * (k === 0 || k === 4 ? 0.75 : 1), z + weight - (weight * k) / 2], weights),
        ),
      );
  const wrist = flat(0.735, 1.434, -0.012, 0.029, 0.021, { wrist_twist_lt: 0.5, hand_lt: 0.5 });
  const heel = flat(0.762, 1.434, -0.011, 0.037, 0.019, { hand_lt: 1 });
  const palm = flat(0.792, 1.434, -0.01, 0.043, 0.017, { hand_lt: 1 });
  const knuckles = flat(0.823, 1.436, -0.0085, 0.0435, 0.014, { hand_lt: 1 });
  // Fingers knuckle in a gentle arc.
  [0, 1, 2, 3, 4].forEach((k) => {
    const dx = [-0.002, 0.006, 0.007, 0.001, -0.012][k];
    for (const i of [k, 9 - k]) {
      const point = cage.points[knuckles[i]];
      cage.points[knuckles[i]] = [point[0] + dx, point[1], point[2]];
    }
  });
  cage.bridge(wrist, wristRing, material);
  cage.bridge(heel, wrist, material);
  cage.bridge(palm, heel, material, true, (k) => k === 9);
  cage.bridge(knuckles, palm, material);
  ['point', 'long', 'ring', 'small'].forEach((name, k) => finger(cage, knuckles, name, k, material));
  thumb(cage, [heel[0], palm[0], palm[9], heel[9]], material);
}

/** A finger out of the knuckles between its two columns, ring by ring to its tip. */
function finger(
  cage: CageBuilder,
  knuckles: readonly number[],
  name: string,
  k: number,
  material: string,
): void {
  let ring: readonly number[] = [knuckles[k], knuckles[k + 1], knuckles[8 - k], knuckles[9 - k]];
  const [a, b, c] = [1, 2, 3].map((i) => joint(`${name}_${i}_lt`));
  const d: Point = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
  const length = Math.hypot(...d);
  const last = { point: 0.021, long: 0.022, ring: 0.021, small: 0.018 }[name] as number;
  const tip: Point = [
    c[0] + (d[0] / length) * last,
    c[1] + (d[1] / length) * last,
    c[2] + (d[2] / length) * last,
  ];
  const along = (p: Point, q: Point, share: number): Point => [
    p[0] + (q[0] - p[0]) * share,
    p[1] + (q[1] - p[1]) * share,
    p[2] + (q[2] - p[2]) * share,
  ];
  const w = (i: number, x: number): Weights =>
    i === 0
      ? { hand_lt: 1 - x, [`${name}_1_lt`]: x }
      : { [`${name}_${i}_lt`]: 1 - x, [`${name}_${i + 1}_lt`]: x };
  const steps: [Point, number, Weights][] = [
    [along(a, b, 0.3), 0.0098, w(0, 0.92)],
    [along(a, b, 0.8), 0.0094, w(1, 0.06)],
    [b, 0.0094, w(1, 0.5)],
    [along(b, c, 0.3), 0.009, w(1, 0.95)],
    [along(b, c, 0.8), 0.0086, w(2, 0.06)],
    [c, 0.0086, w(2, 0.5)],
    [along(c, tip, 0.35), 0.0082, w(2, 0.96)],
    [along(c, tip, 0.9), 0.006, w(3, 0)],
  ];
  for (const [p, r, weights] of steps) {
    const clean = Object.fromEntries(
      Object.entries(weights).filter(([bone, x]) => x > 0 && bone !== `${name}_4_lt`),
    );
    const s = name === 'small' ? 0.88 : 1;
    const next = [
      [1, 1],
      [1, -1],
      [-1, -1],
      [-1, 1],
    ].map(([sy, sz]) => cage.point([p[0], p[1] + sy * r * s * 1.1, p[2] + sz * r * s * 1.1], clean));
    cage.bridge(next, ring, material);
    ring = next;
  }
  cage.face([ring[3], ring[2], ring[1], ring[0]], material);
}

/** The thumb grows out of the palm's front. */
function thumb(cage: CageBuilder, root: readonly number[], material: string): void {
  const [a, b, c] = [1, 2, 3].map((i) => joint(`thumb_${i}_lt`));
  const d = [0.78, -0.16, 0.6].map((x) => x / Math.hypot(0.78, 0.16, 0.6));
  const side = [-0.6, 0, 0.78].map((x) => x / Math.hypot(0.6, 0.78));
  let ring = root;
  const stations: [Point, number, number, Weights][] = [
    [a, 0.006, 0.0135, { thumb_1_lt: 0.6, hand_lt: 0.4 }],
    [a, 0.03, 0.0125, { thumb_1_lt: 0.94, thumb_2_lt: 0.06 }],
    [b, 0, 0.012, { thumb_1_lt: 0.5, thumb_2_lt: 0.5 }],
    [b, 0.01, 0.0115, { thumb_2_lt: 0.95, thumb_1_lt: 0.05 }],
    [b, 0.024, 0.011, { thumb_2_lt: 0.92, thumb_3_lt: 0.08 }],
    [c, 0, 0.0108, { thumb_2_lt: 0.5, thumb_3_lt: 0.5 }],
    [c, 0.011, 0.0102, { thumb_3_lt: 1 }],
    [c, 0.025, 0.0068, { thumb_3_lt: 1 }],
  ];
  for (const [p, t, r, weights] of stations) {
    const at = [0, 1, 2].map((k) => p[k] + d[k] * t);
    const next = [
      [1, 1],
      [-1, 1],
      [-1, -1],
      [1, -1],
    ].map(([s, share]) =>
      cage.point([at[0] + side[0] * s * r, at[1] + share * r, at[2] + side[2] * s * r] as const, weights),
    );
    cage.bridge(next, ring, material);
    ring = next;
  }
  cage.face([...ring].reverse(), material);
}

const LEG_ANGLES = [-28, 6, 38, 64, 90, 116, 142, 174, 208, 238, 270, 302];

const LEG: readonly { y: number; z: number; x: number; rx: number; rz: number; weights: Weights }[] = [
  { y: 0.8, x: 0.094, z: -0.006, rx: 0.083, rz: 0.094, weights: { leg_upper_lt: 0.93, pelvis: 0.07 } },
  { y: 0.68, x: 0.096, z: 0, rx: 0.073, rz: 0.081, weights: { leg_upper_lt: 1 } },
  { y: 0.565, x: 0.097, z: 0.006, rx: 0.061, rz: 0.066, weights: { leg_upper_lt: 0.96, leg_lower_lt: 0.04 } },
  { y: 0.502, x: 0.098, z: 0.008, rx: 0.056, rz: 0.06, weights: { leg_upper_lt: 0.5, leg_lower_lt: 0.5 } },
  { y: 0.44, x: 0.099, z: 0.002, rx: 0.054, rz: 0.058, weights: { leg_lower_lt: 0.96, leg_upper_lt: 0.04 } },
  { y: 0.34, x: 0.1, z: -0.014, rx: 0.055, rz: 0.061, weights: { leg_lower_lt: 1 } },
  { y: 0.2, x: 0.101, z: -0.024, rx: 0.043, rz: 0.047, weights: { leg_lower_lt: 1 } },
  { y: 0.12, x: 0.102, z: -0.028, rx: 0.039, rz: 0.045, weights: { leg_lower_lt: 0.7, foot_lt: 0.3 } },
];

/** The leg from the opening of the trunk to the toes. `from` skips the rings above a height, for boots. */
export function leg(
  cage: CageBuilder,
  top: readonly number[] | null,
  material: string,
  swell = 0,
  from = 2,
): number[] {
  let ring = top;
  let first: number[] = [];
  for (const row of LEG) {
    if (row.y > from) continue;
    const next = LEG_ANGLES.map((deg) =>
      cage.point(
        [row.x + (row.rx + swell) * Math.sin(rad(deg)), row.y, row.z + (row.rz + swell) * Math.cos(rad(deg))],
        row.weights,
      ),
    );
    if (ring) cage.bridge(next, ring, material);
    else first = next;
    ring = next;
  }
  const foot: { c: Point; up: Point; rx: number; ru: number; weights: Weights }[] = [
    {
      c: [0.104, 0.062, -0.016],
      up: [0, 0.5, 0.86],
      rx: 0.041,
      ru: 0.07,
      weights: { foot_lt: 0.92, leg_lower_lt: 0.08 },
    },
    { c: [0.106, 0.045, 0.028], up: [0, 0.86, 0.5], rx: 0.044, ru: 0.048, weights: { foot_lt: 1 } },
    {
      c: [0.109, 0.032, 0.075],
      up: [0, 0.97, 0.22],
      rx: 0.048,
      ru: 0.034,
      weights: { foot_lt: 0.88, toe_lt: 0.12 },
    },
    { c: [0.11, 0.028, 0.1], up: [0, 1, 0.1], rx: 0.049, ru: 0.029, weights: { foot_lt: 0.5, toe_lt: 0.5 } },
    {
      c: [0.111, 0.025, 0.128],
      up: [0, 1, 0],
      rx: 0.047,
      ru: 0.026,
      weights: { toe_lt: 0.94, foot_lt: 0.06 },
    },
    { c: [0.112, 0.022, 0.162], up: [0, 1, 0], rx: 0.038, ru: 0.021, weights: { toe_lt: 1 } },
  ];
  for (const f of foot) {
    const next = LEG_ANGLES.map((deg) => {
      const [s, c] = [Math.sin(rad(deg)), Math.cos(rad(deg))];
      return cage.point(
        [
          f.c[0] + (f.rx + swell) * s,
          Math.max(f.c[1] + f.up[1] * (f.ru + swell) * c, -swell * 0.2),
          f.c[2] + f.up[2] * (f.ru + swell) * c,
        ],
        f.weights,
      );
    });
    cage.bridge(next, ring as number[], material);
    ring = next;
  }
  const last = ring as number[];
  // Twelve round the toes close with four by two.
  const [inner, outer] = [cage.points[last[10]], cage.points[last[4]]];
  cage.fill(
    [last[11], ...last.slice(0, 11)],
    4,
    2,
    material,
    (share) => [inner[0] + (outer[0] - inner[0]) * share, 0.022, 0.176 + swell * 0.8],
    { toe_lt: 1 },
    false,
  );
  return first;
}

const HEAD: readonly TrunkRing[] = [
  {
    y: 1.512,
    a: 0.072,
    b: 0.066,
    z: -0.024,
    weights: { neck_1: 0.55, spine_5: 0.3, neck_2: 0.15 },
    side: { neck_1: 0.5, spine_5: 0.35, collar_lt: 0.15 },
  },
  { y: 1.538, a: 0.058, b: 0.06, z: -0.018, weights: { neck_2: 0.6, neck_1: 0.4 } },
  { y: 1.566, a: 0.056, b: 0.062, z: -0.01, weights: { neck_2: 0.5, head: 0.5 } },
  { y: 1.586, a: 0.062, b: 0.083, z: 0.01, weights: { head: 0.95, neck_2: 0.05 } },
  { y: 1.606, a: 0.068, b: 0.094, z: 0.014, weights: { head: 1 } },
  { y: 1.63, a: 0.073, b: 0.098, z: 0.012, weights: { head: 1 } },
  { y: 1.655, a: 0.077, b: 0.102, z: 0.008, weights: { head: 1 } },
  { y: 1.68, a: 0.079, b: 0.103, z: 0.005, weights: { head: 1 } },
  { y: 1.705, a: 0.079, b: 0.102, z: 0.002, weights: { head: 1 } },
  { y: 1.735, a: 0.07, b: 0.09, z: -0.002, weights: { head: 1 } },
];

/** The left half of the body; the mirror image is added by the caller. */
export function bodyCage(): CageBuilder {
  const cage = new CageBuilder();
  const rings = TRUNK.map((ring) => trunkRing(cage, ring));
  for (let i = 1; i < rings.length; i++)
    cage.bridge(rings[i - 1], rings[i], 'knit', false, (k) => i === rings.length - 1 && k >= 2 && k <= 5);
  // Arm and hand.
  let ring = armHole(rings[rings.length - 2], rings[rings.length - 1]);
  for (const otherRing of ARM) {
    const next = armRing(cage, otherRing.x, otherRing.r, otherRing.weights);
    cage.bridge(next, ring, 'knit');
    ring = next;
  }
  hand(cage, ring, 'skin');
  // Neck and head.
  let below = rings[rings.length - 1];
  for (const [i, ring] of HEAD.entries()) {
    const next = trunkRing(cage, ring, i > 2 ? FACE_COLUMNS : COLUMNS);
    cage.bridge(below, next, i < 1 ? 'knit' : 'skin', false);
    below = next;
  }
  crown(cage, below, 1.758, { head: 1 }, 'skin');
  // Legs: the trunk's lowest half ring and three points along the crotch.
  const hips = rings[0];
  const crotch = [150, 180, 210].map((_, k) =>
    cage.point([0, [0.856, 0.838, 0.852][k], [-0.062, -0.008, 0.05][k]], { pelvis: 0.8, leg_upper_lt: 0.2 }),
  );
  leg(cage, [...hips, ...crotch], 'canvas');
  return cage;
}

/** Closes half a ring of nine over the top: two by four quads. */
export function crown(
  cage: CageBuilder,
  half: readonly number[],
  y: number,
  weights: Weights,
  material: string,
): void {
  const [p0, p8] = [cage.points[half[0]], cage.points[half[8]]];
  const at = (k: number) => cage.points[half[k]];
  // The middle line from front to back, three points; a row between it and the rim.
  const line = [1, 2, 3].map((k) =>
    cage.point([0, y - [0.012, 0, 0.012][k - 1], p0[2] + ((p8[2] - p0[2]) * k) / 4], weights),
  );
  const row = [0, 1, 2].map((k) =>
    cage.point(
      [at(3 + k)[0] * 0.55, y - [0.016, 0.006, 0.016][k], p0[2] + ((p8[2] - p0[2]) * (k + 1)) / 4],
      weights,
    ),
  );
  // Rim corners: 0 front, 2 the front corner, 3 4 5 side, 6 the back corner, 8 back.
  cage.face([half[0], half[1], row[0], line[0]], material);
  cage.face([half[1], half[2], half[3], row[0]], material);
  cage.face([line[0], row[0], row[1], line[1]], material);
  cage.face([row[0], half[3], half[4], row[1]], material);
  cage.face([line[1], row[1], row[2], line[2]], material);
  cage.face([row[1], half[4], half[5], row[2]], material);
  cage.face([line[2], row[2], half[7], half[8]], material);
  cage.face([row[2], half[5], half[6], half[7]], material);
}

/** The form under the cage: limbs, trunk, hands and a face with brow, nose, chin and ears. */
export function bodySolid(): Solid {
  const limb = (a: string, b: string, ra: number, rb: number) => roundCone(joint(a), joint(b), ra, rb);
  const trunk = blend(
    0.07,
    ellipsoid([0, 1.335, -0.018], [0.172, 0.17, 0.122]),
    ellipsoid([0, 1.12, -0.01], [0.148, 0.19, 0.105]),
    ellipsoid([0, 0.945, -0.012], [0.168, 0.125, 0.12]),
    bothSides(ellipsoid([0.075, 1.36, 0.052], [0.082, 0.062, 0.05])),
    bothSides(ellipsoid([0.078, 0.915, -0.062], [0.082, 0.085, 0.072])),
    bothSides(roundCone([0.05, 1.47, -0.03], [0.185, 1.445, -0.022], 0.042, 0.06)),
  );
  const arm = blend(
    0.03,
    limb('arm_upper_lt', 'arm_lower_lt', 0.061, 0.042),
    limb('arm_lower_lt', 'hand_lt', 0.043, 0.027),
    ellipsoid([0.31, 1.432, -0.012], [0.09, 0.045, 0.048]),
    ellipsoid([0.55, 1.434, -0.022], [0.075, 0.04, 0.041]),
  );
  const legs = blend(
    0.035,
    limb('leg_upper_lt', 'leg_lower_lt', 0.088, 0.056),
    roundCone([0.098, 0.5, 0.006], [0.102, 0.11, -0.026], 0.055, 0.037),
    ellipsoid([0.1, 0.36, -0.03], [0.05, 0.11, 0.05]),
    ellipsoid([0.098, 0.505, 0.022], [0.042, 0.045, 0.042]),
    roundCone([0.104, 0.04, -0.048], [0.11, 0.03, 0.09], 0.038, 0.03),
    ellipsoid([0.111, 0.026, 0.115], [0.047, 0.026, 0.06]),
  );
  const digits = ['point', 'long', 'ring', 'small'].map((file) => {
    const s = file === 'small' ? 0.86 : 1;
    const [a, b, c] = [1, 2, 3].map((i) => joint(`${file}_${i}_lt`));
    const tip: Point = [
      c[0] + (c[0] - b[0]) * 0.62,
      c[1] + (c[1] - b[1]) * 0.62,
      c[2] + (c[2] - b[2]) * 0.62,
    ];
    return blend(
      0.004,
      roundCone(a, b, 0.0106 * s, 0.0096 * s),
      roundCone(b, c, 0.0097 * s, 0.0088 * s),
      roundCone(c, tip, 0.0088 * s, 0.0074 * s),
    );
  });
  const thumb = blend(
    0.006,
    limb('thumb_1_lt', 'thumb_2_lt', 0.0165, 0.0125),
    limb('thumb_2_lt', 'thumb_3_lt', 0.0122, 0.0112),
    roundCone(joint('thumb_3_lt'), [0.843, 1.409, 0.08], 0.011, 0.0085),
  );
  const palm = blend(
    0.02,
    ellipsoid([0.785, 1.434, -0.01], [0.05, 0.0165, 0.046]),
    roundCone([0.735, 1.434, -0.012], [0.8, 1.436, 0.012], 0.021, 0.015),
    roundCone([0.735, 1.434, -0.012], [0.8, 1.434, -0.034], 0.021, 0.014),
  );
  const neck = roundCone([0, 1.46, -0.03], [0, 1.6, -0.008], 0.062, 0.055);
  const left = blend(
    0.012,
    blend(0.03, arm, palm),
    thumb,
    blend(0.003, digits[0], digits[2]),
    blend(0.003, digits[1], digits[3]),
  );
  return blend(0.03, blend(0.05, trunk, bothSides(legs)), bothSides(left), blend(0.03, neck, headSolid()));
}

/** Skull, jaw and chin; brow and cheeks; sockets; nose; lips; ears. */
function headSolid(): Solid {
  let head = blend(
    0.035,
    ellipsoid([0, 1.676, -0.006], [0.079, 0.086, 0.1]),
    ellipsoid([0, 1.625, 0.03], [0.06, 0.062, 0.066]),
    ellipsoid([0, 1.596, 0.052], [0.036, 0.026, 0.034]),
  );
  head = blend(
    0.014,
    head,
    bothSides(roundCone([0.006, 1.69, 0.09], [0.045, 1.688, 0.073], 0.013, 0.011)),
    bothSides(ellipsoid([0.043, 1.642, 0.066], [0.02, 0.017, 0.016])),
  );
  head = pressed(0.014, head, bothSides(ellipsoid([0.031, 1.668, 0.104], [0.022, 0.014, 0.018])));
  head = blend(
    0.02,
    head,
    roundCone([0, 1.676, 0.09], [0, 1.643, 0.105], 0.008, 0.0135),
    bothSides(ellipsoid([0.012, 1.639, 0.097], [0.01, 0.01, 0.01])),
  );
  head = blend(
    0.006,
    head,
    ellipsoid([0, 1.609, 0.093], [0.022, 0.0065, 0.01]),
    ellipsoid([0, 1.598, 0.091], [0.018, 0.0065, 0.01]),
  );
  return blend(0.012, head, bothSides(ellipsoid([0.079, 1.655, -0.004], [0.011, 0.031, 0.02])));
}
