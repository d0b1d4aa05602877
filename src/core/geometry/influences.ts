import type { Influences } from './influence-data';
import { limitFast } from './wasm';

export type { Influences };

/**
 * Builds compressed rows from a list of [joint, weight] entries a vertex; entries of weight 0 are left out.
 */
export function influencesFrom(rows: readonly (readonly (readonly [number, number])[])[]): Influences {
  const offsets = new Uint32Array(rows.length + 1);
  const joint: number[] = [];
  const weight: number[] = [];
  rows.forEach((row, v) => {
    for (const [j, w] of row)
      if (w !== 0) {
        joint.push(j);
        weight.push(w);
      }
    offsets[v + 1] = joint.length;
  });
  return { offsets, joint: Uint16Array.from(joint), weight: Float32Array.from(weight) };
}

/** The entries of one vertex, heaviest first. */
export function entriesOf(influences: Influences, v: number): { joint: number; weight: number }[] {
  const out = [];
  for (let k = influences.offsets[v]; k < influences.offsets[v + 1]; k++)
    out.push({ joint: influences.joint[k], weight: influences.weight[k] });
  return out.sort((a, b) => b.weight - a.weight);
}

/** The vertices that every joint weighs most at, so many of each, however few of a mesh it moves. */
export function heaviestVertices({ offsets, joint, weight }: Influences, most: number): Set<number> {
  const heaviest = new Map<number, { vertex: number; weight: number }[]>();
  for (let v = 0; v + 1 < offsets.length; v++)
    for (let k = offsets[v]; k < offsets[v + 1]; k++) {
      let list = heaviest.get(joint[k]);
      if (!list) heaviest.set(joint[k], (list = []));
      if (list.length === most && weight[k] <= list[most - 1].weight) continue;
      list.push({ vertex: v, weight: weight[k] });
      list.sort((a, b) => b.weight - a.weight);
      if (list.length > most) list.pop();
    }
  return new Set([...heaviest.values()].flatMap((list) => list.map(({ vertex }) => vertex)));
}

/** Influences within a limit, and what it took. */
export interface LimitedInfluences {
  readonly influences: Influences;
  /** Vertices that lost an entry. */ readonly trimmed: Uint32Array;
  /** Vertices whose weights changed at all. */ readonly changed: number;
}

/**
 * Keeps the `limit` heaviest entries of every vertex, drops those of weight ≤ `dust`, and scales the rest so
 * that they sum to 1; they stay in their order. Of equal weights the one that comes first stays. A vertex
 * with nothing above the dust keeps its heaviest entry; a vertex without weight stays without. Large meshes
 * go through a WebAssembly kernel.
 */
export function limitInfluences(source: Influences, limit: number, dust = 0): LimitedInfluences {
  return (
    (source.weight.length > 4000 ? limitFast(source, limit, Math.fround(dust)) : null) ??
    limitPlain(source, limit, Math.fround(dust))
  );
}

/** Rows in which joint j has become to[j]; entries that meet are added up. */
export function remapInfluences(f: Influences, to: readonly number[], jointCount: number): Influences {
  const { offsets: from, joint: source, weight: given } = f;
  const n = from.length - 1;
  const offsets = new Uint32Array(n + 1);
  const joint = jointCount > 65535 ? new Uint32Array(source.length) : new Uint16Array(source.length);
  const weight = new Float32Array(source.length);
  // Where a joint was put last; in this row, if it was put at or after the row's start.
  const put = new Int32Array(jointCount).fill(-1);
  const table = Uint32Array.from(to);
  let o = 0;
  let k = 0;
  for (let v = 0; v < n; v++) {
    const start = o;
    const end = from[v + 1];
    for (; k < end; k++) {
      const j = table[source[k]];
      const at = put[j];
      if (at >= start) {
        weight[at] += given[k];
      } else {
        put[j] = o;
        joint[o] = j;
        weight[o++] = given[k];
      }
    }
    offsets[v + 1] = o;
  }
  return { offsets, joint: joint.subarray(0, o) as Uint16Array, weight: weight.subarray(0, o) };
}

/**
 * {@link remapInfluences}, then {@link limitInfluences} without dust: large meshes in one go through
 * WebAssembly kernels.
 */
export function limitRemapped(
  source: Influences,
  to: readonly number[],
  jointCount: number,
  limit: number,
): LimitedInfluences {
  return (
    (source.weight.length > 4000 ? limitFast(source, limit, 0, { to, jointCount }) : null) ??
    limitPlain(remapInfluences(source, to, jointCount), limit, 0)
  );
}

/** The plain loop behind {@link limitInfluences}, and the reference for its kernel. */
export function limitPlain(source: Influences, limit: number, dust: number): LimitedInfluences {
  const { offsets, joint, weight } = source;
  const n = offsets.length - 1;
  const outOffsets = new Uint32Array(n + 1);
  const outJoint =
    joint instanceof Uint32Array ? new Uint32Array(joint.length) : new Uint16Array(joint.length);
  const outWeight = new Float32Array(weight.length);
  const trimmed: number[] = [];
  let changed = 0;
  let o = 0;
  const row: number[] = [];
  for (let v = 0; v < n; v++) {
    const start = offsets[v];
    const end = offsets[v + 1];
    row.length = 0;
    let live = 0;
    let heaviest = start;
    let sum = 0;
    for (let k = start; k < end; k++) {
      if (weight[k] > 0) live++;
      if (weight[k] > weight[heaviest]) heaviest = k;
      if (weight[k] > 0 && weight[k] > dust) row.push(k);
    }
    if (row.length === 0 && live > 0) row.push(heaviest);
    while (row.length > limit) {
      let least = 0;
      for (let i = 1; i < row.length; i++) if (weight[row[i]] <= weight[row[least]]) least = i;
      row.splice(least, 1);
    }
    for (const k of row) sum += weight[k];
    if (row.length < live) trimmed.push(v);
    const exact = row.length === end - start && Math.abs(sum - 1) <= 2e-7 * row.length;
    if (!exact && end > start) changed++;
    const toOne = sum > 0 ? 1 / sum : 0;
    const scale = exact ? 1 : toOne;
    for (const k of row) {
      outJoint[o] = joint[k];
      outWeight[o++] = weight[k] * scale;
    }
    outOffsets[v + 1] = o;
  }
  return {
    influences: { offsets: outOffsets, joint: outJoint.slice(0, o), weight: outWeight.slice(0, o) },
    trimmed: Uint32Array.from(trimmed),
    changed,
  };
}

/** What is left of every share of the row at hand. */
let fractions = new Float64Array(64);

/**
 * Rounds a run of weights to whole numbers that sum to `whole` exactly, by largest remainder: everybody gets the
 * floor, and the units that are left go to the largest fractions, the earlier first. All zero where they sum to none.
 * @param out whole numbers, at the same places as the weights
 */
export function roundRowExactly(
  weights: ArrayLike<number>,
  from: number,
  to: number,
  whole: number,
  out: { [place: number]: number },
): void {
  const count = to - from;
  if (fractions.length < count) fractions = new Float64Array(count * 2);
  let sum = 0;
  for (let k = from; k < to; k++) sum += weights[k];
  const isSome = sum > 0;
  let left = isSome ? whole : 0;
  for (let k = from; k < to; k++) {
    const share = isSome ? (weights[k] * whole) / sum : 0;
    const floor = Math.floor(share);
    out[k] = floor;
    left -= floor;
    fractions[k - from] = share - floor;
  }
  for (; left > 0; left--) {
    let most = 0;
    for (let k = 1; k < count; k++) if (fractions[k] > fractions[most]) most = k;
    out[from + most]++;
    fractions[most] -= 1;
  }
}

/** The same for the weights of one vertex. */
export function roundExactly(weights: readonly number[], whole: number): number[] {
  const out = new Array<number>(weights.length);
  roundRowExactly(weights, 0, weights.length, whole, out);
  return out;
}

/** Sum of all weights, in double precision. */
export function totalWeight(influences: Influences): number {
  const { weight } = influences;
  let sum = 0;
  for (let k = 0; k < weight.length; k++) sum += weight[k];
  return sum;
}

/** Weight of one joint at every vertex. Float32Array, 1 per vertex. */
export function weightsOfJoint(influences: Influences, joint: number): Float32Array {
  const n = influences.offsets.length - 1;
  const out = new Float32Array(n);
  for (let v = 0; v < n; v++) {
    for (let k = influences.offsets[v]; k < influences.offsets[v + 1]; k++)
      if (influences.joint[k] === joint) out[v] += influences.weight[k];
  }
  return out;
}
