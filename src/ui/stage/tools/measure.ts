import type { Stage } from '../stage';
import type { PlaceOnFigure } from '../view';
import type { Tool } from './tool';

/** Takes the two ends of a measure: joints and points catch the pointer. */
export function measureTool(
  stage: Stage,
  desk: {
    /** The end that is taken already. */
    from(): PlaceOnFigure | null;
    take(at: PlaceOnFigure): void;
    text(a: readonly number[], b: readonly number[]): string;
  },
): Tool {
  let over: PlaceOnFigure | null = null;
  return {
    id: 'measure',
    cursor: 'crosshair',
    down: () => false,
    move: ({ x, y }) => {
      over = stage.snap(x, y);
      stage.draw();
    },
    up: () => {},
    click: ({ x, y }) => {
      const at = stage.snap(x, y);
      if (at) desk.take(at);
      stage.draw();
    },
    cancel: () => {
      over = null;
    },
    overlay: () => {
      const from = desk.from();
      const at = over ?? from;
      if (!at) return {};
      const isLine = from !== null && over !== null && from !== over;
      const text = isLine ? desk.text(from.point, over?.point ?? from.point) : '';
      return { lines: [{ from: (from ?? at).point, to: at.point, text, live: true }] };
    },
  };
}
