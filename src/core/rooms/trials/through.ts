/**
 * What a motion drives into something that stays: points of what moves that lie within another part, or within another limb
 * of their own mesh, and did not at rest. Winding numbers over the meshes at rest tell within from without, the closest face how
 * deep; only faces that stay where they are count, so that a limb is never held against itself.
 */
import { branchOf, restPlace } from '../../character/hierarchy';
import { heldBy } from '../../character/held-by';
import { placePositions } from '../../character/deform';
import { type Placed, placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { morphedPositions, morphsAt } from '../../character/morphs';
import { type JointMotion, turnsOfMotion } from '../../anatomy/joint-motions';
import { boneKindsOf } from '../../anatomy/bone-kinds';
import { fanned } from '../../geometry/fan';
import { type Vec3, distance, subtract } from '../../geometry/matrix';
import type { SkinningMethod } from '../../geometry/skinning';
import { TriangleTree } from '../../geometry/triangle-tree';
import { WindingField } from '../../geometry/winding-number';
import { posedWorld } from '../../motion/pose';
import { thicknessAt } from './joint-radius';
import { gathered, influencesOf } from './joint-surface';

/** What a motion drives into what. */
export interface GoesThrough {
  /** How deep, metres. */
  readonly depth: number;
  /** Against the thickness of what moves. */
  readonly share: number;
  /** The nodes of both meshes: the same where a limb goes into another of its own. */
  readonly moves: number;
  readonly into: number;
  /** Vertices of what moves that lie within, among those that were looked at. */
  readonly vertices: Uint32Array;
  /** The way out for the deepest of them, world space in the pose, metres. */
  readonly wayOut: Vec3;
}

/** So many points of a mesh are looked at in a pose. */
const LOOKED_AT = 240;

/** Nearer to the joint than so many radii a limb creases, which other figures tell. */
const BEYOND_CREASE = 1.8;

/** A few points more than this lie within, or it is nothing. */
const LEAST_WITHIN = 3;

/** A point goes wholly with what moves, or stays, from here on. */
const GOES = 0.98;
const STAYS = 0.02;

/** What can be in the way: a mesh at rest. */
interface Obstacle {
  readonly placed: Placed;
  readonly tree: TriangleTree;
  readonly field: WindingField;
}

const obstaclesOf = new WeakMap<Character, readonly Obstacle[]>();

function obstacles(character: Character): readonly Obstacle[] {
  let all = obstaclesOf.get(character);
  if (!all) {
    all = placedMeshes(character).flatMap((placed): Obstacle[] => {
      const triangles = fanned(placed.mesh.polygonOffsets, placed.mesh.corners);
      // What nothing holds neither moves nor stays: another check tells that it is loose.
      if (triangles.length === 0 || heldBy(character, placed.node) === 'loose') return [];
      const tree = new TriangleTree(placed.points, triangles);
      return [{ placed, tree, field: new WindingField(placed.points, triangles, tree.boxes) }];
    });
    obstaclesOf.set(character, all);
  }
  return all;
}

const clashes = new WeakMap<JointMotion, Map<number, GoesThrough | null>>();

/** The same as {@link goesThrough}, looked for once for a motion and where it stands. */
export function clashOf(character: Character, motion: JointMotion, degrees: number): GoesThrough | null {
  const known = clashes.get(motion) ?? new Map<number, GoesThrough | null>();
  clashes.set(motion, known);
  let clash = known.get(degrees);
  if (clash === undefined) known.set(degrees, (clash = goesThrough(character, motion, degrees)));
  return clash;
}

/** The deepest that a motion at so many degrees goes into something that stays; null where it is free. */
export function goesThrough(character: Character, motion: JointMotion, degrees: number): GoesThrough | null {
  const moves = branchOf(
    character.nodes,
    motion.joints.map(({ bone }) => bone),
  );
  const world = posedWorld(character, turnsOfMotion(motion, degrees));
  const all = obstacles(character);
  const shares = all.map(({ placed }) => shareMoved(character, placed, moves));
  const radius = thicknessAt(character, motion.bone) / 2;
  const joint = restPlace(character.nodes, motion.bone);
  let worst: GoesThrough | null = null;
  all.forEach(({ placed }, i) => {
    const looked = pointsToLookAt(placed, shares[i], (vertex) => {
      const at = vertex * 3;
      return distance(joint, placed.points.subarray(at, at + 3)) > BEYOND_CREASE * radius;
    });
    if (looked.length < LEAST_WITHIN) return;
    const posed = posedPoints(character, placed, looked, { world, method: motion.skinning });
    all.forEach((obstacle, k) => {
      const found = within(obstacle, shares[k], { looked, posed, rest: placed.points, isOwn: i === k });
      if (found && found.depth > (worst?.depth ?? 0))
        worst = {
          depth: found.depth,
          share: found.depth / (2 * radius),
          moves: placed.node,
          into: obstacle.placed.node,
          vertices: found.vertices,
          wayOut: found.wayOut,
        };
    });
  });
  return worst;
}

/**
 * How far every vertex goes with what moves, 0 to 1. What hangs on bones of cloth neither goes nor stays: a game moves it out of
 * the way by itself.
 */
function shareMoved(character: Character, placed: Placed, moves: readonly boolean[]): Float32Array {
  const { mesh, skin, node } = placed;
  const share = new Float32Array(mesh.vertexCount);
  if (!skin || !mesh.influences) return moves[node] ? share.fill(1) : share;
  const { offsets, joint, weight } = mesh.influences;
  const kinds = boneKindsOf(character);
  const part = Float32Array.from(skin.joints, (bone) => {
    if (kinds.get(bone)?.kind === 'cloth') return 0.5;
    return moves[bone] ? 1 : 0;
  });
  for (let vertex = 0; vertex < share.length; vertex++)
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) share[vertex] += part[joint[k]] * weight[k];
  return share;
}

/** Points that go wholly with what moves, evenly among all of them. */
function pointsToLookAt(
  { mesh }: Placed,
  share: Float32Array,
  isFar: (vertex: number) => boolean,
): Uint32Array {
  const all: number[] = [];
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
    if (share[vertex] >= GOES && isFar(vertex)) all.push(vertex);
  const step = Math.max(1, all.length / LOOKED_AT);
  const out: number[] = [];
  for (let at = 0; at < all.length; at += step) out.push(all[Math.floor(at)]);
  return Uint32Array.from(out);
}

function posedPoints(
  character: Character,
  { mesh, skin, node }: Placed,
  vertices: Uint32Array,
  { world, method }: { readonly world: Float64Array; readonly method?: SkinningMethod },
): Float32Array {
  const bound = gathered(morphedPositions(mesh, morphsAt(character, node)), vertices);
  const influences = skin && mesh.influences ? influencesOf(mesh.influences, vertices) : null;
  return placePositions(bound, influences, skin, node, world, method);
}

/** The points of what moves that lie within an obstacle, and how deep the deepest does. */
function within(
  { tree, field }: Obstacle,
  share: Float32Array,
  {
    looked,
    posed,
    rest,
    isOwn,
  }: { looked: Uint32Array; posed: Float32Array; rest: Float32Array; isOwn: boolean },
): { depth: number; vertices: Uint32Array; wayOut: Vec3 } | null {
  const { bounds } = tree.boxes;
  const inside: number[] = [];
  let depth = 0;
  let wayOut: Vec3 = [0, 0, 0];
  looked.forEach((vertex, i) => {
    const [x, y, z] = [posed[i * 3], posed[i * 3 + 1], posed[i * 3 + 2]];
    const isNear =
      x > bounds[0] && y > bounds[1] && z > bounds[2] && x < bounds[3] && y < bounds[4] && z < bounds[5];
    if (!isNear || !(field.at(x, y, z) > 0.5)) return;
    const surface = tree.closestPoint(x, y, z);
    if (!surface || [0, 1, 2].some((k) => share[tree.triangles[surface.triangle * 3 + k]] > STAYS)) return;
    if (!isOwn && field.at(rest[vertex * 3], rest[vertex * 3 + 1], rest[vertex * 3 + 2]) > 0.5) return;
    inside.push(vertex);
    if (surface.distance <= depth) return;
    depth = surface.distance;
    wayOut = subtract(surface.point, [x, y, z]);
  });
  return inside.length < LEAST_WITHIN ? null : { depth, vertices: Uint32Array.from(inside), wayOut };
}
