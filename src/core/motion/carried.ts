/** The points that motion is fitted to, what carries them, and the joints that can turn. */
import { meshNodesOf, restWorld, topDown } from '../character/hierarchy';
import { type Character, positionsOf } from '../character/model';
import { heaviestVertices } from '../geometry/influences';

/** How many points, at most, say where the mesh is to be, beside the heaviest of every joint. */
const POINTS = 600;
const OF_JOINT = 6;

/** Points that lie farther off at rest were mended, metres. */
const AT_REST = 1e-5;

/** What carries a point: joints (nodes) with their weights, and the point in the space of each joint's bind. */
export interface CarriedPoints {
  readonly offsets: Int32Array;
  readonly node: Int32Array;
  readonly weight: Float64Array;
  /** 3 per entry, already times the weight. */
  readonly local: Float64Array;
}

/** A joint that can turn: the points that it or what hangs under it carries, and by which entries. */
export interface Joint {
  readonly node: number;
  /** The next joint above, by its place among the joints; −1 for none. */
  readonly parent: number;
  /** Nodes that turn with it and with no joint below it, itself first. */
  readonly own: readonly number[];
  readonly points: Int32Array;
  /** Weight of the branch at every point. */
  readonly masses: Float64Array;
  /** Entries of the branch, point by point. */
  readonly offsets: Int32Array;
  readonly entries: Int32Array;
}

/** Vertices of mesh nodes. */
export interface VerticesOfNode {
  readonly node: number;
  readonly vertices: ArrayLike<number> & Iterable<number>;
}

export type VerticesOfNodes = readonly VerticesOfNode[];

/** The points that motion is fitted to: evenly over the mesh, none whose weights had to be mended. */
export function fittedPoints(
  source: Character,
  target: Character,
  sourceNodeOf: Int32Array,
  trimmed: VerticesOfNodes = [],
): VerticesOfNodes {
  return withoutMended(source, target, sourceNodeOf, choosePoints(target, sourceNodeOf, trimmed));
}

/** Points evenly over all meshes that both have, and the heaviest of every joint. */
function choosePoints(
  target: Character,
  sourceNodeOf: Int32Array,
  trimmed: VerticesOfNodes,
): { node: number; vertices: number[] }[] {
  const nodes = meshNodesOf(target).filter((node) => sourceNodeOf[node] >= 0);
  const total = nodes.reduce((sum, node) => sum + target.meshes[target.nodes[node].mesh].vertexCount, 0);
  const stride = Math.max(1, Math.ceil(total / POINTS));
  return nodes.map((node) => {
    const mesh = target.meshes[target.nodes[node].mesh];
    const chosen = new Set<number>();
    for (let vertex = 0; vertex < mesh.vertexCount; vertex += stride) chosen.add(vertex);
    const influences = target.nodes[node].skin >= 0 ? mesh.influences : null;
    if (influences && stride > 1)
      for (const vertex of heaviestVertices(influences, OF_JOINT)) chosen.add(vertex);
    for (const cut of trimmed)
      if (cut.node === node) for (const vertex of cut.vertices) chosen.delete(vertex);
    return { node, vertices: [...chosen].sort((a, b) => a - b) };
  });
}

/**
 * The points that stand at rest where they stood: what had to be mended moves of itself, and no turn brings
 * it back.
 */
function withoutMended(
  source: Character,
  target: Character,
  sourceNodeOf: Int32Array,
  chosen: readonly { readonly node: number; readonly vertices: readonly number[] }[],
): VerticesOfNode[] {
  return chosen.map(({ node, vertices }) => {
    const [before, after] = [
      placesIn(source, { node: sourceNodeOf[node], vertices }),
      placesIn(target, { node, vertices }),
    ];
    const isStill = (k: number) =>
      [0, 1, 2].every((a) => Math.abs(before[k * 3 + a] - after[k * 3 + a]) < AT_REST);
    return { node, vertices: vertices.filter((_, k) => isStill(k)) };
  });
}

/** World places of vertices at rest, 3 each. */
function placesIn(character: Character, vertices: VerticesOfNode): Float64Array {
  const carried = carriedBy(character, [vertices]);
  return placesOf(carried, broughtBy(carried, restWorld(character.nodes)));
}

/** What carries the chosen points of a character. */
export function carriedBy(character: Character, chosen: VerticesOfNodes): CarriedPoints {
  const offsets = [0];
  const node: number[] = [];
  const weight: number[] = [];
  const local: number[] = [];
  for (const { node: meshNode, vertices } of chosen) {
    const mesh = character.meshes[character.nodes[meshNode].mesh];
    const points = positionsOf(mesh);
    const skin = character.nodes[meshNode].skin >= 0 ? character.skins[character.nodes[meshNode].skin] : null;
    const influences = skin ? mesh.influences : null;
    for (const vertex of vertices) {
      const [x, y, z] = [points[vertex * 3], points[vertex * 3 + 1], points[vertex * 3 + 2]];
      if (!skin || !influences) {
        node.push(meshNode);
        weight.push(1);
        local.push(x, y, z);
      } else
        for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
          const b = skin.inverseBinds;
          const offset = influences.joint[k] * 16;
          const otherWeight = influences.weight[k];
          node.push(skin.joints[influences.joint[k]]);
          weight.push(otherWeight);
          for (let a = 0; a < 3; a++)
            local.push(
              otherWeight *
                (b[offset + a] * x + b[offset + 4 + a] * y + b[offset + 8 + a] * z + b[offset + 12 + a]),
            );
        }
      offsets.push(node.length);
    }
  }
  return {
    offsets: Int32Array.from(offsets),
    node: Int32Array.from(node),
    weight: Float64Array.from(weight),
    local: Float64Array.from(local),
  };
}

/** World places that the entries bring, times their weight; 3 each. */
export function broughtBy({ node, weight, local }: CarriedPoints, world: Float64Array): Float64Array {
  const out = new Float64Array(node.length * 3);
  for (let i = 0; i < node.length; i++) {
    const offset = node[i] * 16;
    const x = local[i * 3];
    const y = local[i * 3 + 1];
    const z = local[i * 3 + 2];
    const otherWeight = weight[i];
    out[i * 3] =
      world[offset] * x + world[offset + 4] * y + world[offset + 8] * z + world[offset + 12] * otherWeight;
    out[i * 3 + 1] =
      world[offset + 1] * x +
      world[offset + 5] * y +
      world[offset + 9] * z +
      world[offset + 13] * otherWeight;
    out[i * 3 + 2] =
      world[offset + 2] * x +
      world[offset + 6] * y +
      world[offset + 10] * z +
      world[offset + 14] * otherWeight;
  }
  return out;
}

/** World places of the points, 3 each, from what the entries bring. */
export function placesOf({ offsets }: CarriedPoints, brought: Float64Array): Float64Array {
  const out = new Float64Array((offsets.length - 1) * 3);
  for (let vertex = 0; vertex + 1 < offsets.length; vertex++)
    for (let i = offsets[vertex] * 3; i < offsets[vertex + 1] * 3; i += 3) {
      out[vertex * 3] += brought[i];
      out[vertex * 3 + 1] += brought[i + 1];
      out[vertex * 3 + 2] += brought[i + 2];
    }
  return out;
}

/** The bones that carry anything, from the root out, with what they carry. */
export function jointsOf(target: Character, after: CarriedPoints): Joint[] {
  const order = topDown(target.nodes);
  const branches = target.nodes.map((_, i) => [i]);
  for (const i of [...order].reverse()) {
    const { parent } = target.nodes[i];
    if (parent >= 0) branches[parent].push(...branches[i]);
  }
  const joints: (Joint & { readonly own: number[] })[] = [];
  /** For every node the joint that it turns with. */
  const jointOf = new Int32Array(target.nodes.length).fill(-1);
  for (const i of order) {
    const { kind, parent } = target.nodes[i];
    const above = parent < 0 ? -1 : jointOf[parent];
    jointOf[i] = above;
    joints[above]?.own.push(i);
    if (kind !== 'bone') continue;
    const branch = branches[i];
    const inside = new Uint8Array(target.nodes.length);
    for (const node of branch) inside[node] = 1;
    const points: number[] = [];
    const masses: number[] = [];
    const offsets = [0];
    const entries: number[] = [];
    for (let vertex = 0; vertex + 1 < after.offsets.length; vertex++) {
      const before = entries.length;
      let mass = 0;
      for (let entry = after.offsets[vertex]; entry < after.offsets[vertex + 1]; entry++) {
        if (!inside[after.node[entry]]) continue;
        entries.push(entry);
        mass += after.weight[entry];
      }
      if (entries.length === before) continue;
      points.push(vertex);
      masses.push(mass);
      offsets.push(entries.length);
    }
    if (points.length === 0) continue;
    joints[above]?.own.pop();
    jointOf[i] = joints.length;
    joints.push({
      node: i,
      parent: above,
      own: [i],
      points: Int32Array.from(points),
      masses: Float64Array.from(masses),
      offsets: Int32Array.from(offsets),
      entries: Int32Array.from(entries),
    });
  }
  return joints;
}

export function sizeOf({ local, offsets }: CarriedPoints): number {
  let size = 0;
  for (let i = 0; i < local.length; i++) size = Math.max(size, Math.abs(local[i]));
  return offsets.length === 1 ? 1 : size || 1;
}
