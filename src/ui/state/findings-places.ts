import type { Elements, Finding } from '@/core/contracts/finding';
import type { Marks } from '../stage/view';
import type { Figure, FigureMesh } from '../worker/figure';

/** Every how many points of a whole mesh are looked at to bring it into the picture. */
const EVERY = 30;

/** The very elements of a finding, as the stage lights them up. */
export function marksOf(finding: Finding, figure: Figure): Marks {
  const vertices = new Map<number, Uint32Array>();
  const polygons = new Map<number, Uint32Array>();
  const edges = new Map<number, Uint32Array>();
  const bones = new Set<number>();
  for (const element of finding.elements) {
    if (element.kind === 'vertex') vertices.set(element.node, element.ids);
    else if (element.kind === 'polygon') polygons.set(element.node, element.ids);
    else if (element.kind === 'edge') edges.set(element.node, element.ids);
    else if (element.kind === 'bone') for (const id of element.ids) bones.add(id);
    else
      for (const mesh of figure.meshes)
        if (element.ids.includes(mesh.node)) vertices.set(mesh.node, allOf(mesh));
  }
  return { vertices, polygons, edges, bones };
}

const allOf = (mesh: FigureMesh) => Uint32Array.from({ length: mesh.points.length / 3 }, (_, value) => value);

const pointOf = (mesh: FigureMesh, vertex: number) => [
  mesh.points[vertex * 3],
  mesh.points[vertex * 3 + 1],
  mesh.points[vertex * 3 + 2],
];

/** World places of a finding's elements, for the camera. */
export const placesOfFinding = (finding: Finding, figure: Figure): number[][] =>
  finding.elements.flatMap((element) => placesOfElements(element, figure));

export function placesOfElements({ kind, node, ids }: Elements, figure: Figure): number[][] {
  if (kind === 'bone' || kind === 'node') return [...ids].flatMap((id) => placesOfNode(id, figure));
  const mesh = figure.meshes.find((mesh) => mesh.node === node);
  if (!mesh) return [];
  if (kind === 'vertex' || kind === 'edge') return Array.from(ids, (id) => pointOf(mesh, id));
  const on = new Set(ids);
  const places: number[][] = [];
  mesh.polygonOf.forEach((point, index) => {
    if (on.has(point)) places.push(pointOf(mesh, mesh.triangles[index * 3]));
  });
  return places;
}

/** Places that span a mesh or a bone; none for a node that shows nothing. */
export function placesOfNode(node: number, figure: Figure): number[][] {
  const bone = figure.bones.find((bone) => bone.node === node);
  if (bone) return [[...bone.from], [...bone.to]];
  const mesh = figure.meshes.find((mesh) => mesh.node === node);
  if (!mesh) return [];
  const count = mesh.points.length / 3;
  return Array.from({ length: Math.ceil(count / EVERY) }, (_, i) => pointOf(mesh, i * EVERY));
}

/** As far round a single thing as is shown with it, as a share of the figure's height. */
const ROUND = 0.03;

/** Of findings of more things only so many are walked through. */
const MOST_SPOTS = 5000;

/**
 * The very things of a finding one by one, as places that span each with a little round it: every point, every edge, every polygon,
 * every bone.
 */
export function spotsOfFinding({ elements }: Finding, figure: Figure): number[][][] {
  const spots = elements.flatMap(({ kind, node, ids }): number[][][] => {
    if (kind === 'bone' || kind === 'node') return [...ids].map((id) => placesOfNode(id, figure));
    const mesh = figure.meshes.find((one) => one.node === node);
    if (!mesh) return [];
    if (kind === 'edge')
      return Array.from({ length: ids.length >> 1 }, (_, i) => [
        pointOf(mesh, ids[i * 2]),
        pointOf(mesh, ids[i * 2 + 1]),
      ]);
    if (kind === 'polygon') {
      const first = new Map<number, number>();
      mesh.polygonOf.forEach((polygon, triangle) => {
        if (!first.has(polygon)) first.set(polygon, triangle);
      });
      return Array.from(ids.subarray(0, MOST_SPOTS), (id) =>
        [0, 1, 2].map((k) => pointOf(mesh, mesh.triangles[(first.get(id) ?? 0) * 3 + k])),
      );
    }
    // A point that a seam split is one.
    const points = new Map(Array.from(ids, (id) => [mesh.pointOfVertex[id], id]));
    return [...points.values()].map((id) => [pointOf(mesh, id)]);
  });
  const by = ROUND * heightOf(figure);
  return spots.slice(0, MOST_SPOTS).flatMap((places) => (places.length > 0 ? [withRoom(places, by)] : []));
}

function withRoom(places: readonly (readonly number[])[], by: number): number[][] {
  const sides = [-by, by];
  return places.flatMap((place) => sides.map((side) => place.map((x) => x + side)));
}

const heightOf = ({ body }: Figure): number => (body ? Math.max(body.max[1] - body.min[1], 1e-6) : 1);
