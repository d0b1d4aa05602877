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
import { TWIG_TRIANGLES, TWIG_VERTICES, placeTwig, twigIndex } from './twig-shape';

/**
 * Bones drawn as twigs, with a leaf blade in the plane in which the hinge opens, so that axis and twist are
 * read at a glance. One mesh for all of them, one shape after another.
 */
export class TwigsLayer implements Layer {
  readonly id = 'twigs';
  readonly object = new Mesh(
    new BufferGeometry(),
    new MeshBasicMaterial({ vertexColors: true, transparent: true, opacity: 0.92, side: DoubleSide }),
  );
  private bones: readonly FigureBone[] = [];
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
    const changed = (...keys: (keyof StageView)[]) => isFirst || keys.some((key) => view[key] !== last[key]);
    if (changed('figure', 'hidden', 'isolated', 'twigSize', 'twigSizes')) this.build();
    else if (changed('chosenBones', 'sets')) this.paint();
  }

  /** The same twigs elsewhere: only their places are written. */
  pose(pose: Pose | null): void {
    this.posed = pose?.bones ?? null;
    const { view, frame } = this;
    if (!view || !frame) return;
    const bones = shownBones(this.posed ?? view.figure?.bones ?? [], view);
    const isSame =
      bones.length === this.bones.length && bones.every((bone, i) => bone.node === this.bones[i].node);
    if (!isSame) {
      this.build();
      return;
    }
    this.bones = bones;
    this.place(view, frame);
  }

  repaint(): void {
    this.paint();
  }

  /** The twigs that are seen, as they stand. */
  get shown(): readonly FigureBone[] {
    return this.view?.twigs ? this.bones : [];
  }

  raycast(ray: Raycaster): Hit | null {
    return this.raycastAll(ray)[0] ?? null;
  }

  /** The twigs that a ray meets, each once, near ones first. */
  raycastAll(ray: Raycaster): Hit[] {
    if (!this.object.visible || this.bones.length === 0) return [];
    const met = new Map<number, Hit>();
    for (const { faceIndex, point } of ray.intersectObject(this.object, false)) {
      if (faceIndex === undefined || faceIndex === null) continue;
      const { node } = this.bones[Math.floor(faceIndex / TWIG_TRIANGLES)];
      if (met.has(node) || this.view?.locked.has(node)) continue;
      met.set(node, { kind: 'bone', node, vertex: -1, polygon: -1, point: point.toArray() });
    }
    return [...met.values()];
  }

  private build(): void {
    const { view, frame } = this;
    if (!view || !frame) return;
    this.bones = shownBones(this.posed ?? view.figure?.bones ?? [], view);
    const count = this.bones.length * TWIG_VERTICES * 3;
    const geometry = new BufferGeometry();
    for (const name of ['position', 'color'])
      geometry.setAttribute(name, new BufferAttribute(new Float32Array(count), 3));
    geometry.setIndex(new BufferAttribute(twigIndex(this.bones.length), 1));
    this.object.geometry.dispose();
    this.object.geometry = geometry;
    this.place(view, frame);
    this.paint();
  }

  private place({ twigSize, twigSizes }: StageView, { height }: Frame): void {
    const { geometry } = this.object;
    const position = geometry.getAttribute('position') as BufferAttribute;
    const points = position.array as Float32Array;
    this.bones.forEach((bone, i) => {
      const size = twigSize * (twigSizes.get(bone.node) ?? 1);
      placeTwig(bone, size, height, points, i * TWIG_VERTICES * 3);
    });
    position.needsUpdate = true;
    geometry.computeBoundingSphere();
  }

  /** Colours by side; bones without a part of the body are quieter, chosen ones damson. */
  private paint(): void {
    const colour = this.object.geometry.getAttribute('color') as BufferAttribute | undefined;
    if (!colour) return;
    const side = { left: token('left'), right: token('right'), middle: token('ink') };
    const quiet = token('bark');
    const damson = token('damson');
    const paper = token('paper');
    const color = new Color();
    const inSet = new Map<number, string>();
    for (const { bones, tint } of this.view?.sets ?? [])
      for (const bone of bones) inSet.set(bone, tint ?? '#888888');
    this.bones.forEach((bone, i) => {
      color.copy(side[bone.side]);
      if (bone.helper) color.lerp(quiet, 0.55).lerp(paper, 0.25);
      const tint = inSet.get(bone.node);
      if (tint) color.set(tint);
      if (this.view?.chosenBones.has(bone.node)) color.copy(damson);
      for (let vertex = i * TWIG_VERTICES; vertex < (i + 1) * TWIG_VERTICES; vertex++)
        colour.setXYZ(vertex, color.r, color.g, color.b);
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
  const open = bones.filter((bone) => !hidden.has(bone.node));
  return isolated ? open.filter((bone) => isolated.nodes.has(bone.node)) : open;
}
