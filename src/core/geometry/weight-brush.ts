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
  const { joint, target, limit, otherwise } = touch;
  const count = rows.countOf(vertex);
  let sum = 0;
  let own = 0;
  for (let k = 0; k < count; k++) {
    sum += rows.weightAt(vertex, k);
    if (rows.jointAt(vertex, k) === joint) own += rows.weightAt(vertex, k);
  }
  // A row that does not sum to one is brought to it along the way; an empty one becomes the bone's alone.
  if (!(sum > DUST)) {
    if (target * share <= DUST) return false;
    rows.set(vertex, { joint: [joint], weight: [1] }, 1);
    return true;
  }
  const was = own / sum;
  const wanted = was + (target - was) * share;
  const others = 1 - was;
  const isAlone = others <= DUST;
  if (isAlone && (otherwise < 0 || otherwise === joint || wanted >= 1)) return false;
  if (Math.abs(wanted - was) < DUST && Math.abs(sum - 1) < DUST) return false;
  length = 0;
  const next = wanted < DUST ? 0 : wanted;
  if (next > 0) add(joint, next);
  if (isAlone) add(otherwise, 1 - next);
  else {
    const scale = (1 - next) / (others * sum);
    for (let k = 0; k < count; k++) {
      const weight = rows.weightAt(vertex, k) * scale;
      if (rows.jointAt(vertex, k) === joint || weight < DUST) continue;
      add(rows.jointAt(vertex, k), weight);
    }
  }
  cutTo(limit, joint);
  sumToOne();
  rows.put(vertex, joints, weights, length);
  return true;
}

/** Lets the lightest of the others go until the row is short enough. */
function cutTo(limit: number, joint: number): void {
  while (length > Math.max(1, limit)) {
    let lightest = -1;
    for (let k = 0; k < length; k++)
      if (joints[k] !== joint && (lightest < 0 || weights[k] < weights[lightest])) lightest = k;
    if (lightest < 0) return;
    length--;
    for (let k = lightest; k < length; k++) {
      joints[k] = joints[k + 1];
      weights[k] = weights[k + 1];
    }
  }
}

/** The first, which the brush has set, stays; the others share the rest. */
function sumToOne(): void {
  let others = 0;
  for (let k = 1; k < length; k++) others += weights[k];
  const rest = 1 - weights[0];
  if (length === 1) weights[0] = 1;
  else if (others > 0) for (let k = 1; k < length; k++) weights[k] *= rest / others;
}

/** How much of a brush is felt at a share of its radius, 0 … 1: all within the hard part, then falling smoothly to nothing. */
export function falloff(share: number, hardness: number): number {
  if (share >= 1) return 0;
  if (share <= hardness) return 1;
  const t = (1 - share) / (1 - hardness);
  return t * t * (3 - 2 * t);
}
