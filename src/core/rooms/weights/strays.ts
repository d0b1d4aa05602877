/** Weight where it does not belong: far from its bone, on the other side, or unlike all round it. Found by how the surface hangs together. */
import { boneKindsOf } from '../../anatomy/bone-kinds';
import { bonesOf } from '../../character/hierarchy';
import { characterHeight, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { placesOfPoints } from '../../character/point-places';
import { topologyOf } from '../../character/topology';
import type { PointNeighbours } from '../../geometry/half-edges';
import { type BoneSegment, squaredToSegment } from '../../geometry/heat-weights';
import { boneSegments } from './bone-segments';
import { twinNodesOf } from './sides';
import { type PointShares, sharesOfMesh } from './steps';

/** Points of a mesh that a bone pulls and should not. */
export interface Stray {
  readonly node: number;
  readonly bone: number;
  readonly points: readonly number[];
  /** The largest share that it has there. */
  readonly most: number;
  /** How far they are from the bone at most, metres. */
  readonly far: number;
}

/** What is known of all meshes at once. */
interface Bound {
  readonly node: number;
  readonly shares: PointShares;
  readonly places: Float32Array;
  readonly neighbours: PointNeighbours;
  readonly joints: readonly number[];
}

function boundMeshes(character: Character): Bound[] {
  return placedMeshes(character).flatMap(({ node, mesh, skin, points }): Bound[] =>
    skin && mesh.influences
      ? [
          {
            node,
            shares: sharesOfMesh(mesh) as PointShares,
            places: placesOfPoints(mesh, points),
            neighbours: topologyOf(mesh).neighbours,
            joints: skin.joints,
          },
        ]
      : [],
  );
}

/** A bone that has less of a point is dust there, which another check tells. */
const FELT = 0.02;

/** What moves a point so little that nobody sees it is no matter of where it lies. */
const SEEN = 0.05;

/** A patch is astray where it holds less than this share of what the bone holds in its largest one. */
const PATCH = 0.15;

/** And where it lies so many times as far from the bone as most of that, */
const FARTHER = 2.5;

/** and farther than this share of the height. */
const LEAST_FAR = 0.06;

export interface Strays {
  readonly far: readonly Stray[];
  readonly across: readonly Stray[];
  readonly odd: readonly {
    readonly node: number;
    readonly points: readonly number[];
    readonly most: number;
  }[];
}

const known = new WeakMap<Character, Strays>();

/** Computed once for a character. */
export function straysOf(character: Character): Strays {
  let strays = known.get(character);
  if (!strays) known.set(character, (strays = find(character)));
  return strays;
}

function find(character: Character): Strays {
  const meshes = boundMeshes(character);
  const bones = bonesOf(character);
  const segments = segmentsByBone(character, bones);
  const twinOf = twinNodesOf(character);
  const height = characterHeight(character);
  const kinds = boneKindsOf(character);
  const far: Stray[] = [];
  const across: Stray[] = [];
  for (const mesh of meshes)
    for (const [bone, patches] of patchesOf(mesh)) {
      const own = segments.get(bone);
      if (!own) continue;
      const twin = twinOf(bone);
      // Cloth of both sides meets in the middle, and may well pull there what lies beyond.
      const theirs = twin === bone || kinds.get(bone)?.kind === 'cloth' ? undefined : segments.get(twin);
      const joint = mesh.joints.indexOf(bone);
      const crossed = theirs
        ? patches.flatMap(({ points }) =>
            points.filter((point) => isAcross(mesh, point, joint, own, theirs, height)),
          )
        : [];
      if (crossed.length > 0) across.push(strayOf(mesh, bone, crossed, own));
      if (patches.length < 2) continue;
      const [main, ...others] = patches;
      const told = new Set(crossed);
      const usual = middle(main.points.map((point) => away(own, mesh.places, point)));
      for (const { points, held } of others) {
        if (held > main.held * PATCH || points.some((point) => told.has(point))) continue;
        const reach = points.reduce(
          (least, point) => Math.min(least, away(own, mesh.places, point)),
          Infinity,
        );
        if (reach < usual * FARTHER || reach < height * LEAST_FAR) continue;
        const stray = strayOf(mesh, bone, points, own);
        if (stray.most >= SEEN) far.push(stray);
      }
    }
  return { far: joinedStrays(far), across: joinedStrays(across), odd: meshes.flatMap(oddPoints) };
}

/** A point that lies on the side of the bone's twin, well away from the bone, and that the bone pulls enough to be seen. */
function isAcross(
  { shares, places }: Bound,
  point: number,
  joint: number,
  own: readonly BoneSegment[],
  theirs: readonly BoneSegment[],
  height: number,
): boolean {
  // Nearer to the bone's own joint than to its twin's: most points are told by that alone.
  if (fromJoint(own[0], places, point) <= fromJoint(theirs[0], places, point)) return false;
  if (shares.shareOf(point, joint) < SEEN) return false;
  const far = away(own, places, point);
  return far > height * LEAST_FAR && 2 * away(theirs, places, point) < far;
}

const fromJoint = ({ from: [x, y, z] }: BoneSegment, places: ArrayLike<number>, point: number): number =>
  (places[point * 3] - x) ** 2 + (places[point * 3 + 1] - y) ** 2 + (places[point * 3 + 2] - z) ** 2;

/** Those of one bone on one mesh as one. */
function joinedStrays(strays: readonly Stray[]): Stray[] {
  const out = new Map<string, Stray>();
  for (const stray of strays) {
    const key = `${stray.node}/${stray.bone}`;
    const before = out.get(key);
    out.set(
      key,
      before
        ? {
            ...before,
            points: [...before.points, ...stray.points],
            most: Math.max(before.most, stray.most),
            far: Math.max(before.far, stray.far),
          }
        : stray,
    );
  }
  return [...out.values()];
}

function strayOf(
  { node, shares, places, joints }: Bound,
  bone: number,
  points: readonly number[],
  segments: readonly BoneSegment[],
): Stray {
  const joint = joints.indexOf(bone);
  return {
    node,
    bone,
    points,
    most: mostOf(points, (point) => shares.shareOf(point, joint)),
    far: mostOf(points, (point) => away(segments, places, point)),
  };
}

function away(segments: readonly BoneSegment[], places: ArrayLike<number>, point: number): number {
  let least = Infinity;
  for (const segment of segments)
    least = Math.min(
      least,
      squaredToSegment(segment, places[point * 3], places[point * 3 + 1], places[point * 3 + 2]),
    );
  return Math.sqrt(least);
}

/** The most of some numbers; there may be more of them than a call takes. */
const mostOf = (points: readonly number[], of: (point: number) => number): number =>
  points.reduce((most, point) => Math.max(most, of(point)), 0);

const middle = (list: number[]): number => list.sort((a, b) => a - b)[list.length >> 1] ?? 0;

function segmentsByBone(character: Character, bones: readonly number[]): Map<number, BoneSegment[]> {
  const out = new Map<number, BoneSegment[]>();
  for (const segment of boneSegments(character, bones, null, true)) {
    const bone = bones[segment.bone];
    out.set(bone, [...(out.get(bone) ?? []), segment]);
  }
  return out;
}

/** Points that hang together and that one bone pulls, with how much of them it holds. */
interface Patch {
  readonly points: number[];
  readonly held: number;
}

/** The patches of every bone, the one that it holds most of first. */
function patchesOf({ shares, neighbours, joints }: Bound): Map<number, Patch[]> {
  const pointsOf: number[][] = joints.map(() => []);
  const count = shares.offsets.length - 1;
  for (let point = 0; point < count; point++)
    for (let k = shares.offsets[point]; k < shares.offsets[point + 1]; k++)
      if (shares.share[k] >= FELT) pointsOf[shares.joint[k]].push(point);
  const seen = new Int32Array(count).fill(-1);
  const isIn = new Int32Array(count).fill(-1);
  const out = new Map<number, Patch[]>();
  pointsOf.forEach((points, joint) => {
    for (const point of points) isIn[point] = joint;
    const patches: Patch[] = [];
    for (const start of points) {
      if (seen[start] === joint) continue;
      const patch = [start];
      seen[start] = joint;
      let held = 0;
      for (let i = 0; i < patch.length; i++) {
        const point = patch[i];
        held += shares.shareOf(point, joint);
        for (let k = neighbours.offsets[point]; k < neighbours.offsets[point + 1]; k++) {
          const next = neighbours.neighbours[k];
          if (seen[next] === joint || isIn[next] !== joint) continue;
          seen[next] = joint;
          patch.push(next);
        }
      }
      patches.push({ points: patch, held });
    }
    if (patches.length > 0)
      out.set(
        joints[joint],
        patches.sort((a, b) => b.held - a.held),
      );
  });
  return out;
}

/** A point is odd where it differs by so much from each of its neighbours, */
const ODD = 0.35;

/** and they differ from each other by no more than this. */
const AGREE = 0.2;

/** Single points whose weights are unlike those of all round them, which are alike. */
function oddPoints({ node, shares, neighbours: { offsets, neighbours } }: Bound): Strays['odd'] {
  const points: number[] = [];
  let most = 0;
  for (let point = 0; point + 1 < offsets.length; point++) {
    const [from, to] = [offsets[point], offsets[point + 1]];
    if (to - from < 3 || shares.countAt(point) === 0) continue;
    let least = Infinity;
    for (let k = from; k < to && least >= ODD; k++)
      least = Math.min(least, shares.step(point, neighbours[k]));
    if (least < ODD) continue;
    let apart = 0;
    for (let k = from + 1; k < to; k++) apart = Math.max(apart, shares.step(neighbours[from], neighbours[k]));
    if (apart > AGREE) continue;
    points.push(point);
    most = Math.max(most, least);
  }
  return points.length > 0 ? [{ node, points, most }] : [];
}
