import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Mesh,
  MeshBasicMaterial,
  type Raycaster,
} from 'three';
import type { Figure, FigureBone, Pose } from '../../worker/figure';
import type { Hit, StageView } from '../view';
import type { Frame, Layer } from './layer';
import { linearToken as token } from './tokens';

const SIDES = 6;

/**
 * Bones drawn as twigs: a slim tapered limb, a round knuckle at the joint, and a small leaf blade that stands in the plane
 * in which the hinge opens, so that axis and twist are read at a glance. One mesh for all of them; `boneOf` tells the bone of a triangle.
 */
export class TwigsLayer implements Layer {
  readonly id = 'twigs';
  readonly object = new Mesh(
    new BufferGeometry(),
    new MeshBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.92, side: DoubleSide }),
  );
  private boneOf = new Uint32Array(0);
  private bones: readonly FigureBone[] = [];
  private ranges: [number, number][] = [];
  private posed: readonly FigureBone[] | null = null;
  private view: StageView | null = null;
  private frame: Frame | null = null;

  constructor() {
    this.object.renderOrder = 5;
  }

  update(view: StageView, last: StageView, frame: Frame): void {
    const isFirst = this.view === null;
    this.view = view;
    this.frame = frame;
    if (view.figure !== last.figure) this.posed = null;
    this.object.visible = view.twigs;
    if (isFirst || view.through !== last.through) {
      this.object.material.depthTest = !view.through;
      this.object.material.needsUpdate = true;
    }
    const changed = (...keys: (keyof StageView)[]) => isFirst || keys.some((k) => view[k] !== last[k]);
    if (changed('figure', 'hidden', 'isolated', 'twigSize')) this.build();
    else if (changed('chosenBones')) this.paint();
  }

  pose(pose: Pose | null): void {
    this.posed = pose?.bones ?? null;
    this.build();
  }

  repaint(): void {
    this.paint();
  }

  /** The twigs that are seen, as they stand. */
  get shown(): readonly FigureBone[] {
    return this.view?.twigs ? this.bones : [];
  }

  raycast(ray: Raycaster): Hit | null {
    if (!this.object.visible || this.bones.length === 0) return null;
    const hit = ray.intersectObject(this.object, false)[0];
    if (!hit || hit.faceIndex === undefined || hit.faceIndex === null) return null;
    const { node } = this.bones[this.boneOf[hit.faceIndex]];
    if (this.view?.locked.has(node)) return null;
    return { kind: 'bone', node, vertex: -1, polygon: -1, point: hit.point.toArray() };
  }

  private build(): void {
    const { view, frame } = this;
    if (!view || !frame) return;
    this.bones = shownBones(this.posed ?? view.figure?.bones ?? [], view);
    const points: number[] = [];
    const index: number[] = [];
    const owner: number[] = [];
    this.ranges = this.bones.map((b, i) => {
      const start = points.length / 3;
      const first = index.length / 3;
      twig(b, view.twigSize, frame.height, points, index);
      for (let t = first; t < index.length / 3; t++) owner.push(i);
      return [start, points.length / 3];
    });
    this.boneOf = Uint32Array.from(owner);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(Float32Array.from(points), 3));
    geometry.setAttribute('color', new BufferAttribute(new Float32Array(points.length), 3));
    geometry.setIndex(index);
    geometry.computeBoundingSphere();
    this.object.geometry.dispose();
    this.object.geometry = geometry;
    this.paint();
  }

  /** Colours by side; bones without a part of the body are quieter, chosen ones damson. */
  private paint(): void {
    const colour = this.object.geometry.getAttribute('color') as BufferAttribute | undefined;
    if (!colour) return;
    const side = { left: token('left'), right: token('right'), middle: token('ink') };
    const quiet = token('bark');
    const damson = token('damson');
    const paper = token('paper');
    const c = new Color();
    this.bones.forEach((b, i) => {
      c.copy(side[b.side]);
      if (b.helper) c.lerp(quiet, 0.55).lerp(paper, 0.25);
      if (this.view?.chosenBones.has(b.node)) c.copy(damson);
      for (let v = this.ranges[i][0]; v < this.ranges[i][1]; v++) colour.setXYZ(v, c.r, c.g, c.b);
    });
    colour.needsUpdate = true;
  }

  dispose(): void {
    this.object.geometry.dispose();
    this.object.material.dispose();
  }
}

/** The bones that are drawn: not hidden, and of those alone that are isolated, where any are. */
function shownBones(bones: Figure['bones'], { hidden, isolated }: StageView): readonly FigureBone[] {
  const open = bones.filter((b) => !hidden.has(b.node));
  return isolated ? open.filter((b) => isolated.nodes.has(b.node)) : open;
}

function twig(b: FigureBone, size: number, height: number, points: number[], index: number[]): void {
  const d = [0, 1, 2].map((k) => b.to[k] - b.from[k]);
  const l = Math.hypot(...d) || 1e-6;
  const along = d.map((x) => x / l);
  let across = b.across.map((x, k) => x - along[k] * b.across.reduce((s, y, j) => s + y * along[j], 0));
  if (Math.hypot(...across) < 1e-3)
    across = Math.abs(along[1]) < 0.9 ? cross(along, [0, 1, 0]) : cross(along, [1, 0, 0]);
  across = across.map((x) => x / (Math.hypot(...across) || 1));
  const third = cross(along, across);
  const r = size * (b.helper ? 0.6 : 1) * Math.min(0.0054 * height, 0.06 * l + 0.0006 * height);
  const at = (t: number, u: number, v: number) => {
    for (let k = 0; k < 3; k++) points.push(b.from[k] + along[k] * t + across[k] * u + third[k] * v);
    return points.length / 3 - 1;
  };
  // Limb: from the knuckle to a fine tip.
  const rings = [
    [0, r * 0.85],
    [l * 0.12, r],
    [l * 0.98, r * 0.28],
  ].map(([t, w]) =>
    Array.from({ length: SIDES }, (_, k) =>
      at(t, w * Math.cos((k / SIDES) * 6.2832), w * Math.sin((k / SIDES) * 6.2832)),
    ),
  );
  for (let j = 1; j < rings.length; j++)
    for (let k = 0; k < SIDES; k++) {
      const n = (k + 1) % SIDES;
      index.push(rings[j - 1][k], rings[j - 1][n], rings[j][n], rings[j - 1][k], rings[j][n], rings[j][k]);
    }
  // Knuckle.
  const q = r * 1.55;
  const low = at(-q, 0, 0);
  const high = at(q, 0, 0);
  const belts = [-0.6, 0, 0.6].map((s) =>
    Array.from({ length: SIDES + 2 }, (_, k) => {
      const a = (k / (SIDES + 2)) * 6.2832;
      const w = q * Math.cos(s);
      return at(q * Math.sin(s), w * Math.cos(a), w * Math.sin(a));
    }),
  );
  const m = SIDES + 2;
  for (let k = 0; k < m; k++) {
    const n = (k + 1) % m;
    index.push(low, belts[0][n], belts[0][k], high, belts[2][k], belts[2][n]);
    for (let j = 1; j < 3; j++)
      index.push(belts[j - 1][k], belts[j - 1][n], belts[j][n], belts[j - 1][k], belts[j][n], belts[j][k]);
  }
  // Leaf blade in the hinge plane, on one side only, so that a half turn shows.
  const w = Math.min(l * 0.2, 0.016 * height * size);
  if (l > 0.012 * height) {
    const s = l * 0.26;
    const e = l * 0.66;
    const spine = [0, 0.25, 0.55, 0.8, 1].map((t) => at(s + (e - s) * t, r * 0.7 + w * 0.34 * t, 0));
    const edge = [0, 0.25, 0.55, 0.8, 1].map((t) =>
      at(
        s + (e - s) * t,
        r * 0.7 + w * 0.34 * t + w * Math.sin(Math.PI * Math.min(1, t * 0.92 + 0.04)) * (1 - 0.3 * t),
        0,
      ),
    );
    for (let j = 1; j < spine.length; j++)
      index.push(spine[j - 1], spine[j], edge[j], spine[j - 1], edge[j], edge[j - 1]);
  }
}

const cross = (a: readonly number[], b: readonly number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
