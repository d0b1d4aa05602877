/**
 * Weights that are being edited: a row a vertex in one arena that grows, so that a row changes in place and a longer one
 * moves to the end. Reading and writing a row costs its own length, whatever the mesh; an untouched row stays as it came.
 */
import type { Influences } from './influences';

/** A row of weights: joints of the skin and their weights, of the same length. */
export interface WeightRow {
  readonly joint: ArrayLike<number>;
  readonly weight: ArrayLike<number>;
}

export class InfluenceRows {
  private joints: Uint32Array;
  private weights: Float32Array;
  /** Where every row begins in the arena, how long it is, and how long it may become there. */
  private readonly starts: Uint32Array;
  private readonly counts: Uint32Array;
  private readonly rooms: Uint32Array;
  private end: number;

  constructor({ offsets, joint, weight }: Influences) {
    const vertices = offsets.length - 1;
    this.end = weight.length;
    const size = weight.length + 1024;
    this.joints = new Uint32Array(size);
    this.joints.set(joint);
    this.weights = new Float32Array(size);
    this.weights.set(weight);
    this.starts = offsets.slice(0, vertices);
    this.counts = new Uint32Array(vertices);
    for (let v = 0; v < vertices; v++) this.counts[v] = offsets[v + 1] - offsets[v];
    this.rooms = this.counts.slice();
  }

  /** How many influences a vertex has. */
  countOf(vertex: number): number {
    return this.counts[vertex];
  }

  jointAt(vertex: number, k: number): number {
    return this.joints[this.starts[vertex] + k];
  }

  weightAt(vertex: number, k: number): number {
    return this.weights[this.starts[vertex] + k];
  }

  /** The weight of a joint at a vertex; 0 where it has none. */
  weightOf(vertex: number, joint: number): number {
    const from = this.starts[vertex];
    for (let k = from; k < from + this.counts[vertex]; k++)
      if (this.joints[k] === joint) return this.weights[k];
    return 0;
  }

  /** The row of a vertex, as copies. */
  rowOf(vertex: number): { joint: Uint32Array; weight: Float32Array } {
    const from = this.starts[vertex];
    const to = from + this.counts[vertex];
    return { joint: this.joints.slice(from, to), weight: this.weights.slice(from, to) };
  }

  /** Puts a row in the place of a vertex's own. */
  set(vertex: number, { joint, weight }: WeightRow, count = joint.length): void {
    this.put(vertex, joint, weight, count);
  }

  /** The same from the first entries of two lists. */
  put(vertex: number, joint: ArrayLike<number>, weight: ArrayLike<number>, count: number): void {
    if (count > this.rooms[vertex]) this.move(vertex, count);
    const from = this.starts[vertex];
    for (let k = 0; k < count; k++) {
      this.joints[from + k] = joint[k];
      this.weights[from + k] = weight[k];
    }
    this.counts[vertex] = count;
  }

  /** A longer place at the end, with room to grow on. */
  private move(vertex: number, count: number): void {
    const room = Math.max(count, 2 * this.rooms[vertex], 4);
    if (this.end + room > this.joints.length) this.grow(this.end + room);
    this.starts[vertex] = this.end;
    this.rooms[vertex] = room;
    this.end += room;
  }

  private grow(least: number): void {
    const size = Math.max(least, Math.ceil(this.joints.length * 1.5));
    const joints = new Uint32Array(size);
    joints.set(this.joints);
    this.joints = joints;
    const weights = new Float32Array(size);
    weights.set(this.weights);
    this.weights = weights;
  }

  /**
   * Where a vertex goes: the mean of where its joints carry it, by weight (linear blend skinning).
   * @param matrices 12 per joint, rows of four, as {@link skinMatrices} makes them
   */
  putSkinned(vertex: number, points: ArrayLike<number>, matrices: Float32Array, out: Float32Array): void {
    const i = vertex * 3;
    const x = points[i];
    const y = points[i + 1];
    const z = points[i + 2];
    const from = this.starts[vertex];
    const to = from + this.counts[vertex];
    let ox = from === to ? x : 0;
    let oy = from === to ? y : 0;
    let oz = from === to ? z : 0;
    for (let k = from; k < to; k++) {
      const w = this.weights[k];
      const m = this.joints[k] * 12;
      ox += w * (matrices[m] * x + matrices[m + 1] * y + matrices[m + 2] * z + matrices[m + 3]);
      oy += w * (matrices[m + 4] * x + matrices[m + 5] * y + matrices[m + 6] * z + matrices[m + 7]);
      oz += w * (matrices[m + 8] * x + matrices[m + 9] * y + matrices[m + 10] * z + matrices[m + 11]);
    }
    out[i] = ox;
    out[i + 1] = oy;
    out[i + 2] = oz;
  }

  /** All of it in compressed rows again. */
  toInfluences(): Influences {
    const offsets = new Uint32Array(this.starts.length + 1);
    for (let v = 0; v < this.starts.length; v++) offsets[v + 1] = offsets[v] + this.counts[v];
    const total = offsets[this.starts.length];
    const joint = new Uint32Array(total);
    const weight = new Float32Array(total);
    let most = 0;
    for (let v = 0; v < this.starts.length; v++)
      for (let k = 0; k < this.counts[v]; k++) {
        const j = this.joints[this.starts[v] + k];
        if (j > most) most = j;
        joint[offsets[v] + k] = j;
        weight[offsets[v] + k] = this.weights[this.starts[v] + k];
      }
    return { offsets, joint: most > 0xffff ? joint : Uint16Array.from(joint), weight };
  }
}
