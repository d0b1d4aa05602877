/**
 * The motion of one rig on another that has other bones, so that the mesh comes as near as it can to where it was: its
 * joints turn about themselves, their lengths kept. The turns that are right joint by joint are the beginning; then,
 * from the root out and over again, every joint is turned with all that hangs under it by the rotation that brings the
 * points it carries nearest to theirs (weighted orthogonal Procrustes, one block of variables at a time).
 */
import { meshNodesOf, restWorld, topDown } from '../character/hierarchy';
import { type Character, positionsOf } from '../character/model';
import { quatRotate } from '../geometry/matrix';
import { rotationOf } from '../geometry/rotation';
import { transferPose } from './pose';

/** How many points, at most, say where the mesh is to be, beside the heaviest of every joint. */
const POINTS = 1000;
const OF_JOINT = 10;

/** How often the joints are gone through at most, and what a sweep must gain, as a share, for another. */
const SWEEPS = 6;
const GAIN = 0.04;

/** How firmly a joint keeps its turn where its points leave it free, as a share of what they weigh. */
const KEEP = 2e-3;

/** What lies nearer than this, as a share of the figure, needs no fitting. */
const NEAR = 1e-4;

/** Points that lie farther off at rest were mended, metres. */
const AT_REST = 1e-5;

/** What carries a point: joints (nodes) with their weights, and the point in the space of each joint's bind. */
interface Carried {
  readonly offsets: Int32Array;
  readonly node: Int32Array;
  readonly weight: Float64Array;
  /** 3 per entry, already times the weight. */
  readonly local: Float64Array;
}

/** A joint that can turn: the points that it or what hangs under it carries, and by which entries. */
interface Joint {
  readonly node: number;
  readonly isRoot: boolean;
  /** Nodes that turn with it, itself first. */
  readonly branch: Int32Array;
  readonly points: Int32Array;
  /** Weight of the branch at every point. */
  readonly masses: Float64Array;
  /** Entries of the branch, point by point. */
  readonly offsets: Int32Array;
  readonly entries: Int32Array;
}

/** Carries poses of a character over to the same mesh on other bones. */
export class MotionFit {
  private readonly before: Carried;
  private readonly after: Carried;
  /** Made when they are needed first. */
  private joints: readonly Joint[] | null = null;
  private readonly count: number;
  private readonly size: number;

  /**
   * @param partner for every node of the target, the node of the source that it stands for; −1 for none
   * @param trimmed vertices of the target's mesh nodes that lost a bone to the limit: their weights are others, and no
   * joint is turned for their sake
   */
  constructor(
    private readonly source: Character,
    private readonly target: Character,
    private readonly partner: Int32Array,
    trimmed: Trimmed = [],
  ) {
    const chosen = withoutMended(source, target, partner, choosePoints(target, partner, trimmed));
    this.before = carriedBy(
      source,
      chosen.map((c) => ({ node: partner[c.node], vertices: c.vertices })),
    );
    this.after = carriedBy(target, chosen);
    this.count = this.after.offsets.length - 1;
    this.size = sizeOf(this.before, this.count);
  }

  /**
   * World matrices of the target, 16 per node, for those of the source. Where turning joint by joint is exact nothing
   * is fitted.
   */
  pose(sourceWorld: Float64Array): Float64Array {
    const world = transferPose(this.source, sourceWorld, this.target, this.partner);
    const wanted = placesOf(this.before, sourceWorld, this.count);
    const now = placesOf(this.after, world, this.count);
    let far = 0;
    for (let i = 0; i < now.length; i++) far = Math.max(far, Math.abs(now[i] - wanted[i]));
    if (far <= NEAR * this.size) return world;
    this.joints ??= jointsOf(this.target, this.after);
    let off = squares(wanted, now);
    for (let sweep = 0; sweep < SWEEPS; sweep++) {
      for (const joint of this.joints) this.turn(joint, world, wanted, now);
      const left = squares(wanted, now);
      if (left > off * (1 - GAIN)) break;
      off = left;
    }
    return world;
  }

  /** Turns a joint with its branch to where its points fit best, the others as they are; a root moves as well. */
  private turn(joint: Joint, world: Float64Array, wanted: Float64Array, now: Float64Array): void {
    const at = joint.node * 16 + 12;
    const p = [world[at], world[at + 1], world[at + 2]];
    const { points, offsets, entries, masses } = joint;
    if (farOf(points, wanted, now) <= NEAR * this.size) return;
    const arms = new Float64Array(points.length * 3);
    const covariance = new Float64Array(9);
    let inertia = 0;
    for (let k = 0; k < points.length; k++) {
      const v = points[k] * 3;
      this.addArm(world, entries, offsets[k], offsets[k + 1], arms, k * 3);
      for (let a = 0; a < 3; a++) arms[k * 3 + a] -= masses[k] * p[a];
      for (let a = 0; a < 3; a++) {
        // The point wanted, less what the others carry of it and the joint's own place.
        const goal = wanted[v + a] - now[v + a] + arms[k * 3 + a];
        for (let b = 0; b < 3; b++) covariance[a * 3 + b] += goal * arms[k * 3 + b];
        inertia += arms[k * 3 + a] * arms[k * 3 + a];
      }
    }
    for (let a = 0; a < 3; a++) covariance[a * 4] += KEEP * inertia + 1e-18;
    const q = rotationOf(covariance);
    turnBranch(world, joint.branch, p, q);
    for (let k = 0; k < points.length; k++) {
      const arm = [arms[k * 3], arms[k * 3 + 1], arms[k * 3 + 2]];
      const turned = quatRotate(q, arm);
      for (let a = 0; a < 3; a++) now[points[k] * 3 + a] += turned[a] - arm[a];
    }
    if (joint.isRoot) shiftRoot(joint, world, wanted, now);
  }

  /** The weighted place of what a branch carries of a point. */
  private addArm(
    world: Float64Array,
    entries: Int32Array,
    from: number,
    to: number,
    out: Float64Array,
    o: number,
  ): void {
    const { node, weight, local } = this.after;
    for (let e = from; e < to; e++) {
      const i = entries[e];
      const m = node[i] * 16;
      const [x, y, z] = [local[i * 3], local[i * 3 + 1], local[i * 3 + 2]];
      const w = weight[i];
      for (let a = 0; a < 3; a++)
        out[o + a] += world[m + a] * x + world[m + 4 + a] * y + world[m + 8 + a] * z + world[m + 12 + a] * w;
    }
  }
}

/** How far the farthest of some points is from where it is wanted, along an axis. */
function farOf(points: Int32Array, wanted: Float64Array, now: Float64Array): number {
  let far = 0;
  for (const p of points)
    for (let a = p * 3; a < p * 3 + 3; a++) far = Math.max(far, Math.abs(wanted[a] - now[a]));
  return far;
}

function squares(a: Float64Array, b: Float64Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
  return sum;
}

/** Moves a root with all that hangs under it to where its points fit best. */
function shiftRoot(
  { branch, points, masses }: Joint,
  world: Float64Array,
  wanted: Float64Array,
  now: Float64Array,
): void {
  const shift = [0, 0, 0];
  let mass = 0;
  for (let k = 0; k < points.length; k++) {
    mass += masses[k] * masses[k];
    for (let a = 0; a < 3; a++) shift[a] += masses[k] * (wanted[points[k] * 3 + a] - now[points[k] * 3 + a]);
  }
  if (mass === 0) return;
  for (const n of branch) for (let a = 0; a < 3; a++) world[n * 16 + 12 + a] += shift[a] / mass;
  for (let k = 0; k < points.length; k++)
    for (let a = 0; a < 3; a++) now[points[k] * 3 + a] += (masses[k] * shift[a]) / mass;
}

/** Turns nodes about a place. */
function turnBranch(
  world: Float64Array,
  branch: Int32Array,
  about: readonly number[],
  q: readonly number[],
): void {
  for (const n of branch) {
    for (let c = 0; c < 3; c++) {
      const o = n * 16 + c * 4;
      world.set(quatRotate(q, [world[o], world[o + 1], world[o + 2]]), o);
    }
    const o = n * 16 + 12;
    const turned = quatRotate(q, [world[o] - about[0], world[o + 1] - about[1], world[o + 2] - about[2]]);
    for (let a = 0; a < 3; a++) world[o + a] = turned[a] + about[a];
  }
}

/** Vertices of mesh nodes. */
type Trimmed = readonly { readonly node: number; readonly vertices: Uint32Array }[];

interface Chosen {
  readonly node: number;
  readonly vertices: readonly number[];
}

/** Points evenly over all meshes that both have, and the heaviest of every joint. */
function choosePoints(target: Character, partner: Int32Array, trimmed: Trimmed): Chosen[] {
  const nodes = meshNodesOf(target).filter((n) => partner[n] >= 0);
  const total = nodes.reduce((sum, n) => sum + target.meshes[target.nodes[n].mesh].vertexCount, 0);
  const stride = Math.max(1, Math.ceil(total / POINTS));
  return nodes.map((node) => {
    const mesh = target.meshes[target.nodes[node].mesh];
    const chosen = new Set<number>();
    for (let v = 0; v < mesh.vertexCount; v += stride) chosen.add(v);
    const f = target.nodes[node].skin >= 0 ? mesh.influences : null;
    if (f && stride > 1) {
      const heaviest = new Map<number, { v: number; w: number }[]>();
      for (let v = 0; v < mesh.vertexCount; v++)
        for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
          const list = heaviest.get(f.joint[k]) ?? [];
          heaviest.set(f.joint[k], list);
          if (list.length >= OF_JOINT && f.weight[k] <= list[list.length - 1].w) continue;
          list.push({ v, w: f.weight[k] });
          list.sort((a, b) => b.w - a.w);
          if (list.length > OF_JOINT) list.pop();
        }
      for (const list of heaviest.values()) for (const { v } of list) chosen.add(v);
    }
    for (const t of trimmed) if (t.node === node) for (const v of t.vertices) chosen.delete(v);
    return { node, vertices: [...chosen].sort((a, b) => a - b) };
  });
}

/** The points that stand at rest where they stood: what had to be mended moves of itself, and no turn brings it back. */
function withoutMended(
  source: Character,
  target: Character,
  partner: Int32Array,
  chosen: readonly Chosen[],
): Chosen[] {
  return chosen.map(({ node, vertices }) => {
    const [before, after] = [
      placesOf(
        carriedBy(source, [{ node: partner[node], vertices }]),
        restWorld(source.nodes),
        vertices.length,
      ),
      placesOf(carriedBy(target, [{ node, vertices }]), restWorld(target.nodes), vertices.length),
    ];
    const isStill = (k: number) =>
      [0, 1, 2].every((a) => Math.abs(before[k * 3 + a] - after[k * 3 + a]) < AT_REST);
    return { node, vertices: vertices.filter((_, k) => isStill(k)) };
  });
}

/** What carries the chosen points of a character. */
function carriedBy(character: Character, chosen: readonly Chosen[]): Carried {
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

/** World places of the points, 3 each. */
function placesOf(
  { offsets, node, weight, local }: Carried,
  world: Float64Array,
  count: number,
): Float64Array {
  const out = new Float64Array(count * 3);
  for (let v = 0; v < count; v++)
    for (let i = offsets[v]; i < offsets[v + 1]; i++) {
      const m = node[i] * 16;
      const [x, y, z] = [local[i * 3], local[i * 3 + 1], local[i * 3 + 2]];
      for (let a = 0; a < 3; a++)
        out[v * 3 + a] +=
          world[m + a] * x + world[m + 4 + a] * y + world[m + 8 + a] * z + world[m + 12 + a] * weight[i];
    }
  return out;
}

/** The bones that carry anything, from the root out, with what they carry. */
function jointsOf(target: Character, after: Carried): Joint[] {
  const order = topDown(target.nodes);
  const branches = target.nodes.map((_, i) => [i]);
  for (const i of [...order].reverse()) {
    const { parent } = target.nodes[i];
    if (parent >= 0) branches[parent].push(...branches[i]);
  }
  const joints: Joint[] = [];
  const hasRoot = new Set<number>();
  for (const i of order) {
    const { kind, parent } = target.nodes[i];
    if (parent >= 0 && hasRoot.has(parent)) hasRoot.add(i);
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
    joints.push({
      node: i,
      isRoot: !hasRoot.has(i),
      branch: Int32Array.from(branch),
      points: Int32Array.from(points),
      masses: Float64Array.from(masses),
      offsets: Int32Array.from(offsets),
      entries: Int32Array.from(entries),
    });
    hasRoot.add(i);
  }
  return joints;
}

function sizeOf({ local }: Carried, count: number): number {
  let size = 0;
  for (let i = 0; i < local.length; i++) size = Math.max(size, Math.abs(local[i]));
  return count === 0 ? 1 : size || 1;
}
