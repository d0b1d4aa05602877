/** Rows of weights at any place of a surface: those of the corners of the closest triangle, by how near each is. */
import { type WeightShares, normalisedShares } from './row-edits';
import { type SurfacePlace, TriangleTree } from './triangle-tree';

/** Polygons over vertices. */
interface Polygons {
  readonly polygonOffsets: Uint32Array;
  readonly corners: Uint32Array;
}

/** Rows of points in flat arrays: point p has the entries offsets[p] … offsets[p + 1]. */
export interface FlatRows {
  readonly offsets: Uint32Array;
  readonly joint: Uint32Array;
  readonly share: Float32Array;
}

export interface RowAtPlace {
  readonly row: WeightShares;
  readonly distance: number;
  readonly place: SurfacePlace;
}

export class SurfaceRows {
  readonly tree: TriangleTree;
  /** Three points a triangle. */
  readonly triangles: Uint32Array;

  /**
   * @param places 3 per point
   * @param rows 1 per point
   * @param only polygons that are looked at; all, where nothing is said
   */
  constructor(
    { polygonOffsets, corners }: Polygons,
    pointOfVertex: Uint32Array,
    readonly places: ArrayLike<number>,
    private readonly rows: readonly WeightShares[] | FlatRows,
    only?: readonly number[],
  ) {
    const count = only?.length ?? polygonOffsets.length - 1;
    let total = 0;
    for (let i = 0; i < count; i++) {
      const polygon = only ? only[i] : i;
      total += Math.max(0, polygonOffsets[polygon + 1] - polygonOffsets[polygon] - 2);
    }
    this.triangles = new Uint32Array(total * 3);
    let end = 0;
    for (let i = 0; i < count; i++) {
      const polygon = only ? only[i] : i;
      const [from, to] = [polygonOffsets[polygon], polygonOffsets[polygon + 1]];
      for (let k = from + 1; k + 1 < to; k++) {
        this.triangles[end++] = pointOfVertex[corners[from]];
        this.triangles[end++] = pointOfVertex[corners[k]];
        this.triangles[end++] = pointOfVertex[corners[k + 1]];
      }
    }
    this.tree = new TriangleTree(places, this.triangles);
  }

  /** The row at the place of the surface that is closest; null where none is within. */
  at(x: number, y: number, z: number, within = Infinity): RowAtPlace | null {
    const place = this.tree.closestPoint(x, y, z, within);
    return place ? { row: this.rowAt(place.triangle, place.corners), distance: place.distance, place } : null;
  }

  /** The row at a place of a triangle, by the weights of its corners there. */
  rowAt(triangle: number, corners: ArrayLike<number>): WeightShares {
    const out: WeightShares = new Map();
    const { rows } = this;
    for (let k = 0; k < 3; k++) {
      if (!(corners[k] > 0)) continue;
      const point = this.triangles[triangle * 3 + k];
      if ('offsets' in rows)
        for (let i = rows.offsets[point]; i < rows.offsets[point + 1]; i++)
          out.set(rows.joint[i], (out.get(rows.joint[i]) ?? 0) + rows.share[i] * corners[k]);
      else
        for (const [joint, share] of rows[point]) out.set(joint, (out.get(joint) ?? 0) + share * corners[k]);
    }
    return normalisedShares(out);
  }
}
