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

/** The edges of a polygon, two vertices each: those that only one of its triangles has. */
export function outlineOfPolygon(
  { triangles, polygonOf }: { readonly triangles: Uint32Array; readonly polygonOf: Uint32Array },
  polygon: number,
): number[] {
  const edges = new Map<string, readonly [number, number]>();
  const [first, last] = trianglesOfPolygon(polygonOf, polygon);
  for (let corner = first * 3; corner < last * 3; corner++) {
    const from = triangles[corner];
    const to = triangles[corner % 3 === 2 ? corner - 2 : corner + 1];
    const key = `${Math.min(from, to)} ${Math.max(from, to)}`;
    if (!edges.delete(key)) edges.set(key, [from, to]);
  }
  return [...edges.values()].flat();
}
