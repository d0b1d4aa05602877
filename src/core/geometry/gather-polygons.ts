/** Polygons by themselves. */
export interface GatheredPolygons {
  /** Polygon p has the corners offsets[p] … offsets[p + 1]. */
  readonly offsets: Uint32Array;
  readonly corners: Uint32Array;
}

/** Some polygons of a mesh by themselves, in the order asked for; the corners are vertices of the mesh as before. */
export function gatherPolygons(
  offsets: Uint32Array,
  corners: Uint32Array,
  chosen: Uint32Array,
): GatheredPolygons {
  const own = new Uint32Array(chosen.length + 1);
  chosen.forEach((polygon, i) => {
    own[i + 1] = own[i] + offsets[polygon + 1] - offsets[polygon];
  });
  const out = new Uint32Array(own[chosen.length]);
  chosen.forEach((polygon, i) => {
    for (let k = 0; k < own[i + 1] - own[i]; k++) out[own[i] + k] = corners[offsets[polygon] + k];
  });
  return { offsets: own, corners: out };
}
