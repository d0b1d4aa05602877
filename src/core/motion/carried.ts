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
export interface Carried {
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
  partner: Int32Array,
  trimmed: VerticesOfNodes = [],
): VerticesOfNodes {
  return withoutMended(source, target, partner, choosePoints(target, partner, trimmed));
}

/** Points evenly over all meshes that both have, and the heaviest of every joint. */
function choosePoints(
  target: Character,
  partner: Int32Array,
  trimmed: VerticesOfNodes,
): { node: number; vertices: number[] }[] {
  const nodes = meshNodesOf(target).filter((n) => partner[n] >= 0);
  const total = nodes.reduce((sum, n) => sum + target.meshes[target.nodes[n].mesh].vertexCount, 0);
  const stride = Math.max(1, Math.ceil(total / POINTS));
  return nodes.map((node) => {
    const mesh = target.meshes[target.nodes[node].mesh];
    const chosen = new Set<number>();
    for (let v = 0; v < mesh.vertexCount; v += stride) chosen.add(v);
    const f = target.nodes[node].skin >= 0 ? mesh.influences : null;
    if (f && stride > 1) for (const v of heaviestVertices(f, OF_JOINT)) chosen.add(v);
    for (const t of trimmed) if (t.node === node) for (const v of t.vertices) chosen.delete(v);
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
  partner: Int32Array,
  chosen: readonly { readonly node: number; readonly vertices: readonly number[] }[],
): VerticesOfNode[] {
  return chosen.map(({ node, vertices }) => {
    const [before, after] = [
      placesIn(source, { node: partner[node], vertices }),
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
export function carriedBy(character: Character, chosen: VerticesOfNodes): Carried {
  const offsets = [0];
  const node: number[] = [];
  const weight: number[] = [];
  const local: number[] = [];
  for (const { node: n, vertices } of chosen) {
    const mesh = character.meshes[character.nodes[n].mesh];
    const points = positionsOf(mesh);
    const skin = character.nodes[n].skin >= 0 ? character.skins[character.nodes[n].skin] : null;
    const f = skin ? mesh.influences : null;
    for (const v of vertices) {
      const [x, y, z] = [points[v * 3], points[v * 3 + 1], points[v * 3 + 2]];
      if (!skin || !f) {
        node.push(n);
        weight.push(1);
        local.push(x, y, z);
      } else
        for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
          const b = skin.inverseBinds;
          const o = f.joint[k] * 16;
          const w = f.weight[k];
          node.push(skin.joints[f.joint[k]]);
          weight.push(w);
          for (let a = 0; a < 3; a++)
            local.push(w * (b[o + a] * x + b[o + 4 + a] * y + b[o + 8 + a] * z + b[o + 12 + a]));
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
export function broughtBy({ node, weight, local }: Carried, world: Float64Array): Float64Array {
  const out = new Float64Array(node.length * 3);
  for (let i = 0; i < node.length; i++) {
    const m = node[i] * 16;
    const x = local[i * 3];
    const y = local[i * 3 + 1];
    const z = local[i * 3 + 2];
    const w = weight[i];
    out[i * 3] = world[m] * x + world[m + 4] * y + world[m + 8] * z + world[m + 12] * w;
    out[i * 3 + 1] = world[m + 1] * x + world[m + 5] * y + world[m + 9] * z + world[m + 13] * w;
    out[i * 3 + 2] = world[m + 2] * x + world[m + 6] * y + world[m + 10] * z + world[m + 14] * w;
  }
  return out;
}

/** World places of the points, 3 each, from what the entries bring. */
export function placesOf({ offsets }: Carried, brought: Float64Array): Float64Array {
  const out = new Float64Array((offsets.length - 1) * 3);
  for (let v = 0; v + 1 < offsets.length; v++)
    for (let i = offsets[v] * 3; i < offsets[v + 1] * 3; i += 3) {
      out[v * 3] += brought[i];
      out[v * 3 + 1] += brought[i + 1];
      out[v * 3 + 2] += brought[i + 2];
    }
  return out;
}

/** The bones that carry anything, from the root out, with what they carry. */
export function jointsOf(target: Character, after: Carried): Joint[] {
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
    for (const n of branch) inside[n] = 1;
    const points: number[] = [];
    const masses: number[] = [];
    const offsets = [0];
    const entries: number[] = [];
    for (let v = 0; v + 1 < after.offsets.length; v++) {
      const before = entries.length;
      let mass = 0;
      for (let e = after.offsets[v]; e < after.offsets[v + 1]; e++) {
        if (!inside[after.node[e]]) continue;
        entries.push(e);
        mass += after.weight[e];
      }
      if (entries.length === before) continue;
      points.push(v);
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

export function sizeOf({ local, offsets }: Carried): number {
  let size = 0;
  for (let i = 0; i < local.length; i++) size = Math.max(size, Math.abs(local[i]));
  return offsets.length === 1 ? 1 : size || 1;
}
