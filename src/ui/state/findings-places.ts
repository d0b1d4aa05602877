import type { Elements, Finding } from '@/core/contracts/finding';
import type { Marks } from '../stage/view';
import type { Figure, FigureMesh } from '../worker/figure';

/** Every how many points of a whole mesh are looked at to bring it into the picture. */
const EVERY = 30;

/** The very elements of a finding, as the stage lights them up. */
export function marksOf(finding: Finding, figure: Figure): Marks {
  const vertices = new Map<number, Uint32Array>();
  const polygons = new Map<number, Uint32Array>();
  const bones = new Set<number>();
  for (const e of finding.elements) {
    if (e.kind === 'vertex') vertices.set(e.node, e.ids);
    else if (e.kind === 'polygon') polygons.set(e.node, e.ids);
    else if (e.kind === 'bone') for (const b of e.ids) bones.add(b);
    else for (const m of figure.meshes) if (e.ids.includes(m.node)) vertices.set(m.node, allOf(m));
  }
  return { vertices, polygons, bones };
}

const allOf = (m: FigureMesh) => Uint32Array.from({ length: m.points.length / 3 }, (_, v) => v);

const pointOf = (m: FigureMesh, v: number) => [m.points[v * 3], m.points[v * 3 + 1], m.points[v * 3 + 2]];

/** World places of a finding's elements, for the camera. */
export const placesOfFinding = (finding: Finding, figure: Figure): number[][] =>
  finding.elements.flatMap((e) => placesOfElements(e, figure));

export function placesOfElements({ kind, node, ids }: Elements, figure: Figure): number[][] {
  if (kind === 'bone' || kind === 'node') return [...ids].flatMap((n) => placesOfNode(n, figure));
  const mesh = figure.meshes.find((m) => m.node === node);
  if (!mesh) return [];
  if (kind === 'vertex') return Array.from(ids, (v) => pointOf(mesh, v));
  const on = new Set(ids);
  const places: number[][] = [];
  mesh.polygonOf.forEach((p, t) => {
    if (on.has(p)) places.push(pointOf(mesh, mesh.triangles[t * 3]));
  });
  return places;
}

/** Places that span a mesh or a bone; none for a node that shows nothing. */
export function placesOfNode(node: number, figure: Figure): number[][] {
  const bone = figure.bones.find((b) => b.node === node);
  if (bone) return [[...bone.from], [...bone.to]];
  const mesh = figure.meshes.find((m) => m.node === node);
  if (!mesh) return [];
  const count = mesh.points.length / 3;
  return Array.from({ length: Math.ceil(count / EVERY) }, (_, i) => pointOf(mesh, i * EVERY));
}
