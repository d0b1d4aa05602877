import { BufferAttribute, BufferGeometry, Group, Mesh, type ShaderMaterial } from 'three';
import type { Ghost } from '../../worker/figure';
import type { StageView } from '../view';
import { ghostMaterial } from './clay';
import type { Layer } from './layer';
import { token } from './tokens';

/** Shapes drawn thinly over the figure: what a step would make of it, or what it was before. */
export class GhostsLayer implements Layer {
  readonly id = 'ghosts';
  readonly object = new Group();
  private shown: readonly Ghost[] | null = null;
  /**
   * One for all ghosts, kept: a program that goes with its last ghost would be compiled anew for the next.
   */
  private readonly material = ghostMaterial();

  constructor() {
    this.object.renderOrder = 4;
  }

  update(view: StageView): void {
    if (view.ghosts === this.shown) return;
    this.shown = view.ghosts;
    this.clear();
    for (const shape of view.ghosts ?? []) this.object.add(ghostMesh(shape, this.material));
  }

  repaint(): void {
    this.material.uniforms.colour.value = token('damson');
  }

  private clear(): void {
    for (const mesh of this.object.children as Mesh[]) mesh.geometry.dispose();
    this.object.clear();
  }

  dispose(): void {
    this.clear();
    this.material.dispose();
  }
}

function ghostMesh({ points, normals, triangles }: Ghost, material: ShaderMaterial): Mesh {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(points, 3));
  geometry.setAttribute('normal', new BufferAttribute(normals, 3));
  geometry.setIndex(new BufferAttribute(triangles, 1));
  const mesh = new Mesh(geometry, material);
  mesh.frustumCulled = false;
  mesh.renderOrder = 4;
  return mesh;
}
