import { Group, LineBasicMaterial } from 'three';
import type { StageView } from '../view';
import type { Frame, Layer } from './layer';
import { clearGroup, lineSegments } from './lines';
import { linearToken } from './tokens';

/** A box of a known side beside the figure, to hold it against. */
export class KnownBoxLayer implements Layer {
  readonly id = 'known box';
  readonly object = new Group();
  /** Where its label stands; null where there is none. */
  labelAt: readonly [number, number, number] | null = null;
  private side: number | null = null;
  private frame: Frame | null = null;

  update(view: StageView, last: StageView, frame: Frame): void {
    if (view.boxSide === this.side && view.figure === last.figure) return;
    this.side = view.boxSide;
    this.frame = frame;
    this.repaint();
  }

  repaint(): void {
    clearGroup(this.object);
    this.labelAt = null;
    const { side, frame } = this;
    if (side === null || !frame) return;
    const x0 = frame.box.max.x + frame.height * 0.06;
    const z0 = -side / 2;
    const corner = (k: number) => [x0 + (k & 1 ? side : 0), k & 2 ? side : 0, z0 + (k & 4 ? side : 0)];
    const points: number[] = [];
    for (let a = 0; a < 8; a++)
      for (const bit of [1, 2, 4]) if (!(a & bit)) points.push(...corner(a), ...corner(a | bit));
    this.object.add(lineSegments(points, new LineBasicMaterial({ color: linearToken('bark') })));
    this.labelAt = [x0 + side / 2, side, -z0];
  }

  dispose(): void {
    clearGroup(this.object);
  }
}
