import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex } from '@noble/hashes/utils.js';
import { bonesOf, parentBone, restWorld, topDown, weightOfNodes } from '../character/hierarchy';
import { placedMeshes } from '../character/measure';
import { type Character, EMPTY_CARRIED, type SceneNode, node } from '../character/model';
import { type Vec3, compose, decompose, inverseOr, times } from '../geometry/matrix';

/** A bone of a skeleton: places in metres, world space, at rest. */
export interface SkeletonBone {
  readonly name: string;
  /** Index of the parent bone in `bones`, −1 for a root. Parents come before children. */
  readonly parent: number;
  /** Joint at rest, world space, metres. */
  readonly place: readonly [number, number, number];
  /** World rotation at rest. */
  readonly rotation: readonly [number, number, number, number];
  /** Total weight that the bone carries; 0 in a template. */
  readonly weight: number;
  /** Of a skeleton without a mesh: where the middle of what it carries is to be, world space at rest, metres. */
  readonly fleshAt?: readonly [number, number, number];
  /** Whether a rigid mesh hangs on the bone itself. */
  readonly holds: boolean;
  /** The node in the character it was taken from, −1 in a template. */
  readonly node: number;
}

/** A skeleton by itself, without a mesh: what weights are moved from and onto. */
export interface Skeleton {
  readonly id: string;
  readonly title: string;
  readonly bones: readonly SkeletonBone[];
}

const cache = new WeakMap<Character, Skeleton>();

/** The bones of a character as a skeleton of its own, parents first. */
export function skeletonOf(character: Character): Skeleton {
  const known = cache.get(character);
  if (known) return known;
  const world = restWorld(character.nodes);
  const weight = weightOfNodes(character);
  const isBone = new Set(bonesOf(character));
  const holds = new Set<number>();
  character.nodes.forEach((node) => {
    if (node.mesh < 0 || node.skin >= 0) return;
    for (let ancestor = node.parent; ancestor >= 0; ancestor = character.nodes[ancestor].parent)
      if (isBone.has(ancestor)) {
        holds.add(ancestor);
        break;
      }
  });
  const order = topDown(character.nodes).filter((i) => isBone.has(i));
  const at = new Map(order.map((node, i) => [node, i]));
  const bones = order.map((node): SkeletonBone => {
    const { translation, rotation } = decompose(world, node * 16);
    const parent = parentBone(character.nodes, node);
    return {
      name: character.nodes[node].name,
      parent: parent < 0 ? -1 : (at.get(parent) as number),
      place: translation,
      rotation,
      weight: weight[node],
      holds: holds.has(node),
      node,
    };
  });
  const skeleton = { id: character.name, title: character.name, bones };
  cache.set(character, skeleton);
  bodies.set(skeleton, character);
  return skeleton;
}

/** The characters that skeletons were taken from: what their bones carry is worked out when it is first asked for. */
const bodies = new WeakMap<Skeleton, Character>();

/** Some bones of a skeleton, or those in another tree: they carry what they carried. */
export function withBodyOf<S extends Skeleton>(skeleton: S, from: Skeleton): S {
  const body = bodies.get(from);
  if (body) bodies.set(skeleton, body);
  return skeleton;
}

/**
 * The middle of what a bone carries, by weight, world space at rest, metres; undefined where that is nothing, or where
 * the skeleton stands by itself.
 */
export function fleshAt(skeleton: Skeleton, bone: number): Vec3 | undefined {
  const { node, fleshAt: told, weight } = skeleton.bones[bone];
  const body = bodies.get(skeleton);
  if (told || !body || !(weight > 0)) return told;
  const flesh = fleshOfNodes(body);
  return [flesh[node * 3], flesh[node * 3 + 1], flesh[node * 3 + 2]];
}

const fleshCache = new WeakMap<Character, Float64Array>();

/** The middle of what each node carries, by weight, 3 each; world space at rest, metres. */
function fleshOfNodes(character: Character): Float64Array {
  const known = fleshCache.get(character);
  if (known) return known;
  const sums = new Float64Array(character.nodes.length * 3);
  const total = new Float64Array(character.nodes.length);
  for (const { mesh, skin, points } of placedMeshes(character)) {
    const influences = mesh.influences;
    if (!skin || !influences) continue;
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
        const node = skin.joints[influences.joint[k]];
        total[node] += influences.weight[k];
        for (let a = 0; a < 3; a++) sums[node * 3 + a] += influences.weight[k] * points[vertex * 3 + a];
      }
  }
  const flesh = sums.map((x, i) => x / (total[Math.floor(i / 3)] || 1));
  fleshCache.set(character, flesh);
  return flesh;
}

/**
 * A character that holds a skeleton and nothing else; its skin lists every bone, so that the bones are known
 * as such.
 */
export function characterOfSkeleton(skeleton: Skeleton): Character {
  const world = skeleton.bones.map((bone) => {
    const matrix = new Float64Array(16);
    compose(matrix, 0, bone.place, bone.rotation, [1, 1, 1]);
    return matrix;
  });
  const nodes: SceneNode[] = skeleton.bones.map((bone, i) => {
    const local = decompose(bone.parent < 0 ? world[i] : times(inverseOr(world[bone.parent]), world[i]));
    return node({
      name: bone.name,
      parent: bone.parent,
      kind: 'bone',
      translation: local.translation,
      rotation: local.rotation,
    });
  });
  const inverseBinds = new Float64Array(nodes.length * 16);
  world.forEach((matrix, i) => inverseBinds.set(inverseOr(matrix), i * 16));
  return {
    name: skeleton.title,
    nodes,
    meshes: [],
    skins: [{ name: skeleton.title, joints: nodes.map((_, i) => i), inverseBinds }],
    clips: [],
    sets: [],
    carried: {
      ...EMPTY_CARRIED,
      scenes: [
        { json: { name: skeleton.title }, roots: nodes.flatMap((node, i) => (node.parent < 0 ? [i] : [])) },
      ],
    },
    source: { format: 'skeleton', generator: '', unitMetres: 1, files: [] },
    notes: [],
  };
}

/**
 * The same for two skeletons with the same names, tree and places (to a millimetre); the order of the bones
 * does not count.
 */
export function fingerprintOf(skeleton: Skeleton): string {
  const lines = skeleton.bones.map(
    (bone) =>
      `${bone.name}\u0001${bone.parent < 0 ? '' : skeleton.bones[bone.parent].name}\u0001${bone.place.map((x) => Math.round(x * 1000) + 0).join()}`,
  );
  return bytesToHex(sha256(new TextEncoder().encode(lines.sort().join('\n')))).slice(0, 32);
}

/** The bones that hang directly under each bone, by index. */
export function childrenOfBones(skeleton: Skeleton): number[][] {
  const out: number[][] = skeleton.bones.map(() => []);
  skeleton.bones.forEach((bone, i) => {
    if (bone.parent >= 0) out[bone.parent].push(i);
  });
  return out;
}

/** Bones above a bone, nearest first. */
export function bonesAbove(skeleton: Skeleton, bone: number): number[] {
  const out: number[] = [];
  for (let ancestor = skeleton.bones[bone].parent; ancestor >= 0; ancestor = skeleton.bones[ancestor].parent)
    out.push(ancestor);
  return out;
}
