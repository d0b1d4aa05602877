import type { Touched } from '@/core/rooms/weights/painting';
import type { CameraWish, Hit } from '../stage/view';
import type { Figure, Pose } from '../worker/figure';
import { Signal } from './signal';

/** What is under the pointer. */
export const hover = new Signal<Hit | null>(null);

/**
 * Where a figure's points are while it is in motion or under the hand. It names its figure, so that it never
 * lands on another.
 */
export const posing = new Signal<{ readonly figure: Figure; readonly pose: Pose | null } | null>(null);

/** What a stroke of the brush has touched of a figure, appended to what it touched before. */
export const touching = new Signal<{ readonly figure: Figure; readonly touched: readonly Touched[] } | null>(
  null,
);

/** The moment of a clip that is shown, told with every picture while it plays; null where none is. */
export const clock = new Signal<{ readonly clip: number; readonly time: number } | null>(null);

/** What the camera is asked to look at. */
export const camera = new Signal<CameraWish | null>(null);
