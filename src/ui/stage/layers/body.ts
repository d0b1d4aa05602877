import { Group, type Ray } from 'three';
import type { Touched } from '@/core/rooms/weights/painting';
import type { Pose } from '../../worker/figure';
import type { Hit, StageView } from '../view';
import { DrawnMesh, type MeshMaterials, meshMaterials } from './drawn-mesh';
import type { Layer } from './layer';

/** The meshes of the figure: clay with true edges, carrying the picture of a number where one is wanted. */
export class BodyLayer implements Layer {
  readonly id = 'body';
  readonly object = new Group();
  private drawn: DrawnMesh[] = [];
  /**
   * By the place of a mesh in its figure; kept from figure to figure, so that their programs are compiled
   * once.
   */
  private readonly materials: MeshMaterials[] = [];
  private locked: ReadonlySet<number> = new Set();

  update(view: StageView, last: StageView): void {
    const isNew = view.figure !== last.figure;
    if (isNew) this.build(view);
    this.locked = view.locked;
    const changed = (...keys: (keyof StageView)[]) => isNew || keys.some((key) => view[key] !== last[key]);
    for (const mesh of this.drawn) {
      const { node } = mesh.figure;
      if (changed('searches')) mesh.setSearch(view.searches.get(node));
      if (changed('values')) mesh.setValues(view.values?.get(node));
      if (changed('marks')) mesh.setMarks(view.marks);
      if (changed('sets')) mesh.setSets(view.sets);
      if (changed('isolated', 'partsLeft'))
        mesh.setKept(view.isolated?.kept.get(node) ?? view.partsLeft.get(node) ?? null);
      if (changed('surface', 'edges', 'sheer', 'isolated', 'partsLeft'))
        mesh.setSurface(view.surface, view.edges, view.sheer);
      if (changed('tints')) mesh.setTint(view.tints.get(node));
    }
    if (changed('hidden', 'isolated', 'edges', 'surface')) this.showAndHide(view);
  }

  private build({ figure }: StageView): void {
    this.clear();
    this.drawn = (figure?.meshes ?? []).map(
      (mesh, i) => new DrawnMesh(mesh, i, (this.materials[i] ??= meshMaterials())),
    );
    for (const mesh of this.drawn) this.object.add(mesh.mesh, mesh.edges, mesh.marks.object);
  }

  /** Alone is what is chosen: a mesh that is not among it is not seen, unless only bones are. */
  private showAndHide({ isolated, hidden, edges, surface }: StageView): void {
    const some = this.drawn.some(({ figure: { node } }) => isolated?.nodes.has(node));
    const onClay = surface === 'clay' || surface === 'parts';
    for (const mesh of this.drawn) {
      const { node } = mesh.figure;
      mesh.mesh.visible = !hidden.has(node) && (!isolated || !some || isolated.nodes.has(node));
      mesh.edges.visible = mesh.mesh.visible && (edges || onClay);
      mesh.marks.object.visible = mesh.mesh.visible;
    }
  }

  pose(pose: Pose | null): void {
    for (const mesh of this.drawn) {
      const now = pose?.meshes.find((posedMesh) => posedMesh.node === mesh.figure.node);
      if (now) mesh.place(now.points, now.normals, now.bounds);
      else mesh.rest();
    }
  }

  touch(touched: Touched): void {
    this.drawn.find((mesh) => mesh.figure.node === touched.node)?.touch(touched);
  }

  coarsen(isCoarse: boolean): void {
    for (const mesh of this.drawn) mesh.coarsen(isCoarse);
  }

  repaint(): void {
    for (const mesh of this.drawn) mesh.repaint();
  }

  /** The meshes that are seen and not locked. */
  get open(): readonly DrawnMesh[] {
    return this.drawn.filter((mesh) => mesh.mesh.visible && !this.locked.has(mesh.figure.node));
  }

  raycast(ray: Ray): Hit | null {
    let best: Hit | null = null;
    let nearest = Infinity;
    for (const mesh of this.open) {
      const hit = mesh.raycast(ray);
      if (!hit || hit.distance >= nearest) continue;
      nearest = hit.distance;
      const { vertex, polygon, triangle, point, place } = hit;
      best = { kind: 'vertex', node: mesh.figure.node, vertex, polygon, triangle, point, place };
    }
    return best;
  }

  /** Every place where a ray meets the surface, near ones first. */
  raycastAll(ray: Ray): Hit[] {
    const hits = this.open.flatMap((mesh) =>
      mesh.raycastAll(ray).map((hit) => ({ ...hit, node: mesh.figure.node })),
    );
    hits.sort((a, b) => a.distance - b.distance);
    return hits.map((hit) => ({ kind: 'vertex', ...hit }));
  }

  /** How far along a ray the surface is met first; Infinity where it is not. */
  firstDistance(ray: Ray): number {
    return this.open.reduce(
      (least, mesh) => Math.min(least, mesh.raycast(ray)?.distance ?? Infinity),
      Infinity,
    );
  }

  private clear(): void {
    for (const mesh of this.drawn) mesh.dispose();
    this.object.clear();
    this.drawn = [];
  }

  dispose(): void {
    this.clear();
    for (const { surface, edges } of this.materials) {
      surface.dispose();
      edges.dispose();
    }
  }
}
