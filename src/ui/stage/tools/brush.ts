import type { Stage } from '../stage';
import type { Hit } from '../view';
import type { PointerAt, Tool } from './tool';

/** A brush on the surface: a press on it begins a stroke, every sample of the pointer is handed on with its pressure. */
export function brushTool(
  stage: Stage,
  callbacks: {
    /** Metres. */
    radius(): number;
    hover(hit: Hit | null): void;
    /** A stroke begins on the mesh of a node, and tells where its samples meet the surface; false where it cannot. */
    begin(node: number, onPlace: (place: readonly number[] | null) => void): boolean;
    /** A ray, origin and direction, world space, and the pressure. */
    stroke(sample: readonly number[]): void;
    end(): void;
  },
): Tool {
  let isStroking = false;
  let over: readonly number[] | null = null;
  const put = (at: PointerAt) => {
    const { origin, direction } = stage.rayAt(at.x, at.y);
    callbacks.stroke([...origin, ...direction, at.pressure]);
  };
  const follow = (place: readonly number[] | null) => {
    if (place) over = place;
    stage.draw();
  };
  const end = () => {
    if (isStroking) callbacks.end();
    isStroking = false;
  };
  return {
    id: 'brush',
    cursor: 'crosshair',
    down: (at) => {
      const hit = stage.pick(at.x, at.y, 'surface');
      if (!hit || !callbacks.begin(hit.node, follow)) return hit !== null;
      isStroking = true;
      put(at);
      return true;
    },
    samples: (ats) => {
      if (isStroking) ats.forEach(put);
    },
    move: ({ x, y }, isHeld) => {
      if (isHeld) return;
      const hit = stage.pick(x, y, 'surface');
      over = hit?.point ?? null;
      callbacks.hover(hit);
      stage.draw();
    },
    up: end,
    leave: () => {
      if (isStroking) return;
      over = null;
      callbacks.hover(null);
      stage.draw();
    },
    cancel: end,
    overlay: () => ({ circle: over && { at: over, radius: callbacks.radius() } }),
  };
}
