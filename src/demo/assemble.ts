/** From cages to a character: subdivision, the draw onto the body, normals, and skins. */
import type { Attribute, Character, JsonObject, Mesh, Piece, SceneNode, Skin } from '../core/character/model';
import { EMPTY_CARRIED, positionsOf } from '../core/character/model';
import { pointsOf } from '../core/character/points';
import { topologyOf } from '../core/character/topology';
import type { Skeleton } from '../core/anatomy/skeleton';
import { characterOfSkeleton } from '../core/anatomy/skeleton';
import { influencesFrom, limitInfluences } from '../core/geometry/influences';
import { restWorld } from '../core/character/hierarchy';
import { inverseOr } from '../core/geometry/matrix';
import { crossedFaces } from '../core/geometry/face-shape';
import { normalsOfPoints, putAreaNormal } from '../core/geometry/normals';
import { type Cage, type Point, subdivide } from './cage';
import { type Solid, drawn } from './solid';

export interface PartPlan {
  readonly name: string;
  readonly cage: Cage;
  readonly steps: number;
  /** Nothing lies below this height. */
  readonly floor?: number;
  /** Draw every point towards the solid by this share of the way. */
  readonly onto?: {
    readonly solid: Solid;
    readonly share: number;
    readonly offset: number;
    readonly farthest: number;
  };
}

const MATERIALS: readonly JsonObject[] = [
  ['skin', [0.8, 0.6, 0.48, 1], 0.7],
  ['knit', [0.19, 0.27, 0.36, 1], 0.95],
  ['canvas', [0.3, 0.29, 0.26, 1], 0.9],
  ['oilskin', [0.86, 0.63, 0.17, 1], 0.45],
  ['rubber', [0.12, 0.15, 0.14, 1], 0.5],
  ['horn', [0.24, 0.17, 0.11, 1], 0.4],
  ['eye', [0.08, 0.07, 0.07, 1], 0.2],
  ['brass', [0.66, 0.5, 0.24, 1], 0.35],
  ['glass', [0.9, 0.87, 0.72, 1], 0.1],
].map(
  ([name, baseColorFactor, roughnessFactor]) =>
    ({
      name,
      pbrMetallicRoughness: {
        baseColorFactor,
        metallicFactor: name === 'brass' ? 0.8 : 0,
        roughnessFactor,
        ...(name === 'oilskin' ? { baseColorTexture: { index: 0 } } : {}),
      },
    }) as JsonObject,
);

const materialIndex = (name: string) => MATERIALS.findIndex((json) => json.name === name);

/** A mesh from cages; `joints` orders the bones, null for a rigid prop. Polygons are grouped by material. */
export function meshOf(
  name: string,
  parts: readonly PartPlan[],
  joints: readonly string[] | null,
  limit: number,
): Mesh {
  const points: number[] = [];
  const rows: [number, number][][] = [];
  const faces: { corners: number[]; material: string }[] = [];
  const slot = new Map(joints?.map((joint, i) => [joint, i]) ?? []);
  for (const part of parts) {
    let cage = part.cage;
    for (let k = 0; k < part.steps; k++) cage = subdivide(cage);
    const start = points.length / 3;
    const places = part.onto ? settleOnce(cage, part.onto) : cage.points;
    places.forEach((place, i) => {
      const rotation =
        part.floor === undefined ? place : [place[0], Math.max(part.floor, place[1]), place[2]];
      points.push(Math.abs(rotation[0]) < 1e-7 ? 0 : rotation[0], rotation[1], rotation[2]);
      rows.push(Object.entries(cage.weights[i]).map(([key, weight]) => [slot.get(key) ?? 0, weight]));
    });
    for (const face of cage.faces)
      faces.push({ corners: face.corners.map((corner) => corner + start), material: face.material });
  }
  const positions = Float32Array.from(points);
  const materials = [...new Set(faces.map((face) => face.material))];
  faces.sort((a, b) => materials.indexOf(a.material) - materials.indexOf(b.material));
  const offsets = Uint32Array.from({ length: faces.length + 1 }, (_, i) => i * 4);
  const corners = Uint32Array.from(faces.flatMap((face) => face.corners));
  const count = positions.length / 3;
  const uv = new Float32Array(count * 2);
  for (let vertex = 0; vertex < count; vertex++) {
    uv[vertex * 2] = 0.5 + positions[vertex * 3] / 2;
    uv[vertex * 2 + 1] = 1 - positions[vertex * 3 + 1] / 2;
  }
  const attribute = (data: Float32Array, size: number): Attribute => ({
    data,
    size,
    normalized: false,
    type: `VEC${size}`,
  });
  const attributes = {
    POSITION: attribute(positions, 3),
    NORMAL: attribute(normalsOf(positions, offsets, corners), 3),
    TEXCOORD_0: attribute(uv, 2),
  };
  let polygonStart = 0;
  const pieces = materials.map((material): Piece => {
    const polygonCount = faces.filter((face) => face.material === material).length;
    const piece = {
      vertexStart: 0,
      vertexCount: count,
      polygonStart,
      polygonCount,
      material: materialIndex(material),
      attributes: Object.keys(attributes),
      mode: 4,
    };
    polygonStart += polygonCount;
    return piece;
  });
  return {
    name,
    vertexCount: count,
    attributes,
    pieces,
    polygonOffsets: offsets,
    corners,
    polygonOrigin: 'encoded',
    morphs: [],
    influences: joints ? limitInfluences(influencesFrom(rows), limit, 0.004).influences : null,
    influenceStorage: joints ? { weights: 'f32', joints: 'u8', sets: 1 } : null,
  };
}

const known = new Map<string, Point[]>();

/** The same cage on the same kind of solid settles the same: two sailors share the drawing of one body. */
function settleOnce(cage: Cage, onto: NonNullable<PartPlan['onto']>): Point[] {
  const sum = cage.points.reduce(
    (sum, point, i) => sum + (i % 97) * (point[0] + 3 * point[1] + 7 * point[2]),
    0,
  );
  const key = [onto.solid.length, onto.share, cage.points.length, sum].join(':');
  let places = known.get(key);
  if (!places) {
    places = settle(cage, onto);
    known.set(key, places);
  }
  return places;
}

/**
 * The points drawn onto the solid, evened out among their neighbours and drawn again, so that no quad is left
 * crumpled.
 */
function settle(cage: Cage, onto: NonNullable<PartPlan['onto']>): Point[] {
  const draw = (p: Point) => drawn(onto.solid, p, onto.offset, onto.share, onto.farthest);
  let places = cage.points.map(draw);
  const neighbours = places.map(() => new Set<number>());
  for (const face of cage.faces)
    face.corners.forEach((corner, k) => {
      const d = face.corners[(k + 1) % face.corners.length];
      neighbours[corner].add(d);
      neighbours[d].add(corner);
    });
  for (let round = 0; round < 2; round++) {
    places = places.map((place, i) => {
      const around = [...neighbours[i]];
      const middle = Math.abs(cage.points[i][0]) < 1e-9;
      const mean = [0, 1, 2].map((k) => around.reduce((sum, j) => sum + places[j][k], 0) / around.length);
      const q: Point = [
        middle ? 0 : place[0] + 0.45 * (mean[0] - place[0]),
        place[1] + 0.45 * (mean[1] - place[1]),
        place[2] + 0.45 * (mean[2] - place[2]),
      ];
      const row = draw(q);
      // Halves keep clear of each other, so that the two thighs never meet.
      if (middle) return [0, row[1], row[2]];
      if (Math.abs(row[0]) < 0.0015) return [Math.sign(cage.points[i][0]) * 0.0015, row[1], row[2]];
      return row;
    });
  }
  return places;
}

/** Normals of points: the area normals of their polygons, summed. */
export const normalsOf = (
  positions: Float32Array,
  offsets: Uint32Array,
  corners: Uint32Array,
): Float32Array =>
  normalsOfPoints(
    positions,
    offsets,
    corners,
    Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
    positions.length / 3,
  );

/** The bones of a skeleton as nodes, ready to take meshes: bones first, in the skeleton's order. */
export function skeletonNodes(skeleton: Skeleton): SceneNode[] {
  return [...characterOfSkeleton(skeleton).nodes];
}

/** A skin over bones given by name. */
export function skinOf(name: string, nodes: readonly SceneNode[], joints: readonly string[]): Skin {
  const world = restWorld(nodes);
  const list = joints.map((joint) => nodes.findIndex((node) => node.name === joint));
  const inverseBinds = new Float32Array(list.length * 16);
  list.forEach((n, i) => inverseBinds.set(inverseOr(world, n * 16), i * 16));
  return {
    name,
    joints: list,
    inverseBinds,
    skeleton: nodes.findIndex((node) => node.kind === 'bone' && node.parent < 0),
  };
}

/** Quads that cross themselves, or nearly: their halves face against each other, whichever way they are halved. */
function crumpledQuads({ polygonOffsets, corners }: Mesh, places: Float32Array): Set<number> {
  const halves = [new Float64Array(3), new Float64Array(3)];
  const areAgainst = (one: number[], other: number[]) => {
    putAreaNormal(places, one, 0, 3, halves[0]);
    putAreaNormal(places, other, 0, 3, halves[1]);
    return dot3(halves[0], halves[1]) < 0;
  };
  const out = new Set(crossedFaces({ offsets: polygonOffsets, corners }, places));
  for (let face = 0; face + 1 < polygonOffsets.length; face++) {
    const [a, b, c, d] = corners.subarray(polygonOffsets[face], polygonOffsets[face + 1]);
    if (d !== undefined && areAgainst([a, b, c], [a, c, d]) && areAgainst([a, b, d], [b, c, d]))
      out.add(face);
  }
  return out;
}

const dot3 = (one: ArrayLike<number>, other: ArrayLike<number>): number =>
  one[0] * other[0] + one[1] * other[1] + one[2] * other[2];

/** A mesh without crumpled quads: where the draw laid one over itself, as between fingers, what is round it is evened out. */
function evenedOut(mesh: Mesh): Mesh {
  let places = positionsOf(mesh);
  let crumpled = crumpledQuads(mesh, places);
  if (crumpled.size === 0 || pointsOf(mesh).pointCount < mesh.vertexCount) return mesh;
  const { neighbours, offsets } = topologyOf(mesh).neighbours;
  for (let round = 0; round < 24 && crumpled.size > 0; round++) {
    const near = new Set<number>();
    for (const face of crumpled)
      for (const corner of mesh.corners.subarray(mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1])) {
        near.add(corner);
        for (const other of neighbours.subarray(offsets[corner], offsets[corner + 1])) near.add(other);
      }
    const before = places;
    places = before.slice();
    for (const point of near) {
      const around = neighbours.subarray(offsets[point], offsets[point + 1]);
      for (let axis = 0; axis < 3; axis++) {
        const mean = around.reduce((sum, other) => sum + before[other * 3 + axis], 0) / around.length;
        const place = before[point * 3 + axis];
        places[point * 3 + axis] = place === 0 ? 0 : place + EVENED * (mean - place);
      }
    }
    crumpled = crumpledQuads(mesh, places);
  }
  const { POSITION, NORMAL } = mesh.attributes;
  return {
    ...mesh,
    attributes: {
      ...mesh.attributes,
      POSITION: { ...POSITION, data: places },
      NORMAL: { ...NORMAL, data: normalsOf(places, mesh.polygonOffsets, mesh.corners) },
    },
  };
}

/** A point goes so much of the way to the middle of its neighbours at once. */
const EVENED = 0.45;

export function characterOf(
  name: string,
  nodes: SceneNode[],
  meshes: Mesh[],
  skins: Skin[],
  extra: Partial<Character> = {},
): Character {
  return {
    name,
    nodes,
    meshes: meshes.map(evenedOut),
    skins,
    clips: [],
    sets: [],
    carried: {
      ...EMPTY_CARRIED,
      materials: MATERIALS,
      textures: [{ source: 0, sampler: 0 }],
      samplers: [{ magFilter: 9729, minFilter: 9987, wrapS: 10497, wrapT: 10497 }],
      scenes: [{ json: { name }, roots: nodes.flatMap((node, i) => (node.parent < 0 ? [i] : [])) }],
    },
    source: { format: 'made here', generator: 'Young Bough', unitMetres: 1, files: [] },
    notes: [],
    ...extra,
  };
}

/** The materials without their pictures; colours of one's own by name. */
export function plainMaterials(
  materials: readonly JsonObject[],
  colours: Readonly<Record<string, number[]>> = {},
): JsonObject[] {
  return materials.map((material) => {
    const { baseColorTexture: _picture, ...pbr } = material.pbrMetallicRoughness as JsonObject;
    const colour = colours[String(material.name)];
    return { ...material, pbrMetallicRoughness: colour ? { ...pbr, baseColorFactor: colour } : pbr };
  });
}
