/**
 * One touch of a brush that sets a bone's weight. What the bone gains the others of the row lose in proportion, and what it
 * loses they gain, so that the sum stays one. Where nobody else is there to take it, another joint does.
 */
import type { InfluenceRows } from './influence-rows';

/** What a brush does to a row. */
export interface BrushTouch {
  /** The joint whose weight is set. */
  readonly joint: number;
  /** The weight that it is brought to, 0 … 1. */
  readonly target: number;
  /** Most influences that a row may have. */
  readonly limit: number;
  /** The joint that takes what nobody else can take; −1 for none, and the weight then stays. */
  readonly otherwise: number;
  /** The weight is brought to the target, or so much is added to it or taken from it; brought there, where nothing is said. */
  readonly does?: 'set' | 'add' | 'take';
  /** Joints that keep what they have. */
  readonly locked?: ReadonlySet<number>;
}

/** What a touch makes of a weight. */
function aimOf(was: number, share: number, { does = 'set', target }: BrushTouch): number {
  if (does === 'set') return was + (target - was) * share;
  return Math.min(1, Math.max(0, was + (does === 'add' ? share : -share) * target));
}

/** Weights below this are none. */
const DUST = 1e-5;

/** The row that is being made. */
let joints = new Uint32Array(64);
let weights = new Float64Array(64);
let length = 0;

function add(joint: number, weight: number): void {
  if (length === joints.length) {
    const [more, heavier] = [new Uint32Array(length * 2), new Float64Array(length * 2)];
    more.set(joints);
    heavier.set(weights);
    joints = more;
    weights = heavier;
  }
  joints[length] = joint;
  weights[length++] = weight;
}

/**
 * Brings the weight of a joint at a vertex nearer to a target by a share of the way.
 * @param share 0 … 1
 * @returns whether the row has changed
 */
export function touchRow(rows: InfluenceRows, vertex: number, share: number, touch: BrushTouch): boolean {
  const { joint, target, limit, otherwise, locked } = touch;
  if (locked?.has(joint)) return false;
  const count = rows.countOf(vertex);
  let sum = 0;
  let own = 0;
  let kept = 0;
  for (let k = 0; k < count; k++) {
    const weight = rows.weightAt(vertex, k);
    sum += weight;
    if (rows.jointAt(vertex, k) === joint) own += weight;
    else if (locked?.has(rows.jointAt(vertex, k))) kept += weight;
  }
  // A row that does not sum to one is brought to it along the way; an empty one becomes the bone's alone.
  if (!(sum > DUST)) {
    if (touch.does === 'take' || target * share <= DUST) return false;
    rows.set(vertex, { joint: [joint], weight: [1] }, 1);
    return true;
  }
  const was = own / sum;
  const held = kept / sum;
  const wanted = Math.min(aimOf(was, share, touch), 1 - held);
  const others = 1 - was - held;
  const isAlone = others <= DUST;
  const nobody = otherwise < 0 || otherwise === joint || locked?.has(otherwise) === true;
  if (isAlone && (nobody || wanted >= 1 - held)) return false;
  if (Math.abs(wanted - was) < DUST && Math.abs(sum - 1) < DUST) return false;
  length = 0;
  const next = wanted < DUST ? 0 : wanted;
  if (next > 0) add(joint, next);
  if (isAlone) add(otherwise, 1 - next - held);
  const scale = isAlone ? 0 : (1 - next - held) / (others * sum);
  for (let k = 0; k < count; k++) {
    const other = rows.jointAt(vertex, k);
    if (other === joint) continue;
    const weight = rows.weightAt(vertex, k) * (locked?.has(other) ? 1 / sum : scale);
    if (weight >= DUST) add(other, weight);
  }
  cutTo(limit, joint, locked);
  sumToOne(joint, locked);
  rows.put(vertex, joints, weights, length);
  return true;
}

/** Lets the lightest of the others go until the row is short enough; locked ones stay. */
function cutTo(limit: number, joint: number, locked: ReadonlySet<number> | undefined): void {
  while (length > Math.max(1, limit)) {
    let lightest = -1;
    for (let k = 0; k < length; k++)
      if (joints[k] !== joint && !locked?.has(joints[k]) && (lightest < 0 || weights[k] < weights[lightest]))
        lightest = k;
    if (lightest < 0) return;
    length--;
    for (let k = lightest; k < length; k++) {
      joints[k] = joints[k + 1];
      weights[k] = weights[k + 1];
    }
  }
}

/** What the brush has set and what is locked stays; the others share the rest. Where there are none, the brushed one takes it. */
function sumToOne(joint: number, locked: ReadonlySet<number> | undefined): void {
  const isFree = (k: number) => joints[k] !== joint && !locked?.has(joints[k]);
  let free = 0;
  let fixed = 0;
  for (let k = 0; k < length; k++)
    if (isFree(k)) free += weights[k];
    else fixed += weights[k];
  const rest = 1 - fixed;
  if (free > 0) {
    for (let k = 0; k < length; k++) if (isFree(k)) weights[k] *= rest / free;
    return;
  }
  let sum = 0;
  for (let k = 0; k < length; k++) sum += weights[k];
  if (sum > 0) for (let k = 0; k < length; k++) weights[k] /= sum;
}

/** How a brush falls off towards its edge. */
export const EDGES = { hard: 'hard', linear: 'linear', smooth: 'smooth' } as const;

export type BrushEdge = keyof typeof EDGES;

/** How much of a brush is felt at a share of its radius, 0 … 1, by its edge. */
export function felt(share: number, hardness: number, edge: BrushEdge): number {
  if (share >= 1) return 0;
  if (edge === 'hard') return 1;
  if (edge === 'linear') return share <= hardness ? 1 : (1 - share) / (1 - hardness);
  return falloff(share, hardness);
}

/** How much of a brush is felt at a share of its radius, 0 … 1: all within the hard part, then falling smoothly to nothing. */
export function falloff(share: number, hardness: number): number {
  if (share >= 1) return 0;
  if (share <= hardness) return 1;
  const t = (1 - share) / (1 - hardness);
  return t * t * (3 - 2 * t);
}
