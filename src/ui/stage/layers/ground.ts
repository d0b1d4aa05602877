import { Group, LineBasicMaterial } from 'three';
import type { StageView } from '../view';
import type { Frame, Layer } from './layer';
import { clearGroup, lineSegments } from './lines';
import { linearToken } from './tokens';

/** Lines to each side of the middle one. */
const LINES = 16;

function stepOf(height: number): number {
  if (height > 0.6) return 0.25;
  return height > 0.06 ? 0.02 : 0.002;
}

/** Lines of the ground under a figure; a small thing has them at its own foot. */
export class GroundLayer implements Layer {
  readonly id = 'ground';
  readonly object = new Group();
  private frame: Frame | null = null;

  update(view: StageView, last: StageView, frame: Frame): void {
    if (view.figure === last.figure && this.frame) return;
    this.frame = frame;
    this.repaint();
  }

  repaint(): void {
    if (!this.frame) return;
    const { height, box } = this.frame;
    const step = stepOf(height);
    const y = height > 0.6 ? 0 : box.min.y;
    const far = LINES * step;
    const points: number[] = [];
    for (let i = -LINES; i <= LINES; i++)
      points.push(-far, y, i * step, far, y, i * step, i * step, y, -far, i * step, y, far);
    const material = new LineBasicMaterial({ color: linearToken('rule'), transparent: true, opacity: 0.75 });
    clearGroup(this.object).add(lineSegments(points, material));
  }

  dispose(): void {
    clearGroup(this.object);
  }
}
