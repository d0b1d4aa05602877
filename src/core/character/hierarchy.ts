import { compose, inverseOr, multiply } from '../geometry/matrix';
import type { Character, SceneNode } from './model';

/** Children of every node, in index order. */
export function childrenOf(nodes: readonly SceneNode[]): number[][] {
  const children: number[][] = nodes.map(() => []);
  nodes.forEach((node, i) => {
    if (node.parent >= 0) children[node.parent].push(i);
  });
  return children;
}

/** Node indices with every parent before its children. Nodes on a cycle are left out. */
export function topDown(nodes: readonly SceneNode[]): number[] {
  const children = childrenOf(nodes);
  const order: number[] = [];
  nodes.forEach((node, i) => {
    if (node.parent < 0) order.push(i);
  });
  for (let k = 0; k < order.length; k++) order.push(...children[order[k]]);
  return order;
}

/** The node's local matrix, written into out[o … o + 16]. */
function writeLocal(out: Float64Array, offset: number, node: SceneNode): void {
  if (node.matrix) out.set(node.matrix, offset);
  else compose(out, offset, node.translation, node.rotation, node.scale);
}

/** The node's local matrix: 16, column-major, an array of its own. */
export function localOf(node: SceneNode): Float64Array {
  const out = new Float64Array(16);
  writeLocal(out, 0, node);
  return out;
}

/** True for nodes that hang, at whatever depth, below one of the given, and for those themselves. */
export function branchOf(nodes: readonly SceneNode[], tops: Iterable<number>): boolean[] {
  const inside: boolean[] = nodes.map(() => false);
  for (const top of tops) inside[top] = true;
  for (const i of topDown(nodes)) if (nodes[i].parent >= 0 && inside[nodes[i].parent]) inside[i] = true;
  return inside;
}

/** World matrices from local ones: both 16 per node, column-major. */
function worldFromLocals(nodes: readonly SceneNode[], locals: Float64Array): Float64Array {
  const world = new Float64Array(locals.length);
  for (const i of topDown(nodes)) {
    const parent = nodes[i].parent;
    if (parent < 0) world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
    else multiply(world, i * 16, world, parent * 16, locals, i * 16);
  }
  return world;
}

/** Local matrices of all nodes at rest: Float64Array, 16 per node, column-major, metres. */
export function restLocals(nodes: readonly SceneNode[]): Float64Array {
  const locals = new Float64Array(nodes.length * 16);
  nodes.forEach((node, i) => writeLocal(locals, i * 16, node));
  return locals;
}

/** Local matrices (16 per node) of which given world matrices come; a node under one of no size keeps its world. */
export function localsOfWorld(nodes: readonly SceneNode[], world: Float64Array): Float64Array {
  const locals = world.slice();
  nodes.forEach(({ parent }, i) => {
    if (parent >= 0) multiply(locals, i * 16, inverseOr(world, parent * 16), 0, world, i * 16);
  });
  return locals;
}

const worldCache = new WeakMap<readonly SceneNode[], Float64Array>();

/** World matrix of every node at rest: 16 per node. Computed once for a list of nodes; treat as read-only. */
export function restWorld(nodes: readonly SceneNode[]): Float64Array {
  let world = worldCache.get(nodes);
  if (!world) {
    world = worldFromLocals(nodes, restLocals(nodes));
    worldCache.set(nodes, world);
  }
  return world;
}

/** World place of a node at rest, metres. */
export function restPlace(nodes: readonly SceneNode[], i: number): [number, number, number] {
  const world = restWorld(nodes);
  return [world[i * 16 + 12], world[i * 16 + 13], world[i * 16 + 14]];
}

/** Ancestors of a node, nearest first. */
export function ancestorsOf(nodes: readonly SceneNode[], i: number): number[] {
  const out: number[] = [];
  for (
    let ancestor = nodes[i].parent;
    ancestor >= 0 && out.length <= nodes.length;
    ancestor = nodes[ancestor].parent
  )
    out.push(ancestor);
  return out;
}

/** All nodes of kind bone, in index order. */
export function bonesOf(character: Character): number[] {
  const out: number[] = [];
  character.nodes.forEach((node, i) => {
    if (node.kind === 'bone') out.push(i);
  });
  return out;
}

/** The bone above a bone, passing over nodes of other kinds; −1 at a root. */
export function parentBone(nodes: readonly SceneNode[], i: number): number {
  for (let ancestor = nodes[i].parent; ancestor >= 0; ancestor = nodes[ancestor].parent)
    if (nodes[ancestor].kind === 'bone') return ancestor;
  return -1;
}

/** The skinned or rigid nodes that show a mesh. */
export function meshNodesOf(character: Character): number[] {
  const out: number[] = [];
  character.nodes.forEach((node, i) => {
    if (node.mesh >= 0) out.push(i);
  });
  return out;
}

const knownWeight = new WeakMap<Character, Float64Array>();

/** Total weight that every node carries over all meshes: one number per node. Made once for a character; not to be written. */
export function weightOfNodes(character: Character): Float64Array {
  let weight = knownWeight.get(character);
  if (!weight) knownWeight.set(character, (weight = sumWeights(character)));
  return weight;
}

function sumWeights(character: Character): Float64Array {
  const total = new Float64Array(character.nodes.length);
  for (const i of meshNodesOf(character)) {
    const node = character.nodes[i];
    const influences = character.meshes[node.mesh].influences;
    if (node.skin < 0 || !influences) continue;
    const joints = character.skins[node.skin].joints;
    for (let k = 0; k < influences.weight.length; k++) {
      const joint = joints[influences.joint[k]];
      if (joint !== undefined) total[joint] += influences.weight[k];
    }
  }
  return total;
}
