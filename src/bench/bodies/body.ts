/**
 * Bodies round made-up skeletons: a closed box of quads along every bone that carries flesh, bound to it and, where
 * it joins the bone above, half and half. On the ground, in the middle, under one root: nothing of it is a fault.
 */
import { characterOfSkeleton, type Skeleton } from '../../core/anatomy/skeleton';
import type { Character, Influences, Mesh } from '../../core/character/model';
import { node } from '../../core/character/model';
import { restWorld } from '../../core/character/hierarchy';
import {
  type Vec3,
  cross,
  distance,
  inverseOr,
  length,
  normalise,
  subtract,
} from '../../core/geometry/matrix';
import { footprintOf, groundGap } from '../../core/rooms/placement/survey';
import type { MadeFigure } from '../match/figures';

/** The figure's skeleton, moved by so much, under a root at the origin. */
function rooted({ bones, ...rest }: Skeleton, by: Vec3): Skeleton {
  const names = new Set(bones.map((bone) => bone.name.toLowerCase()));
  const moved = bones.map((bone) => ({
    ...bone,
    parent: bone.parent + 1,
    place: [0, 1, 2].map((k) => bone.place[k] + by[k]) as unknown as Vec3,
  }));
  const root = {
    ...bones[0],
    name: names.has('root') ? 'ground' : 'root',
    parent: -1,
    place: [0, 0, 0] as Vec3,
  };
  return { ...rest, bones: [root, ...moved] };
}

/** What a body is put round. */
type Fleshed = Pick<MadeFigure, 'skeleton' | 'isFlesh' | 'told'>;

/** A figure as a bound character: its lowest point on the ground, the origin in the middle of what it stands on. */
export function bodyOf(figure: Fleshed): Character {
  const first = bodyAt(figure, [0, 0, 0]);
  const foot = footprintOf(first);
  const gap = groundGap(first);
  if (!foot || gap === null) throw new Error('The figure has no flesh.');
  return bodyAt(figure, [0, -gap, -(foot.min[1] + foot.max[1]) / 2]);
}

function bodyAt(figure: Fleshed, by: Vec3): Character {
  const before = figure.skeleton.bones;
  const heights = before.map((bone) => bone.place[1]);
  const radius = Math.max(0.02, Math.min(0.12, 0.04 * (Math.max(...heights) - Math.min(...heights))));
  const skeleton = rooted(figure.skeleton, by);
  const bare = characterOfSkeleton(skeleton);
  const flesh = skeleton.bones.map((_, i) => i > 0 && figure.isFlesh[i - 1]);
  const parts = skeleton.bones.flatMap((_, i) => (flesh[i] ? [boxAlong(skeleton, flesh, i, radius)] : []));
  const joints = bare.skins[0].joints;
  const world = restWorld(bare.nodes);
  const inverseBinds = new Float64Array(joints.length * 16);
  joints.forEach((j, k) => inverseBinds.set(inverseOr(world, j * 16), k * 16));
  return {
    ...bare,
    name: figure.told,
    meshes: [meshOf(parts)],
    skins: [{ name: '', joints, inverseBinds }],
    nodes: [...bare.nodes, node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 })],
  };
}

interface Part {
  readonly points: readonly Vec3[];
  readonly bone: number;
  readonly above: number;
}

/** Eight corners round the way from a bone to the next one of its own, or a little on. */
function boxAlong({ bones }: Skeleton, flesh: readonly boolean[], bone: number, radius: number): Part {
  const from = bones[bone].place as Vec3;
  const children = bones.flatMap((otherBone, i) =>
    otherBone.parent === bone && flesh[i] ? [otherBone.place as Vec3] : [],
  );
  const far = children.reduce<Vec3 | null>(
    (a, b) => (!a || distance(from, b) > distance(from, a) ? b : a),
    null,
  );
  const way = far && distance(from, far) > 1e-6 ? subtract(far, from) : ([0, -radius / 2, 0] as Vec3);
  const along = normalise(way);
  const thin = Math.min(radius, 0.35 * length(way) + 0.25 * radius);
  const side = normalise(Math.abs(along[0]) < 0.8 ? cross(along, [1, 0, 0]) : cross(along, [0, 0, 1]));
  const up = cross(along, side);
  const corner = (end: number, a: number, b: number): Vec3 =>
    [0, 1, 2].map(
      (k) => from[k] + way[k] * end + along[k] * thin * (end * 2 - 1) + (side[k] * a + up[k] * b) * thin,
    ) as unknown as Vec3;
  const ring = (end: number) => [
    corner(end, -1, -1),
    corner(end, 1, -1),
    corner(end, 1, 1),
    corner(end, -1, 1),
  ];
  let above = bones[bone].parent;
  while (above >= 0 && !flesh[above]) above = bones[above].parent;
  return { points: [...ring(0), ...ring(1)], bone, above };
}

/** The faces of a box, outward. */
const FACES = [
  [3, 2, 1, 0],
  [4, 5, 6, 7],
  [0, 1, 5, 4],
  [1, 2, 6, 5],
  [2, 3, 7, 6],
  [3, 0, 4, 7],
];

function meshOf(parts: readonly Part[]): Mesh {
  const count = parts.length * 8;
  const polygons = parts.flatMap((_, k) => FACES.map((face) => face.map((corner) => corner + k * 8)));
  const rows = parts.flatMap(({ bone, above }) =>
    Array.from({ length: 8 }, (_, otherBone) => (otherBone < 4 && above >= 0 ? [bone, above] : [bone])),
  );
  const offsets = new Uint32Array(count + 1);
  rows.forEach((row, index) => (offsets[index + 1] = offsets[index] + row.length));
  return bodyOfQuads(
    parts.flatMap((part) => part.points),
    polygons,
    {
      offsets,
      joint: Uint16Array.from(rows.flat()),
      weight: Float32Array.from(rows.flatMap((row) => row.map(() => 1 / row.length))),
    },
  );
}

/** A bound mesh of quads in one piece, its points in metres. */
export function bodyOfQuads(
  points: readonly ArrayLike<number>[],
  quads: readonly (readonly number[])[],
  influences: Influences,
): Mesh {
  return {
    name: 'body',
    vertexCount: points.length,
    attributes: {
      POSITION: {
        data: Float32Array.from(points.flatMap((point) => [point[0], point[1], point[2]])),
        size: 3,
        normalized: false,
        type: 'VEC3',
      },
    },
    pieces: [
      {
        vertexStart: 0,
        vertexCount: points.length,
        polygonStart: 0,
        polygonCount: quads.length,
        material: -1,
        attributes: ['POSITION'],
        mode: 4,
      },
    ],
    polygonOffsets: Uint32Array.from({ length: quads.length + 1 }, (_, i) => i * 4),
    corners: Uint32Array.from(quads.flat()),
    polygonOrigin: 'encoded',
    influences,
    influenceStorage: null,
    morphs: [],
  };
}
