import type { Box3, Object3D } from 'three';
import type { Pose } from '../../worker/figure';
import type { StageView } from '../view';

/** Where a figure is and how large: what stands around it goes by that. */
export interface Frame {
  readonly box: Box3;
  readonly height: number;
}

/**
 * Something that the stage draws. It takes from the view what concerns it, and owns all that it gives to the
 * graphics card.
 */
export interface Layer {
  readonly id: string;
  readonly object: Object3D;
  update(view: StageView, last: StageView, frame: Frame): void;
  /** The figure's points elsewhere; null: at rest. */
  pose?(pose: Pose | null): void;
  /** Draws less of a large figure while it moves; all of it again once it stands. */
  coarsen?(isCoarse: boolean): void;
  /** Takes the house's colours anew, after a change of sheet. */
  repaint?(): void;
  dispose(): void;
}

/** Makes a layer for one stage. */
export type MakeLayer = () => Layer;
