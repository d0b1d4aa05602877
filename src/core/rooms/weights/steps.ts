/** Steps between neighbours: how much of its weights a point has that its neighbour has not. */
import type { Character, Influences, Mesh } from '../../character/model';
import { PointWeights, pointsOfVertices } from '../../character/point-weights';
import { pointsOf } from '../../character/points';
import { topologyOf } from '../../character/topology';
import { type WeightShares, normalisedShares } from '../../geometry/row-edits';
import { type PointChoice, boundMesh } from './edits';

/** Half of the sum of the differences of two rows that sum to one: 0 where they are the same, 1 where they have no bone in common. */
export function stepBetween(one: WeightShares, other: WeightShares): number {
  let sum = 0;
  for (const [joint, share] of one) sum += Math.abs(share - (other.get(joint) ?? 0));
  for (const [joint, share] of other) if (!one.has(joint)) sum += share;
  return sum / 2;
}

/** The rows of all points of a mesh, each brought to a sum of one. */
export function rowsOfMesh(mesh: Mesh): WeightShares[] {
  const weights = new PointWeights(mesh);
  return Array.from({ length: weights.pointCount }, (_, point) => normalisedShares(weights.rowOf(point)));
}

/** Rows of all points in flat arrays, to be read: point p has the entries offsets[p] … offsets[p + 1], which sum to one. */
export class PointShares {
  readonly offsets: Uint32Array;
  readonly joint: Uint32Array;
  readonly share: Float32Array;

  constructor(mesh: Mesh, { offsets, joint, weight }: Influences) {
    const { pointCount, vertexOfPoint } = pointsOf(mesh);
    this.offsets = new Uint32Array(pointCount + 1);
    this.joint = new Uint32Array(weight.length);
    this.share = new Float32Array(weight.length);
    let end = 0;
    for (let point = 0; point < pointCount; point++) {
      const vertex = vertexOfPoint[point];
      const begin = end;
      let sum = 0;
      for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
        if (!(weight[k] > 0)) continue;
        sum += weight[k];
        let at = begin;
        while (at < end && this.joint[at] !== joint[k]) at++;
        if (at === end) {
          this.joint[end] = joint[k];
          this.share[end++] = 0;
        }
        this.share[at] += weight[k];
      }
      for (let k = begin; k < end; k++) this.share[k] /= sum;
      this.offsets[point + 1] = end;
    }
  }

  /** How many bones pull a point. */
  countAt(point: number): number {
    return this.offsets[point + 1] - this.offsets[point];
  }

  /** The share of a joint at a point. */
  shareOf(point: number, joint: number): number {
    for (let k = this.offsets[point]; k < this.offsets[point + 1]; k++)
      if (this.joint[k] === joint) return this.share[k];
    return 0;
  }

  /** {@link stepBetween} for two points; `as` tells which joint one of the other's stands for. */
  step(one: number, other: number, as?: ArrayLike<number>): number {
    const { offsets, joint, share } = this;
    let sum = 0;
    let met = 0;
    for (let k = offsets[other]; k < offsets[other + 1]; k++) {
      const own = this.shareOf(one, as ? as[joint[k]] : joint[k]);
      sum += Math.abs(own - share[k]);
      met += own;
    }
    // What the one has of bones that the other has none of.
    return (sum + Math.max(0, 1 - met)) / 2;
  }
}

const known = new WeakMap<Influences, { readonly points: object; readonly shares: PointShares }>();

/** Made once for the influences and the points of a mesh; null where it has none. */
export function sharesOfMesh(mesh: Mesh): PointShares | null {
  const { influences } = mesh;
  if (!influences) return null;
  const points = pointsOf(mesh);
  const before = known.get(influences);
  if (before?.points === points) return before.shares;
  const shares = new PointShares(mesh, influences);
  known.set(influences, { points, shares });
  return shares;
}

/** The largest step from one of some points to a neighbour, 0 … 1. */
export function steepestStep(character: Character, chosen: PointChoice): number {
  let most = 0;
  for (const { node, ids } of chosen) {
    const { mesh } = boundMesh(character, node);
    const { offsets, neighbours } = topologyOf(mesh).neighbours;
    const shares = sharesOfMesh(mesh)!;
    for (const point of pointsOfVertices(mesh, Array.from(ids)))
      for (let k = offsets[point]; k < offsets[point + 1]; k++)
        if (shares.countAt(point) > 0 && shares.countAt(neighbours[k]) > 0)
          most = Math.max(most, shares.step(point, neighbours[k]));
  }
  return Number(most.toFixed(4));
}
