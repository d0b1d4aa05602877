/**
 * The own axes of the bones that are chosen, as they stand: x with one notch, y with two, z with three, so that they are
 * told apart without a colour.
 */
import { Group, LineBasicMaterial } from 'three';
import { cross, quatRotate } from '@/core/geometry/matrix';
import { clearGroup, lineSegments } from '../../stage/layers/lines';
import type { Frame, Layer } from '../../stage/layers/layer';
import { linearToken } from '../../stage/layers/tokens';
import type { StageView } from '../../stage/view';
import type { FigureBone, Pose } from '../../worker/figure';

const AXES = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

/** Length of an axis beside its bone's, and the most and least of it as shares of the figure's height. */
const OF_BONE = 0.8;
const MOST = 0.09;
const LEAST = 0.03;

/** A notch's half width, and the way from one to the next, as shares of the axis. */
const NOTCH = 0.09;
const NEXT = 0.11;

/** Where the outermost notch is, as a share of the axis. */
const OUTERMOST = 0.92;

/** Ends of the lines that draw the axes of a bone, 3 numbers a place, 2 places a line; world space, metres. */
export function axesLines({ from, to, rotation }: FigureBone, height: number): number[] {
  const boneLength = Math.hypot(to[0] - from[0], to[1] - from[1], to[2] - from[2]);
  const length = Math.min(height * MOST, Math.max(height * LEAST, boneLength * OF_BONE));
  const along = (way: readonly number[], share: number, aside: readonly number[] = [0, 0, 0], by = 0) =>
    from.map((place, k) => place + length * (way[k] * share + aside[k] * by));
  return AXES.flatMap((axis, index) => {
    const way = quatRotate(rotation, axis);
    const aside = cross(way, quatRotate(rotation, AXES[(index + 1) % 3]));
    const lines = [...from, ...along(way, 1)];
    for (let notch = 0; notch <= index; notch++) {
      const share = OUTERMOST - notch * NEXT;
      lines.push(...along(way, share, aside, -NOTCH), ...along(way, share, aside, NOTCH));
    }
    return lines;
  });
}

export class AxesLayer implements Layer {
  readonly id = 'axes';
  readonly object = new Group();
  private view: StageView | null = null;
  private height = 1;
  private posed: readonly FigureBone[] | null = null;

  update(view: StageView, last: StageView, frame: Frame): void {
    const isFirst = this.view === null;
    this.view = view;
    this.height = frame.height;
    if (view.figure !== last.figure) this.posed = null;
    if (
      isFirst ||
      view.figure !== last.figure ||
      view.chosenBones !== last.chosenBones ||
      view.twigs !== last.twigs
    )
      this.repaint();
  }

  pose(pose: Pose | null): void {
    this.posed = pose?.bones ?? null;
    this.repaint();
  }

  repaint(): void {
    clearGroup(this.object);
    const { view, height } = this;
    if (!view?.twigs) return;
    const bones = this.posed ?? view.figure?.bones ?? [];
    const points = bones
      .filter((bone) => view.chosenBones.has(bone.node) && !view.hidden.has(bone.node))
      .flatMap((bone) => axesLines(bone, height));
    if (points.length === 0) return;
    // Twigs are drawn with what one sees through, and what is drawn over them must be too.
    const lines = lineSegments(
      points,
      new LineBasicMaterial({ color: linearToken('ink'), depthTest: false, transparent: true }),
    );
    lines.renderOrder = 6;
    this.object.add(lines);
  }

  dispose(): void {
    clearGroup(this.object);
  }
}
