import { BufferAttribute, BufferGeometry, Group, Mesh } from 'three';
import type { Ghost } from '../../worker/figure';
import type { StageView } from '../view';
import { ghostMaterial } from './clay';
import type { Layer } from './layer';
import { clearGroup } from './lines';

/** Shapes drawn thinly over the figure: what a step would make of it, or what it was before. */
export class GhostsLayer implements Layer {
  readonly id = 'ghosts';
  readonly object = new Group();
  private shown: readonly Ghost[] | null = null;

  constructor() {
    this.object.renderOrder = 4;
  }

  update(view: StageView): void {
    if (view.ghosts === this.shown) return;
    this.shown = view.ghosts;
    clearGroup(this.object);
    for (const shape of view.ghosts ?? []) this.object.add(ghostMesh(shape));
  }

  dispose(): void {
    clearGroup(this.object);
  }
}

function ghostMesh({ points, normals, triangles }: Ghost): Mesh {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(points, 3));
  geometry.setAttribute('normal', new BufferAttribute(normals, 3));
  geometry.setIndex(new BufferAttribute(triangles, 1));
  const mesh = new Mesh(geometry, ghostMaterial());
  mesh.frustumCulled = false;
  mesh.renderOrder = 4;
  return mesh;
}
