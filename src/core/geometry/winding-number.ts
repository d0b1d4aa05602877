/**
 * How often a surface goes round a place: 1 inside a closed surface whose faces look outward, 0 outside, something between where
 * it has gaps (Jacobson et al. 2013). Solid angles of triangles (Van Oosterom & Strackee 1983) near the place; whole nodes
 * of the tree by their area and middle where it is far from them (Barill et al. 2018, first order).
 */
import { putAreaNormal } from './normals';
import type { TriangleBoxes } from './triangle-tree';

/** A node is taken as one where a place is so many times its radius away from its middle. */
const FAR = 3.5;

/** Answers how often a surface goes round places. */
export class WindingField {
  /** 3 per node: the sum of its triangles' normals, each as long as twice its area. */
  private readonly area: Float64Array;
  /** 4 per node: its middle by area, and how far its box reaches from there. */
  private readonly middle: Float64Array;

  /**
   * @param points 3 per vertex
   * @param triangles 3 vertices per triangle
   * @param boxes the tree over them
   */
  constructor(
    private readonly points: ArrayLike<number>,
    private readonly triangles: Uint32Array,
    private readonly boxes: TriangleBoxes,
  ) {
    const nodes = boxes.right.length;
    this.area = new Float64Array(nodes * 3);
    this.middle = new Float64Array(nodes * 4);
    const weight = new Float64Array(nodes);
    // Children come after their parent.
    for (let node = nodes - 1; node >= 0; node--) {
      if (this.isLeaf(node)) {
        for (let i = boxes.start[node]; i < boxes.start[node] + boxes.count[node]; i++)
          weight[node] += this.addTriangle(node, boxes.order[i]);
      } else
        for (let side = 0; side < 2; side++) {
          const child = side === 0 ? node + 1 : boxes.right[node];
          weight[node] += weight[child];
          for (let k = 0; k < 3; k++) {
            this.area[node * 3 + k] += this.area[child * 3 + k];
            this.middle[node * 4 + k] += this.middle[child * 4 + k] * weight[child];
          }
        }
      this.settle(node, weight[node]);
    }
  }

  private isLeaf(node: number): boolean {
    return this.boxes.right[node] < 0;
  }

  /** Adds a triangle to a leaf and gives twice its area. */
  private addTriangle(node: number, triangle: number): number {
    const { points, triangles } = this;
    const normal = [0, 0, 0];
    putAreaNormal(points, triangles, triangle * 3, triangle * 3 + 3, normal);
    const size = Math.hypot(normal[0], normal[1], normal[2]);
    for (let k = 0; k < 3; k++) {
      this.area[node * 3 + k] += normal[k];
      for (let corner = 0; corner < 3; corner++)
        this.middle[node * 4 + k] += (size * points[triangles[triangle * 3 + corner] * 3 + k]) / 3;
    }
    return size;
  }

  private settle(node: number, weight: number): void {
    const { bounds } = this.boxes;
    let reach = 0;
    for (let k = 0; k < 3; k++) {
      const [low, high] = [bounds[node * 6 + k], bounds[node * 6 + 3 + k]];
      this.middle[node * 4 + k] = weight > 0 ? this.middle[node * 4 + k] / weight : (low + high) / 2;
      const off = Math.max(high - this.middle[node * 4 + k], this.middle[node * 4 + k] - low);
      reach += off * off;
    }
    this.middle[node * 4 + 3] = Math.sqrt(reach);
  }

  /** How often the surface goes round a place. */
  at(x: number, y: number, z: number): number {
    if (this.triangles.length === 0) return 0;
    const { points, triangles } = this;
    const { right, start, count, order } = this.boxes;
    let sum = 0;
    const waiting = [0];
    while (waiting.length > 0) {
      const node = waiting.pop() as number;
      const dx = this.middle[node * 4] - x;
      const dy = this.middle[node * 4 + 1] - y;
      const dz = this.middle[node * 4 + 2] - z;
      const apart = Math.sqrt(dx * dx + dy * dy + dz * dz);
      if (apart > FAR * this.middle[node * 4 + 3]) {
        const along = this.area[node * 3] * dx + this.area[node * 3 + 1] * dy + this.area[node * 3 + 2] * dz;
        sum += along / (2 * apart * apart * apart);
      } else if (this.isLeaf(node))
        for (let i = start[node]; i < start[node] + count[node]; i++)
          sum += solidAngle(points, triangles, order[i], x, y, z);
      else waiting.push(right[node], node + 1);
    }
    return sum / (4 * Math.PI);
  }
}

/**
 * The same for one place by all triangles in turn: for a few places that is quicker than a tree.
 * @param points 3 per vertex
 * @param triangles 3 vertices per triangle
 */
export function windingNumber(
  points: ArrayLike<number>,
  triangles: Uint32Array,
  x: number,
  y: number,
  z: number,
): number {
  let sum = 0;
  for (let triangle = 0; triangle * 3 < triangles.length; triangle++)
    sum += solidAngle(points, triangles, triangle, x, y, z);
  return sum / (4 * Math.PI);
}

/** The solid angle of a triangle from a place, with the sign of the side that it shows. */
function solidAngle(
  points: ArrayLike<number>,
  triangles: Uint32Array,
  triangle: number,
  x: number,
  y: number,
  z: number,
): number {
  const at = (k: number) => triangles[triangle * 3 + k] * 3;
  const [i, j, k] = [at(0), at(1), at(2)];
  const [ax, ay, az] = [points[i] - x, points[i + 1] - y, points[i + 2] - z];
  const [bx, by, bz] = [points[j] - x, points[j + 1] - y, points[j + 2] - z];
  const [cx, cy, cz] = [points[k] - x, points[k + 1] - y, points[k + 2] - z];
  const a = Math.sqrt(ax * ax + ay * ay + az * az);
  const b = Math.sqrt(bx * bx + by * by + bz * bz);
  const c = Math.sqrt(cx * cx + cy * cy + cz * cz);
  const triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
  const below =
    a * b * c +
    (ax * bx + ay * by + az * bz) * c +
    (bx * cx + by * cy + bz * cz) * a +
    (cx * ax + cy * ay + cz * az) * b;
  return 2 * Math.atan2(triple, below);
}
