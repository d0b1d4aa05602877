/** Polygons from triangle lists: the n-gon encoding (FB_ngon_encoding). */

/** Polygons over vertices: the corners of polygon p stand from `offsets[p]` to before `offsets[p + 1]`. */
export interface Polygons {
  readonly offsets: Uint32Array;
  readonly corners: Uint32Array;
}

/** Each triangle as it is. `triangles`: 3 vertex indices a triangle. */
export function trianglesAsPolygons(triangles: Uint32Array): Polygons {
  const count = triangles.length / 3;
  return {
    offsets: new Uint32Array(count + 1).map((_, i) => i * 3),
    corners: triangles.slice(0, count * 3),
  };
}

/** Runs of triangles that share their first vertex are one polygon; a new first vertex starts the next. */
export function decodeNgons(triangles: Uint32Array): Polygons {
  const offsets = [0];
  const corners: number[] = [];
  for (let triangle = 0; triangle < triangles.length; triangle += 3) {
    const follows =
      triangle > 0 &&
      triangles[triangle] === triangles[triangle - 3] &&
      triangles[triangle + 1] === corners[corners.length - 1];
    if (follows) {
      corners.push(triangles[triangle + 2]);
      offsets[offsets.length - 1] = corners.length;
    } else {
      corners.push(triangles[triangle], triangles[triangle + 1], triangles[triangle + 2]);
      offsets.push(corners.length);
    }
  }
  return { offsets: Uint32Array.from(offsets), corners: Uint32Array.from(corners) };
}

/**
 * Fans out polygons so that {@link decodeNgons} finds them again: a polygon that would start at the first
 * vertex of its predecessor is turned. A quad turns by two corners, which keeps its diagonal.
 */
export function encodeNgons(
  offsets: Uint32Array,
  corners: Uint32Array,
  from: number,
  count: number,
): Uint32Array {
  let size = 0;
  for (let point = from; point < from + count; point++) size += offsets[point + 1] - offsets[point] - 2;
  const out = new Uint32Array(size * 3);
  let o = 0;
  let last = -1;
  for (let point = from; point < from + count; point++) {
    const start = offsets[point];
    const n = offsets[point + 1] - start;
    let turn = 0;
    if (corners[start] === last) turn = n === 4 ? 2 : 1;
    const corner = (k: number) => corners[start + ((k + turn) % n)];
    last = corner(0);
    for (let k = 1; k < n - 1; k++) {
      out[o++] = last;
      out[o++] = corner(k);
      out[o++] = corner(k + 1);
    }
  }
  return out;
}
