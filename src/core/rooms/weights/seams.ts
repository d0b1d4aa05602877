/** Seams that would tear: vertices at one place that do not go with the same bones by the same shares. */
import type { Influences, Mesh } from '../../character/model';
import { pointsOf } from '../../character/points';

/** Weights of twins that differ by less open no gap that anybody sees. */
const FELT = 0.005;

/** The vertices of points whose vertices carry different weights, and the largest difference of one weight. */
export interface TornSeams {
  readonly vertices: Uint32Array;
  readonly points: number;
  readonly most: number;
}

const known = new WeakMap<Influences, { readonly points: object; readonly torn: TornSeams }>();

/** Computed once for the influences and the points of a mesh. */
export function tornSeams(mesh: Mesh): TornSeams {
  const { influences } = mesh;
  if (!influences) return { vertices: new Uint32Array(0), points: 0, most: 0 };
  const points = pointsOf(mesh);
  const before = known.get(influences);
  if (before?.points === points) return before.torn;
  const { pointOfVertex, pointCount, vertexOfPoint } = points;
  const isTorn = new Uint8Array(pointCount);
  let most = 0;
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
    const first = vertexOfPoint[pointOfVertex[vertex]];
    if (first === vertex) continue;
    const apart = farthestApart(influences, first, vertex);
    if (apart > FELT) isTorn[pointOfVertex[vertex]] = 1;
    most = Math.max(most, apart);
  }
  const vertices: number[] = [];
  let torn = 0;
  for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
    if (isTorn[pointOfVertex[vertex]]) vertices.push(vertex);
  for (const flag of isTorn) torn += flag;
  const found = { vertices: Uint32Array.from(vertices), points: torn, most };
  known.set(influences, { points, torn: found });
  return found;
}

/** The largest difference between the shares that two vertices give one joint; 0 where one of them has none at all. */
function farthestApart(influences: Influences, a: number, b: number): number {
  const one = sharesOf(influences, a);
  const two = sharesOf(influences, b);
  if (one.size === 0 || two.size === 0) return 0;
  let most = 0;
  for (const [joint, share] of one) most = Math.max(most, Math.abs(share - (two.get(joint) ?? 0)));
  for (const [joint, share] of two) if (!one.has(joint)) most = Math.max(most, share);
  return most;
}

/** Every joint's share of what a vertex carries: sums that are off are told by themselves. */
export function sharesOf({ offsets, joint, weight }: Influences, vertex: number): Map<number, number> {
  const out = new Map<number, number>();
  let sum = 0;
  for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
    if (weight[k] <= 0) continue;
    out.set(joint[k], (out.get(joint[k]) ?? 0) + weight[k]);
    sum += weight[k];
  }
  for (const [slot, value] of out) out.set(slot, value / sum);
  return out;
}
