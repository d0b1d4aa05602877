import type { FigureBone } from '../../worker/figure';

/**
 * The shape of a twig: a slim tapered limb, a round knuckle at the joint, and a leaf blade that stands in the
 * plane in which the hinge opens. It is the same for every bone; what differs is how long the bone is, how
 * thick it is drawn and where it stands.
 */

/**
 * A place of the shape, in the bone's own frame: along it, across it in the plane of its hinge, and square to
 * both.
 */
interface ShapePoint {
  /** Shares of the bone's length and of its thickness. */
  readonly along: readonly [number, number];
  /** Shares of its thickness and of its leaf's width. */
  readonly across: readonly [number, number];
  /** Share of its thickness. */
  readonly aside: number;
}

const LIMB_SIDES = 6;
const KNUCKLE_SIDES = 8;
const KNUCKLE = 1.55;
const TURN = 2 * Math.PI;

/** Share of the length and thickness of each ring of the limb, from the knuckle to a fine tip. */
const RINGS = [
  [0, 0.85],
  [0.12, 1],
  [0.98, 0.28],
] as const;

/** Where the belts of the knuckle run: angles from its waist, radians. */
const BELTS = [-0.6, 0, 0.6];

/** Along the leaf, which lies from 0.26 to 0.66 of the bone. */
const LEAF = [0, 0.25, 0.55, 0.8, 1];

const around = (sides: number) => Array.from({ length: sides }, (_, k) => (k / sides) * TURN);

const ringPoints = (along: readonly [number, number], radius: number, sides: number): ShapePoint[] =>
  around(sides).map((a) => ({
    along,
    across: [radius * Math.cos(a), 0],
    aside: radius * Math.sin(a),
  }));

/** Two triangles for every side between two rings that start at `low` and `high`. */
const ringSides = (low: number, high: number, sides: number): number[] =>
  around(sides).flatMap((_, k) => {
    const n = (k + 1) % sides;
    return [low + k, low + n, high + n, low + k, high + n, high + k];
  });

function shapeOfTwig(): { readonly points: readonly ShapePoint[]; readonly triangles: readonly number[] } {
  const points: ShapePoint[] = [];
  const triangles: number[] = [];
  const add = (some: readonly ShapePoint[]): number => points.push(...some) - some.length;

  const limb = RINGS.map(([t, radius]) => add(ringPoints([t, 0], radius, LIMB_SIDES)));
  for (let j = 1; j < limb.length; j++) triangles.push(...ringSides(limb[j - 1], limb[j], LIMB_SIDES));

  const low = add([{ along: [0, -KNUCKLE], across: [0, 0], aside: 0 }]);
  const high = add([{ along: [0, KNUCKLE], across: [0, 0], aside: 0 }]);
  const belts = BELTS.map((belt) =>
    add(ringPoints([0, KNUCKLE * Math.sin(belt)], KNUCKLE * Math.cos(belt), KNUCKLE_SIDES)),
  );
  for (let k = 0; k < KNUCKLE_SIDES; k++) {
    const n = (k + 1) % KNUCKLE_SIDES;
    triangles.push(low, belts[0] + n, belts[0] + k, high, belts[2] + k, belts[2] + n);
  }
  for (let j = 1; j < belts.length; j++) triangles.push(...ringSides(belts[j - 1], belts[j], KNUCKLE_SIDES));

  // On one side only, so that a half turn shows.
  const leafPoint = (share: number, width: number): ShapePoint => ({
    along: [0.26 + 0.4 * share, 0],
    across: [0.7, 0.34 * share + width],
    aside: 0,
  });
  const spine = add(LEAF.map((share) => leafPoint(share, 0)));
  const edge = add(
    LEAF.map((share) =>
      leafPoint(share, Math.sin(Math.PI * Math.min(1, share * 0.92 + 0.04)) * (1 - 0.3 * share)),
    ),
  );
  for (let j = 1; j < LEAF.length; j++)
    triangles.push(spine + j - 1, spine + j, edge + j, spine + j - 1, edge + j, edge + j - 1);
  return { points, triangles };
}

const SHAPE = shapeOfTwig();

/** Vertices of one twig. */
export const TWIG_VERTICES = SHAPE.points.length;

/** Triangles of one twig. */
export const TWIG_TRIANGLES = SHAPE.triangles.length / 3;

/** The triangles of so many twigs, one after another. */
export function twigIndex(count: number): Uint32Array {
  const { triangles } = SHAPE;
  const index = new Uint32Array(count * triangles.length);
  for (let i = 0; i < count; i++)
    for (let k = 0; k < triangles.length; k++)
      index[i * triangles.length + k] = triangles[k] + i * TWIG_VERTICES;
  return index;
}

/** A bone shorter than this has no leaf: it would be a speck. Share of the figure's height. */
const LEAFLESS = 0.012;

/**
 * Writes where a bone's twig stands.
 * @param size how thick twigs are drawn; 1 as the house draws them
 * @param height of the figure, metres: twigs are as thick beside a giant as beside a sprite
 * @param points three floats a vertex, metres in the world's space, written from `start` on
 */
export function placeTwig(
  bone: FigureBone,
  size: number,
  height: number,
  points: Float32Array,
  start: number,
): void {
  const { from, to } = bone;
  const dx = to[0] - from[0];
  const dy = to[1] - from[1];
  const dz = to[2] - from[2];
  const length = Math.hypot(dx, dy, dz) || 1e-6;
  const along = [dx / length, dy / length, dz / length];
  const across = squareTo(along, bone.across);
  const aside = cross(along, across);
  const thick = size * (bone.helper ? 0.6 : 1) * Math.min(0.0054 * height, 0.06 * length + 0.0006 * height);
  const leaf = length > LEAFLESS * height ? Math.min(length * 0.2, 0.016 * height * size) : 0;
  let at = start;
  for (const point of SHAPE.points) {
    const t = point.along[0] * length + point.along[1] * thick;
    const share = point.across[0] * thick + point.across[1] * leaf;
    const vertex = point.aside * thick;
    for (let k = 0; k < 3; k++) points[at++] = from[k] + along[k] * t + across[k] * share + aside[k] * vertex;
  }
}

/**
 * The part of a direction that is square to another, of length one; some other square direction where there
 * is none.
 */
function squareTo(along: readonly number[], wanted: readonly number[]): readonly number[] {
  const dot = along[0] * wanted[0] + along[1] * wanted[1] + along[2] * wanted[2];
  const part = [wanted[0] - along[0] * dot, wanted[1] - along[1] * dot, wanted[2] - along[2] * dot];
  if (Math.hypot(part[0], part[1], part[2]) >= 1e-3) return unit(part);
  return unit(Math.abs(along[1]) < 0.9 ? cross(along, [0, 1, 0]) : cross(along, [1, 0, 0]));
}

function unit(a: readonly number[]): readonly number[] {
  const length = Math.hypot(a[0], a[1], a[2]) || 1;
  return [a[0] / length, a[1] / length, a[2] / length];
}

const cross = (a: readonly number[], b: readonly number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
