/** Where the points of a mesh stand in given poses, worked out point by point: nothing is kept of all of them. */
import type { Shown } from '../character/measure';
import { positionsOf } from '../character/model';
import { skinMatrices } from '../geometry/skinning';

/** The places of one mesh over poses. */
export class Goals {
  readonly count: number;
  private readonly points: Float32Array;
  /** What carries points, 12 each (three rows of four), pose after pose: the joints of a skin, or the node alone. */
  private readonly matrices: Float32Array;
  private readonly stride: number;

  constructor(
    readonly shown: Shown,
    worlds: readonly Float64Array[],
  ) {
    const { mesh, skin, node } = shown;
    this.count = worlds.length;
    this.points = positionsOf(mesh);
    this.stride = 12 * (skin ? skin.joints.length : 1);
    this.matrices = new Float32Array(this.stride * worlds.length);
    const alone = { joints: [node], inverseBinds: IDENTITY };
    worlds.forEach((w, p) => this.matrices.set(skinMatrices(skin ?? alone, w), p * this.stride));
  }

  /** The places of a vertex, 3 a pose, world space, metres. A vertex without weight stays where it is. */
  at(v: number, out: Float64Array): void {
    const { matrices, stride, count, points } = this;
    const x = points[v * 3];
    const y = points[v * 3 + 1];
    const z = points[v * 3 + 2];
    const f = this.shown.skin ? this.shown.mesh.influences : null;
    const from = f ? f.offsets[v] : 0;
    const to = f ? f.offsets[v + 1] : 1;
    for (let p = 0; p < count; p++)
      for (let a = 0; a < 3; a++) {
        let sum = from === to ? points[v * 3 + a] : 0;
        for (let k = from; k < to; k++) {
          const r = p * stride + (f ? f.joint[k] * 12 : 0) + a * 4;
          const w = f ? f.weight[k] : 1;
          sum += w * (matrices[r] * x + matrices[r + 1] * y + matrices[r + 2] * z + matrices[r + 3]);
        }
        out[p * 3 + a] = sum;
      }
  }
}

const IDENTITY = Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? 1 : 0));
