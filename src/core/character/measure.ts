import { placePositions } from './deform';
import { ancestorsOf, bonesOf, meshNodesOf, restPlace, restWorld, topDown, weightOfNodes } from './hierarchy';
import type { Character, Mesh, Skin } from './model';
import { morphedPositions, morphsAt } from './morphs';

/** An axis-aligned box, metres, in the space of its points. */
export interface Box {
  readonly min: readonly [number, number, number];
  readonly max: readonly [number, number, number];
}

/** A mesh as a node shows it, and the skin that binds it there. */
export interface Shown {
  readonly node: number;
  readonly mesh: Mesh;
  readonly skin: Skin | null;
}

/** The same with its points at rest, with the morph targets that are on there. */
export interface Placed extends Shown {
  /** Float32Array, 3 per vertex, world space, metres. */
  readonly points: Float32Array;
}

/** Every mesh that a node shows. */
export function shownMeshes(character: Character): Shown[] {
  return meshNodesOf(character).map((node) => {
    const sceneNode = character.nodes[node];
    const mesh = character.meshes[sceneNode.mesh];
    return {
      node,
      mesh,
      skin: sceneNode.skin >= 0 && mesh.influences ? character.skins[sceneNode.skin] : null,
    };
  });
}

const placedCache = new WeakMap<Character, Placed[]>();

/** All meshes at rest in world space; computed once for a character. */
export function placedMeshes(character: Character): Placed[] {
  let placed = placedCache.get(character);
  if (!placed) {
    const world = restWorld(character.nodes);
    placed = shownMeshes(character).map((shown) => {
      const positions = morphedPositions(shown.mesh, morphsAt(character, shown.node));
      return {
        ...shown,
        points: placePositions(positions, shown.mesh.influences, shown.skin, shown.node, world),
      };
    });
    placedCache.set(character, placed);
  }
  return placed;
}

/** The box around points (3 per vertex), or null where there are none. */
export function boxOf(sets: readonly ArrayLike<number>[]): Box | null {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const points of sets)
    for (let k = 0; k < 3; k++) {
      let low = min[k];
      let high = max[k];
      for (let i = k; i < points.length; i += 3) {
        const x = points[i];
        if (x < low) low = x;
        if (x > high) high = x;
      }
      min[k] = low;
      max[k] = high;
    }
  return min[0] === Infinity ? null : { min, max };
}

/**
 * Nodes whose meshes make up the body: the bound ones, without the props that hang on it; of a machine, most
 * of whose parts hang rigid on bones, all of them; of a character without bones, all.
 */
export function bodyNodes(character: Character): number[] {
  const { nodes, meshes } = character;
  const shown = meshNodesOf(character);
  const bound = shown.filter((i) => nodes[i].skin >= 0 && meshes[nodes[i].mesh].influences);
  const isBound = new Set(bound);
  const hung = shown.filter(
    (i) => !isBound.has(i) && ancestorsOf(nodes, i).some((ancestor) => nodes[ancestor].kind === 'bone'),
  );
  if (bound.length === 0 && hung.length === 0) return shown;
  return hung.length > bound.length ? [...bound, ...hung] : bound;
}

/** The body's meshes at rest. */
export function bodyMeshes(character: Character): Placed[] {
  const body = new Set(bodyNodes(character));
  return placedMeshes(character).filter((placed) => body.has(placed.node));
}

const boxCache = new WeakMap<Character, Box | null>();

/** The box of the body at rest; computed once for a character. World space, metres. */
export function bodyBox(character: Character): Box | null {
  let box = boxCache.get(character);
  if (box === undefined)
    boxCache.set(character, (box = boxOf(bodyMeshes(character).map((placed) => placed.points))));
  return box;
}

/**
 * The box of all joints at rest. World space, metres. Of a bound skeleton only those count that carry something, or
 * have below them what does: tips, controls and what things are held by stay out, and so does a root that carries
 * nothing, which marks the origin wherever the figure is.
 */
export function skeletonBox(character: Character): Box | null {
  const { nodes } = character;
  const bones = bonesOf(character);
  const weight = weightOfNodes(character);
  const isBound = weight.some((weight) => weight > 0);
  const carries = carryingBranches(character, weight);
  const isRoot = (b: number) => nodes[nodes[b].parent]?.kind !== 'bone';
  const places = bones
    .filter((bone) => !isBound || (carries[bone] && !(weight[bone] === 0 && isRoot(bone))))
    .map((bone) => restPlace(nodes, bone));
  return boxOf([places.flat()]);
}

/** Whether a node, or one below it, carries weight or shows a mesh that hangs on it. */
function carryingBranches({ nodes }: Character, weight: Float64Array): boolean[] {
  const out = nodes.map((node, i) => weight[i] > 0 || (node.mesh >= 0 && node.skin < 0));
  for (const i of topDown(nodes).reverse()) if (out[i] && nodes[i].parent >= 0) out[nodes[i].parent] = true;
  return out;
}

/** Height of the body in metres; of the skeleton where there is no mesh; 1 where there is neither. */
export function characterHeight(character: Character): number {
  const box = bodyBox(character) ?? skeletonBox(character);
  return box ? Math.max(box.max[1] - box.min[1], 1e-6) : 1;
}
