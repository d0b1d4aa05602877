/**
 * What of a bound mesh bends when a joint turns: the triangles whose corners do not all go with it alike, and the piece of the
 * limb about the joint whose volume is told. Gathered once for a joint, so that a pose skins only these few points.
 */
import { branchOf } from '../../character/hierarchy';
import { type Placed, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { morphedPositions, morphsAt } from '../../character/morphs';
import { pointsOf } from '../../character/points';
import { type CappedRegion, cutRegion } from '../../geometry/capped-region';
import { fanned } from '../../geometry/fan';
import type { Influences } from '../../geometry/influences';
import type { Vec3 } from '../../geometry/matrix';
import { Groups } from '../../geometry/weld';
import { jointRadius, thicknessAt } from './joint-radius';

/** A few vertices of a mesh, ready to be skinned by themselves. */
export interface LocalSurface {
  readonly placed: Placed;
  /** The mesh's vertices, by their places in all that follows. */
  readonly vertices: Uint32Array;
  /** Places as the skin takes them, and in the world at rest; 3 per vertex. */
  readonly bound: Float32Array;
  readonly rest: Float32Array;
  readonly influences: Influences;
  /** Triangles that bend with the joint, 3 local vertices each, and the polygon that each is of. */
  readonly triangles: Uint32Array;
  readonly polygons: Uint32Array;
  /** The piece of limb about the joint, over local vertices; null where there is none to measure. */
  readonly region: CappedRegion | null;
}

/** What turning one joint does to the meshes. */
export interface JointSurface {
  readonly bone: number;
  /** What distances at the joint are held against, metres. */
  readonly thickness: number;
  readonly surfaces: readonly LocalSurface[];
}

/** A mesh with its triangles, made once. */
interface Fanned {
  readonly placed: Placed;
  readonly influences: Influences;
  readonly bound: Float32Array;
  readonly triangles: Uint32Array;
  readonly polygonOfTriangle: Uint32Array;
  readonly pointOfVertex: ArrayLike<number>;
}

const fannedOf = new WeakMap<Character, readonly Fanned[]>();

/** All bound meshes of a character with their triangles. */
function fannedMeshes(character: Character): readonly Fanned[] {
  let meshes = fannedOf.get(character);
  if (!meshes) {
    meshes = placedMeshes(character).flatMap((placed): Fanned[] => {
      const { mesh, skin, node } = placed;
      if (!skin || !mesh.influences) return [];
      const triangles = fanned(mesh.polygonOffsets, mesh.corners);
      return [
        {
          placed,
          influences: mesh.influences,
          bound: morphedPositions(mesh, morphsAt(character, node)),
          triangles,
          polygonOfTriangle: polygonsOfTriangles(mesh.polygonOffsets, triangles.length / 3),
          pointOfVertex: pointsOf(mesh).pointOfVertex,
        },
      ];
    });
    fannedOf.set(character, meshes);
  }
  return meshes;
}

function polygonsOfTriangles(offsets: Uint32Array, count: number): Uint32Array {
  const out = new Uint32Array(count);
  let triangle = 0;
  for (let polygon = 0; polygon + 1 < offsets.length; polygon++)
    for (let k = offsets[polygon] + 2; k < offsets[polygon + 1]; k++) out[triangle++] = polygon;
  return out;
}

/** A corner goes wholly with a joint, or not at all, within this. */
const WHOLLY = 0.001;

/** The piece of limb reaches so many radii to either side of the joint, and nowhere farther from it than so many. */
const REACH = 1.2;
const FARTHEST = 2.4;

/** A piece belongs to the joint where some of it goes along by so much more than the rest: a button goes as one. */
const BENDS = 0.15;

/** The piece of a limb that is measured: about its joint, across the ways of the bone and of what is above it. */
interface LimbAt {
  readonly place: Vec3;
  readonly radius: number;
  readonly along: Vec3;
  readonly above: Vec3;
}

/**
 * What bends with a joint.
 * @param limb where the joint is and how its limb goes, unit vectors; null where no volume can be told
 */
export function jointSurfaceOf(
  character: Character,
  bone: number,
  limb: Omit<LimbAt, 'radius'> | null,
): JointSurface {
  const moves = branchOf(character.nodes, [bone]);
  const radius = jointRadius(character, bone);
  const at = limb && radius !== null ? { ...limb, radius } : null;
  const surfaces = fannedMeshes(character).flatMap((mesh): LocalSurface[] => {
    const share = shareOfBranch(mesh, moves);
    const made = share && localSurface(mesh, share, at);
    return made ? [made] : [];
  });
  return { bone, thickness: thicknessAt(character, bone), surfaces };
}

/** How far every vertex goes with a branch of bones, 0 to 1; null where none does. */
function shareOfBranch({ placed, influences }: Fanned, moves: readonly boolean[]): Float32Array | null {
  const { offsets, joint, weight } = influences;
  const isIn = Uint8Array.from(placed.skin!.joints, (node) => (moves[node] ? 1 : 0));
  if (!isIn.includes(1)) return null;
  const share = new Float32Array(offsets.length - 1);
  let any = false;
  for (let vertex = 0; vertex < share.length; vertex++) {
    let sum = 0;
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) if (isIn[joint[k]] === 1) sum += weight[k];
    share[vertex] = sum;
    if (sum > WHOLLY) any = true;
  }
  return any ? share : null;
}

function localSurface(mesh: Fanned, share: Float32Array, limb: LimbAt | null): LocalSurface | null {
  const { triangles, placed } = mesh;
  const bending: number[] = [];
  for (let triangle = 0; triangle < triangles.length; triangle += 3) {
    const [one, two, three] = [triangles[triangle], triangles[triangle + 1], triangles[triangle + 2]];
    const most = Math.max(share[one], share[two], share[three]);
    const least = Math.min(share[one], share[two], share[three]);
    const isStill = most <= WHOLLY;
    const isWhole = least >= 1 - WHOLLY;
    if (!isStill && !isWhole) bending.push(triangle / 3);
  }
  if (bending.length === 0) return null;
  const field = limb ? limbField(placed.points, limb) : null;
  const within = field ? bendingPieces(mesh, field, share) : [];
  const local = localVertices(mesh, bending, within);
  const take = (source: Float32Array) => gathered(source, local.vertices);
  const ofLocal = (list: readonly number[]) => {
    const out = new Uint32Array(list.length * 3);
    for (let i = 0; i < out.length; i++) out[i] = local.at[triangles[list[Math.floor(i / 3)] * 3 + (i % 3)]];
    return out;
  };
  return {
    placed,
    vertices: local.vertices,
    bound: take(mesh.bound),
    rest: take(placed.points),
    influences: influencesOf(mesh.influences, local.vertices),
    triangles: ofLocal(bending),
    polygons: Uint32Array.from(bending, (triangle) => mesh.polygonOfTriangle[triangle]),
    region:
      field && within.length > 0
        ? cutRegion(
            ofLocal(within),
            Float32Array.from(local.vertices, (vertex) => field[vertex]),
            Uint32Array.from(local.vertices, (vertex) => mesh.pointOfVertex[vertex]),
          )
        : null,
  };
}

/** Below zero within the piece of limb about a joint, per vertex. */
function limbField(points: Float32Array, { place, radius, along, above }: LimbAt): Float32Array {
  const field = new Float32Array(points.length / 3);
  const farthest = FARTHEST * radius;
  for (let vertex = 0; vertex < field.length; vertex++) {
    const x = points[vertex * 3] - place[0];
    const y = points[vertex * 3 + 1] - place[1];
    const z = points[vertex * 3 + 2] - place[2];
    field[vertex] = Math.max(
      x * along[0] + y * along[1] + z * along[2] - REACH * radius,
      -(x * above[0] + y * above[1] + z * above[2]) - REACH * radius,
      Math.sqrt(x * x + y * y + z * z) - farthest,
    );
  }
  return field;
}

/** The triangles of those pieces within the limb that bend with the joint. */
function bendingPieces(
  { triangles, pointOfVertex }: Fanned,
  field: Float32Array,
  share: Float32Array,
): number[] {
  const near: number[] = [];
  for (let triangle = 0; triangle < triangles.length; triangle += 3)
    if (
      field[triangles[triangle]] < 0 ||
      field[triangles[triangle + 1]] < 0 ||
      field[triangles[triangle + 2]] < 0
    )
      near.push(triangle / 3);
  // The points of these few triangles, counted anew.
  const placeOf = new Map<number, number>();
  for (const triangle of near)
    for (let k = 0; k < 3; k++) {
      const point = pointOfVertex[triangles[triangle * 3 + k]];
      if (!placeOf.has(point)) placeOf.set(point, placeOf.size);
    }
  const groups = new Groups(placeOf.size);
  const pointAt = (triangle: number, k: number) => placeOf.get(pointOfVertex[triangles[triangle * 3 + k]])!;
  for (const triangle of near) {
    groups.join(pointAt(triangle, 0), pointAt(triangle, 1));
    groups.join(pointAt(triangle, 0), pointAt(triangle, 2));
  }
  const ranges = new Map<number, { least: number; most: number }>();
  for (const triangle of near) {
    const group = groups.find(pointAt(triangle, 0));
    const range = ranges.get(group) ?? { least: 1, most: 0 };
    for (let k = 0; k < 3; k++) {
      const here = share[triangles[triangle * 3 + k]];
      range.least = Math.min(range.least, here);
      range.most = Math.max(range.most, here);
    }
    ranges.set(group, range);
  }
  return near.filter((triangle) => {
    const { least, most } = ranges.get(groups.find(pointAt(triangle, 0)))!;
    return most - least > BENDS;
  });
}

/** The vertices of some triangles, and the place of each among them. */
function localVertices(
  { triangles, influences }: Fanned,
  ...lists: readonly (readonly number[])[]
): { vertices: Uint32Array; at: Int32Array } {
  const at = new Int32Array(influences.offsets.length - 1).fill(-1);
  const vertices: number[] = [];
  for (const list of lists)
    for (const triangle of list)
      for (let k = 0; k < 3; k++) {
        const vertex = triangles[triangle * 3 + k];
        if (at[vertex] >= 0) continue;
        at[vertex] = vertices.length;
        vertices.push(vertex);
      }
  return { vertices: Uint32Array.from(vertices), at };
}

/** Some rows of a list of places, 3 per vertex. */
export function gathered(source: ArrayLike<number>, vertices: Uint32Array): Float32Array {
  const out = new Float32Array(vertices.length * 3);
  vertices.forEach((vertex, i) => {
    for (let k = 0; k < 3; k++) out[i * 3 + k] = source[vertex * 3 + k];
  });
  return out;
}

/** The rows of some vertices. */
export function influencesOf({ offsets, joint, weight }: Influences, vertices: Uint32Array): Influences {
  const own = new Uint32Array(vertices.length + 1);
  vertices.forEach((vertex, i) => (own[i + 1] = own[i] + offsets[vertex + 1] - offsets[vertex]));
  const made = {
    offsets: own,
    joint: new Uint32Array(own[vertices.length]),
    weight: new Float32Array(own[vertices.length]),
  };
  vertices.forEach((vertex, i) => {
    made.joint.set(joint.subarray(offsets[vertex], offsets[vertex + 1]), own[i]);
    made.weight.set(weight.subarray(offsets[vertex], offsets[vertex + 1]), own[i]);
  });
  return made;
}
