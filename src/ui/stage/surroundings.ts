import {
  type Box3,
  BufferAttribute,
  BufferGeometry,
  Group,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  type ShaderMaterial,
} from 'three';
import type { Ghost } from '../worker/figure';
import { ghostMaterial } from './clay';
import { linearToken } from './tokens';

/** What stands around a figure and belongs to no file: the ground, a box of a known side, ghosts. Metres, world space. */
export class Surroundings {
  readonly ground = new Group();
  readonly known = new Group();
  readonly ghosts = new Group();
  /** Where the known box has its label; null where there is none. */
  boxAt: readonly [number, number, number] | null = null;

  constructor() {
    this.ghosts.renderOrder = 4;
  }

  /** Lines of the ground under a figure of this height; a small thing has them at its own foot. */
  layGround(height: number, foot: number): void {
    const step = height > 0.6 ? 0.25 : height > 0.06 ? 0.02 : 0.002;
    const n = 16;
    const y = height > 0.6 ? 0 : foot;
    const p: number[] = [];
    for (let i = -n; i <= n; i++)
      p.push(-n * step, y, i * step, n * step, y, i * step, i * step, y, -n * step, i * step, y, n * step);
    cleared(this.ground).add(
      lines(p, new LineBasicMaterial({ color: linearToken('rule'), transparent: true, opacity: 0.75 })),
    );
  }

  /** A box of a known side beside the figure, to hold it against; null takes it away. */
  setBox(side: number | null, figure: Box3, height: number): void {
    cleared(this.known);
    this.boxAt = null;
    if (side === null) return;
    const x0 = figure.max.x + height * 0.06;
    const z0 = -side / 2;
    const p: number[] = [];
    const corner = (k: number) => [x0 + (k & 1 ? side : 0), k & 2 ? side : 0, z0 + (k & 4 ? side : 0)];
    for (let a = 0; a < 8; a++)
      for (const bit of [1, 2, 4]) if (!(a & bit)) p.push(...corner(a), ...corner(a | bit));
    this.known.add(lines(p, new LineBasicMaterial({ color: linearToken('bark') })));
    this.boxAt = [x0 + side / 2, side, -z0];
  }

  /** Shapes drawn thinly over the figure: what a step would make of it, or what it was before. */
  setGhosts(shapes: readonly Ghost[] | null): void {
    cleared(this.ghosts);
    for (const s of shapes ?? []) {
      const g = new BufferGeometry();
      g.setAttribute('position', new BufferAttribute(s.points, 3));
      g.setIndex(new BufferAttribute(s.triangles, 1));
      g.computeVertexNormals();
      const mesh = new Mesh(g, ghostMaterial());
      mesh.frustumCulled = false;
      mesh.renderOrder = 4;
      this.ghosts.add(mesh);
    }
  }

  dispose(): void {
    for (const g of [this.ground, this.known, this.ghosts]) cleared(g);
  }
}

function cleared(group: Group): Group {
  for (const x of group.children as (Mesh | LineSegments)[]) {
    x.geometry.dispose();
    (x.material as ShaderMaterial | LineBasicMaterial).dispose();
  }
  return group.clear();
}

function lines(points: readonly number[], material: LineBasicMaterial): LineSegments {
  const g = new BufferGeometry();
  g.setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
  const out = new LineSegments(g, material);
  out.frustumCulled = false;
  return out;
}
