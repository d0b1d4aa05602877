/**
 * The run of triangles that a polygon is drawn as, from the first up to but without the last: triangles stand in the order of their
 * polygons, so that it is found by halving.
 * @param polygonOf the polygon of every triangle, ascending
 */
export function trianglesOfPolygon(
  polygonOf: ArrayLike<number>,
  polygon: number,
): [from: number, to: number] {
  let [from, to] = [0, polygonOf.length];
  while (from < to) {
    const half = (from + to) >> 1;
    if (polygonOf[half] < polygon) from = half + 1;
    else to = half;
  }
  while (polygonOf[to] === polygon) to++;
  return [from, to];
}
