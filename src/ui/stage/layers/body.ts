import { Group, type Ray } from 'three';
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
    const changed = (...keys: (keyof StageView)[]) => isNew || keys.some((k) => view[k] !== last[k]);
    for (const d of this.drawn) {
      const { node } = d.figure;
      if (changed('searches')) d.setSearch(view.searches.get(node));
      if (changed('values')) d.setValues(view.values?.get(node));
      if (changed('marks')) d.setMarks(view.marks);
      if (changed('isolated')) d.setKept(view.isolated?.kept.get(node) ?? null);
      if (changed('surface', 'edges', 'sheer', 'isolated'))
        d.setSurface(view.surface, view.edges, view.sheer);
      if (changed('tints')) d.setTint(view.tints.get(node));
    }
    if (changed('hidden', 'isolated', 'edges', 'surface')) this.showAndHide(view);
  }

  private build({ figure }: StageView): void {
    this.clear();
    this.drawn = (figure?.meshes ?? []).map(
      (m, i) => new DrawnMesh(m, i, (this.materials[i] ??= meshMaterials())),
    );
    for (const d of this.drawn) this.object.add(d.mesh, d.edges);
  }

  /** Alone is what is chosen: a mesh that is not among it is not seen, unless only bones are. */
  private showAndHide({ isolated, hidden, edges, surface }: StageView): void {
    const some = this.drawn.some(({ figure: { node } }) => isolated?.nodes.has(node));
    const onClay = surface === 'clay' || surface === 'parts';
    for (const d of this.drawn) {
      const { node } = d.figure;
      d.mesh.visible = !hidden.has(node) && (!isolated || !some || isolated.nodes.has(node));
      d.edges.visible = d.mesh.visible && (edges || onClay);
    }
  }

  pose(pose: Pose | null): void {
    for (const d of this.drawn) {
      const now = pose?.meshes.find((m) => m.node === d.figure.node);
      if (now) d.place(now.points, now.normals);
      else d.rest();
    }
  }

  coarsen(isCoarse: boolean): void {
    for (const d of this.drawn) d.coarsen(isCoarse);
  }

  repaint(): void {
    for (const d of this.drawn) d.repaint();
  }

  /** The meshes that are seen and not locked. */
  get open(): readonly DrawnMesh[] {
    return this.drawn.filter((d) => d.mesh.visible && !this.locked.has(d.figure.node));
  }

  raycast(ray: Ray): Hit | null {
    let best: Hit | null = null;
    let nearest = Infinity;
    for (const d of this.open) {
      const hit = d.raycast(ray);
      if (!hit || hit.distance >= nearest) continue;
      nearest = hit.distance;
      const { vertex, polygon, point } = hit;
      best = { kind: 'vertex', node: d.figure.node, vertex, polygon, point };
    }
    return best;
  }

  private clear(): void {
    for (const d of this.drawn) d.dispose();
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
