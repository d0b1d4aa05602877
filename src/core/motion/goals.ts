/** Where the points of a mesh stand in given poses, worked out point by point: nothing is kept of all of them. */
import type { Shown } from '../character/measure';
import { type Influences, type Skin, positionsOf } from '../character/model';
import { skinMatrices } from '../geometry/skinning';

/** The places of one mesh over poses. */
export class Goals {
  readonly count: number;
  readonly points: Float32Array;
  /**
   * What carries points, 12 a pose (three rows of four): joint after joint of a skin, or the node alone, and
   * last what leaves them where they are.
   */
  readonly matrices: Float64Array;
  /** Which carrier leaves points where they are. */
  private readonly still: number;
  private readonly carriers: number[] = [];
  private readonly shares: number[] = [];

  constructor(
    readonly shown: Shown,
    worlds: readonly Float64Array[],
  ) {
    const { mesh, skin, node } = shown;
    this.count = worlds.length;
    this.points = positionsOf(mesh);
    const bones = skin ?? { joints: [node], inverseBinds: IDENTITY };
    this.still = bones.joints.length;
    this.matrices = withStill(skinMatricesByJoint(bones, worlds), worlds.length);
  }

  /** What carries a vertex: carriers and how much of it each has, into `carriers` and `shares`. Gives how many. */
  carriersOf(vertex: number, carriers: number[], shares: number[]): number {
    const influences = this.shown.skin ? this.shown.mesh.influences : null;
    const from = influences ? influences.offsets[vertex] : 0;
    const count = influences ? influences.offsets[vertex + 1] - from : 0;
    for (let k = 0; k < count; k++) {
      carriers[k] = (influences as Influences).joint[from + k];
      shares[k] = (influences as Influences).weight[from + k];
    }
    if (count > 0) return count;
    // A vertex without weight stays where it is.
    carriers[0] = influences ? this.still : 0;
    shares[0] = 1;
    return 1;
  }

  /** The places of a vertex, 3 a pose, world space, metres. A vertex without weight stays where it is. */
  at(vertex: number, out: Float64Array): void {
    const { matrices, count, points, carriers, shares } = this;
    const x = points[vertex * 3];
    const y = points[vertex * 3 + 1];
    const z = points[vertex * 3 + 2];
    const rows = count * 3;
    out.fill(0, 0, rows);
    const many = this.carriersOf(vertex, carriers, shares);
    for (let entry = 0; entry < many; entry++) {
      const share = shares[entry];
      let r = carriers[entry] * count * 12;
      for (let k = 0; k < rows; k++) {
        out[k] += share * (matrices[r] * x + matrices[r + 1] * y + matrices[r + 2] * z + matrices[r + 3]);
        r += 4;
      }
    }
  }
}

/**
 * Skin matrices of every joint in poses, given as world matrices, 16 per node: 12 a pose (three rows of
 * four), joint after joint.
 */
export function skinMatricesByJoint(
  skin: Pick<Skin, 'joints' | 'inverseBinds'>,
  worlds: readonly Float64Array[],
): Float64Array {
  const { length } = skin.joints;
  const out = new Float64Array(length * 12 * worlds.length);
  worlds.forEach((world, index) => {
    const all = skinMatrices(skin, world);
    for (let j = 0; j < length; j++)
      out.set(all.subarray(j * 12, j * 12 + 12), (j * worlds.length + index) * 12);
  });
  return out;
}

/** The same with one carrier more, which leaves points where they are. */
function withStill(matrices: Float64Array, poses: number): Float64Array {
  const out = new Float64Array(matrices.length + poses * 12);
  out.set(matrices);
  for (let k = matrices.length; k < out.length; k += 12) {
    out[k] = 1;
    out[k + 5] = 1;
    out[k + 10] = 1;
  }
  return out;
}

const IDENTITY = Float64Array.from({ length: 16 }, (_, i) => (i % 5 === 0 ? 1 : 0));
