import { compose, multiply } from '../geometry/matrix';
import type { Character, SceneNode } from './model';

/** Children of every node, in index order. */
export function childrenOf(nodes: readonly SceneNode[]): number[][] {
  const children: number[][] = nodes.map(() => []);
  nodes.forEach((n, i) => {
    if (n.parent >= 0) children[n.parent].push(i);
  });
  return children;
}

/** Node indices with every parent before its children. Nodes on a cycle are left out. */
export function topDown(nodes: readonly SceneNode[]): number[] {
  const children = childrenOf(nodes);
  const order: number[] = [];
  nodes.forEach((n, i) => {
    if (n.parent < 0) order.push(i);
  });
  for (let k = 0; k < order.length; k++) order.push(...children[order[k]]);
  return order;
}

/** The node's local matrix, written into out[o … o + 16]. */
function writeLocal(out: Float64Array, o: number, n: SceneNode): void {
  if (n.matrix) out.set(n.matrix, o);
  else compose(out, o, n.translation, n.rotation, n.scale);
}

/** The node's local matrix: 16, column-major, an array of its own. */
export function localOf(n: SceneNode): Float64Array {
  const out = new Float64Array(16);
  writeLocal(out, 0, n);
  return out;
}

/** True for nodes that hang, at whatever depth, below one of the given, and for those themselves. */
export function branchOf(nodes: readonly SceneNode[], tops: Iterable<number>): boolean[] {
  const inside: boolean[] = nodes.map(() => false);
  for (const t of tops) inside[t] = true;
  for (const i of topDown(nodes)) if (nodes[i].parent >= 0 && inside[nodes[i].parent]) inside[i] = true;
  return inside;
}

/** World matrices from local ones: both 16 per node, column-major. */
function worldFromLocals(nodes: readonly SceneNode[], locals: Float64Array): Float64Array {
  const world = new Float64Array(locals.length);
  for (const i of topDown(nodes)) {
    const p = nodes[i].parent;
    if (p < 0) world.set(locals.subarray(i * 16, i * 16 + 16), i * 16);
    else multiply(world, i * 16, world, p * 16, locals, i * 16);
  }
  return world;
}

/** Local matrices of all nodes at rest: Float64Array, 16 per node, column-major, metres. */
export function restLocals(nodes: readonly SceneNode[]): Float64Array {
  const locals = new Float64Array(nodes.length * 16);
  nodes.forEach((n, i) => writeLocal(locals, i * 16, n));
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
  const w = restWorld(nodes);
  return [w[i * 16 + 12], w[i * 16 + 13], w[i * 16 + 14]];
}

/** Ancestors of a node, nearest first. */
export function ancestorsOf(nodes: readonly SceneNode[], i: number): number[] {
  const out: number[] = [];
  for (let p = nodes[i].parent; p >= 0 && out.length <= nodes.length; p = nodes[p].parent) out.push(p);
  return out;
}

/** All nodes of kind bone, in index order. */
export function bonesOf(character: Character): number[] {
  const out: number[] = [];
  character.nodes.forEach((n, i) => {
    if (n.kind === 'bone') out.push(i);
  });
  return out;
}

/** The bone above a bone, passing over nodes of other kinds; −1 at a root. */
export function parentBone(nodes: readonly SceneNode[], i: number): number {
  for (let p = nodes[i].parent; p >= 0; p = nodes[p].parent) if (nodes[p].kind === 'bone') return p;
  return -1;
}

/** The skinned or rigid nodes that show a mesh. */
export function meshNodesOf(character: Character): number[] {
  const out: number[] = [];
  character.nodes.forEach((n, i) => {
    if (n.mesh >= 0) out.push(i);
  });
  return out;
}

/** Total weight that every node carries over all meshes: one number per node. */
export function weightOfNodes(character: Character): Float64Array {
  const total = new Float64Array(character.nodes.length);
  for (const i of meshNodesOf(character)) {
    const n = character.nodes[i];
    const influences = character.meshes[n.mesh].influences;
    if (n.skin < 0 || !influences) continue;
    const joints = character.skins[n.skin].joints;
    for (let k = 0; k < influences.weight.length; k++) {
      const joint = joints[influences.joint[k]];
      if (joint !== undefined) total[joint] += influences.weight[k];
    }
  }
  return total;
}
