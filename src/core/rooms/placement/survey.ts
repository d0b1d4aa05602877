/**
 * What is measured of a character as a whole, in metres and degrees. Each question is answered once for a
 * character.
 */
import { restPlace, restWorld, weightOfNodes } from '../../character/hierarchy';
import {
  type Box,
  bodyBox,
  bodyMeshes,
  boxOf,
  characterHeight,
  placedMeshes,
  skeletonBox,
} from '../../character/measure';
import { type Character } from '../../character/model';
import { morphedPositions, morphsAt } from '../../character/morphs';
import { type Vec3, decompose, distance, dot, length, normalise, subtract } from '../../geometry/matrix';
import { meaningOf } from '../../anatomy/bones';
import { insideOf, lieInside } from './inside';
import { AXES, type SignedAxis, degreesBetween, nearestAxis, squareAgainst } from '../../anatomy/bearing';
import { bodyKindOf } from '../../anatomy/body-kind';
import { type Landmark, type Landmarks, bearingOf, landmarksOf } from '../../anatomy/landmarks';
import { type Symmetry, symmetryOf } from '../../geometry/symmetry';

function once<T>(ask: (character: Character) => T): (character: Character) => T {
  const known = new WeakMap<Character, { value: T }>();
  return (character) => {
    let k = known.get(character);
    if (!k) {
      k = { value: ask(character) };
      known.set(character, k);
    }
    return k.value;
  };
}

/** The height of a box, metres; null of none. */
export const heightOf = (box: Box | null): number | null => (box ? box.max[1] - box.min[1] : null);

/** The height of the body, sole to crown, metres; null where there is no mesh. */
export const bodyHeight = once((character) => heightOf(bodyBox(character)));

/** The height of the skeleton, metres; null where there are no bones. */
export const skeletonHeight = once((character) => heightOf(skeletonBox(character)));

/** Height of the lowest point of the body; null where there is none. */
export const groundGap = once((character) => bodyBox(character)?.min[1] ?? null);

/** The plane about which the body mirrors best; twins within a thousandth of the height. */
export const middleOf = once((character): Symmetry | null =>
  symmetryOf(
    bodyMeshes(character).map((placed) => placed.points),
    characterHeight(character) * 0.001,
  ),
);

/** Below this share of twins a body is not symmetric, and its middle says nothing. */
export const SYMMETRIC = 0.7;

/** The ground that a body stands on, metres. */
export interface Footprint {
  readonly min: readonly [number, number];
  readonly max: readonly [number, number];
  /** How far the origin lies outside of it, along x and z. */ readonly outside: readonly [number, number];
}

/** The ground that the body stands on (x and z of its lowest 5 %), and where the origin lies against it. */
export const footprintOf = once((character): Footprint | null => {
  const box = bodyBox(character);
  if (!box) return null;
  const top = box.min[1] + (box.max[1] - box.min[1]) * 0.05;
  const min: [number, number] = [Infinity, Infinity];
  const max: [number, number] = [-Infinity, -Infinity];
  for (const { points } of bodyMeshes(character)) {
    for (let i = 0; i < points.length; i += 3) {
      if (points[i + 1] > top) continue;
      if (points[i] < min[0]) min[0] = points[i];
      if (points[i] > max[0]) max[0] = points[i];
      if (points[i + 2] < min[1]) min[1] = points[i + 2];
      if (points[i + 2] > max[1]) max[1] = points[i + 2];
    }
  }
  if (min[0] > max[0]) return null;
  const out = (k: 0 | 1) => Math.max(0, min[k], -max[k]);
  return { min, max, outside: [out(0), out(1)] };
});

/** Within this angle a figure counts as facing along an axis, or standing along it. */
export const FACING_DEGREES = 8;

/** The same for a body on four legs or with wings: its limbs tell no more exactly. */
export const BEAST_FACING_DEGREES = 20;

/** How a figure stands and where it looks. */
export interface Facing {
  /** The figure's own upright and left, unit vectors of the world at right angles. */
  readonly upright: Vec3;
  readonly left: Vec3;
  /** Its front, level where it stands. */
  readonly ahead: Vec3;
  readonly forward: SignedAxis;
  readonly up: SignedAxis;
  /** True where upright and hips lie along the axes. */
  readonly stands: boolean;
  /** True where left and right of the names are exchanged against the toes. */
  readonly crossed: boolean;
  /** Angle of the upright against +Y, degrees. */
  readonly upOff: number;
  /** Within this angle it counts as facing along an axis, degrees. */
  readonly within: number;
  /** Angle between the figure's front and an axis, degrees. */
  forwardOff(axis: SignedAxis): number;
}

/** How the figure stands and looks; null where its landmarks do not tell. */
export const facingOf = once((character): Facing | null => {
  const bearing = bearingOf(character);
  if (!bearing) return null;
  const { up: upright, left, crossed } = bearing;
  const up = nearestAxis(upright);
  const within = bodyKindOf(character).kind === 'two-legged' ? FACING_DEGREES : BEAST_FACING_DEGREES;
  const stands =
    degreesBetween(upright, AXES[up]) <= within && Math.abs(90 - degreesBetween(left, AXES[up])) <= within;
  const ahead = stands ? (squareAgainst(bearing.forward, AXES[up]) ?? bearing.forward) : bearing.forward;
  return {
    upright,
    left,
    ahead,
    up,
    stands,
    forward: nearestAxis(ahead),
    crossed,
    upOff: degreesBetween(upright, AXES.y),
    within,
    forwardOff: (axis) => degreesBetween(ahead, AXES[axis]),
  };
});

/** How an arm or a leg stands. */
export interface LimbStance {
  readonly limb: 'arm' | 'leg';
  readonly side: 'left' | 'right';
  /** Arms: degrees below the horizontal. Legs: degrees off the vertical. */ readonly angle: number;
  /** Angle of the elbow or knee, degrees; 0 is straight. */ readonly bend: number;
  /** Nodes from the base to the end. */ readonly nodes: readonly [number, number, number];
}

/**
 * How the limbs stand, against the figure's own up, so that a figure that lies down is not reported twice.
 */
export const limbStances = once((character): LimbStance[] => {
  const marks = landmarksOf(character);
  const facing = facingOf(character);
  if (!facing || bodyKindOf(character).kind !== 'two-legged') return [];
  const up = facing.upright;
  return (['arm', 'leg'] as const).flatMap((limb) =>
    (['left', 'right'] as const).flatMap((side): LimbStance[] => {
      const nodes = (
        limb === 'arm' ? ['upperarm', 'lowerarm', 'hand'] : ['upperleg', 'lowerleg', 'foot']
      ).map((path) => marks.get(`${path} ${side}` as Landmark));
      if (nodes.some((node) => node === undefined)) return [];
      const [a, b, direction] = (nodes as number[]).map((node) => restPlace(character.nodes, node));
      const way = subtract(direction, a);
      if (length(way) < 1e-6 || distance(a, b) < 1e-6 || distance(b, direction) < 1e-6) return [];
      const rise = Math.asin(Math.max(-1, Math.min(1, dot(normalise(way), up)))) * (180 / Math.PI);
      return [
        {
          limb,
          side,
          angle: limb === 'arm' ? -rise : 90 + rise,
          bend: degreesBetween(subtract(b, a), subtract(direction, b)),
          nodes: nodes as [number, number, number],
        },
      ];
    }),
  );
});

/** How the joints of a body lie in it. */
export interface Overlap {
  readonly joints: number;
  readonly inside: number;
  /** Over the joints outside, metres. */ readonly mean: number;
  readonly worst: number;
  readonly worstNode: number;
  /** Nodes of the joints outside. */ readonly outside: readonly number[];
}

/** So many joints are looked at; of a skeleton that has more, evenly chosen ones stand for all. */
const MOST_JOINTS = 600;

/** The joints of the body. Control bones, tips, and bones of clothes do not count. */
const bodyJoints = once((character): number[] => {
  const weight = weightOfNodes(character);
  const bound = character.nodes.some((node) => node.skin >= 0);
  const marks = new Set(landmarksOf(character).values());
  const all = character.nodes.flatMap((node, i) => {
    if (node.kind !== 'bone') return [];
    const meaning = meaningOf(character, i);
    if (meaning.kind === 'end' || meaning.part === 'root') return [];
    return marks.has(i) || (bound && weight[i] > 0 && meaning.part !== '') ? [i] : [];
  });
  const step = Math.ceil(all.length / MOST_JOINTS);
  return step <= 1 ? all : all.filter((i, k) => marks.has(i) || k % step === 0);
});

/** How many joints of the body lie inside the body. */
export const overlapOf = once((character): Overlap | null => {
  const joints = bodyJoints(character);
  const meshes = bodyMeshes(character);
  if (joints.length < 3 || meshes.length === 0) return null;
  const lies = lieInside(
    joints.flatMap((j) => restPlace(character.nodes, j)),
    meshes,
  );
  const outside = joints.filter((_, k) => !lies[k].inside);
  const far = lies.filter((ly) => !ly.inside).map((lie) => lie.outside);
  const worst = Math.max(0, ...far);
  return {
    joints: joints.length,
    inside: joints.length - outside.length,
    mean: far.length > 0 ? far.reduce((a, b) => a + b, 0) / far.length : 0,
    worst,
    worstNode: outside[far.indexOf(worst)] ?? -1,
    outside,
  };
});

/** Sizes that are tried between the least and the most. */
const TRIES = 13;

/**
 * The height of the skeleton, between two, at which most of the body's joints lie inside the body when it is
 * scaled about the world's origin; the middle of such heights where there are several, and of the two where
 * nothing tells. Metres.
 */
export function fittingHeight(character: Character, least: number, most: number): number {
  const height = skeletonHeight(character);
  const joints = bodyJoints(character);
  const meshes = bodyMeshes(character);
  if (!height || joints.length < 3 || meshes.length === 0) return (least + most) / 2;
  const heights = Array.from({ length: TRIES }, (_, k) => least + ((most - least) * (k + 0.5)) / TRIES);
  const places = joints.flatMap((j) => restPlace(character.nodes, j));
  const inside = insideOf(
    heights.flatMap((otherHeight) => places.map((x) => (x * otherHeight) / height)),
    meshes,
  );
  const counts = heights.map((_, k) =>
    inside.subarray(k * joints.length, (k + 1) * joints.length).reduce((a, b) => a + b, 0),
  );
  const best = Math.max(...counts);
  const good = heights.filter((_, k) => counts[k] === best);
  return (good[0] + good[good.length - 1]) / 2;
}

/** A segment of a figure beside its share in a table. */
export interface Segment {
  readonly label: string;
  /** Share of the stature. */ readonly share: number;
  readonly table: number;
}

/**
 * Segments of a human figure as shares of its stature, beside the table of Drillis & Contini (1966) as
 * Winter's “Biomechanics and Motor Control of Human Movement” gives it. An aid for the eye, not a rule:
 * stylised figures differ on purpose.
 */
export const segmentsOf = once((character): Segment[] => {
  const height = bodyHeight(character) ?? skeletonHeight(character);
  const marks: Landmarks = landmarksOf(character);
  if (!height) return [];
  const at = (landmark: Landmark): Vec3 | null => {
    const i = marks.get(landmark);
    return i === undefined ? null : restPlace(character.nodes, i);
  };
  const floor = groundGap(character) ?? skeletonBox(character)?.min[1] ?? 0;
  const between = (a: Landmark, b: Landmark) => {
    const point = at(a);
    const place = at(b);
    return point && place ? distance(point, place) : null;
  };
  const level = (landmark: Landmark) => {
    const point = at(landmark);
    return point ? point[1] - floor : null;
  };
  const wide = between('upperarm left', 'upperarm right');
  const rows: [string, number | null, number][] = [
    ['Upper arm', between('upperarm left', 'lowerarm left'), 0.186],
    ['Forearm', between('lowerarm left', 'hand left'), 0.146],
    ['Thigh', between('upperleg left', 'lowerleg left'), 0.245],
    ['Shin', between('lowerleg left', 'foot left'), 0.246],
    ['Half shoulder width', wide === null ? null : wide / 2, 0.129],
    ['Shoulder above the ground', level('upperarm left'), 0.818],
    ['Hip above the ground', level('upperleg left'), 0.53],
    ['Knee above the ground', level('lowerleg left'), 0.285],
    ['Ankle above the ground', level('foot left'), 0.039],
  ];
  return rows.flatMap(([label, metres, table]) =>
    metres === null ? [] : [{ label, share: metres / height, table }],
  );
});

/** Box of what one node shows at rest. */
export function boxOfNode(character: Character, node: number): Box | null {
  const placed = placedMeshes(character).find((mesh) => mesh.node === node);
  return placed ? boxOf([placed.points]) : null;
}

/**
 * The longest side of what a node shows, in the node's own space and at its size in the world: the same
 * however it is held. Metres.
 */
export function longSideOf(character: Character, node: number): number | null {
  const { mesh } = character.nodes[node];
  const box = mesh >= 0 ? boxOf([morphedPositions(character.meshes[mesh], morphsAt(character, node))]) : null;
  if (!box) return null;
  const { scale } = decompose(restWorld(character.nodes), node * 16);
  return Math.max(...[0, 1, 2].map((k) => (box.max[k] - box.min[k]) * Math.abs(scale[k])));
}
