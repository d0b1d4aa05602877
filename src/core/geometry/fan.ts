/** Polygons fanned out into triangles from their first corners: 3 vertices a triangle, in the order of the polygons. */
export function fanned(offsets: Uint32Array, corners: Uint32Array): Uint32Array {
  const out = new Uint32Array((corners.length - 2 * (offsets.length - 1)) * 3);
  let o = 0;
  for (let polygon = 0; polygon + 1 < offsets.length; polygon++)
    for (let k = offsets[polygon] + 1; k < offsets[polygon + 1] - 1; k++) {
      out[o++] = corners[offsets[polygon]];
      out[o++] = corners[k];
      out[o++] = corners[k + 1];
    }
  return out;
}
