import type { Stage } from '../stage';
import type { Tool } from './tool';

/** Drags something that stands at a world place, in the plane of the picture. */
export function dragTool(
  stage: Stage,
  callbacks: {
    readonly id: string;
    /** What the pointer would take, and where it stands; null for nothing. */
    find(x: number, y: number): { readonly node: number; readonly place: readonly number[] } | null;
    begin(node: number): void;
    drag(node: number, place: readonly [number, number, number]): void;
    drop?(node: number): void;
  },
): Tool {
  let held: { node: number; place: readonly number[]; offset: readonly [number, number] } | null = null;
  let over: readonly number[] | null = null;
  return {
    id: callbacks.id,
    cursor: 'grab',
    down: ({ x, y }) => {
      const found = callbacks.find(x, y);
      if (!found) return false;
      const [px, py] = stage.rig.project(found.place[0], found.place[1], found.place[2]);
      held = { ...found, offset: [px - x, py - y] };
      callbacks.begin(found.node);
      return true;
    },
    move: ({ x, y }, isHeld) => {
      if (!isHeld || !held) {
        over = callbacks.find(x, y)?.place ?? null;
        stage.draw();
        return;
      }
      const to = stage.rig.unproject(x + held.offset[0], y + held.offset[1], held.place);
      over = to;
      callbacks.drag(held.node, to);
      stage.draw();
    },
    up: () => {
      if (held) callbacks.drop?.(held.node);
      held = null;
      over = null;
      stage.draw();
    },
    leave: () => {
      if (!held) over = null;
      stage.draw();
    },
    cancel: () => {
      held = null;
      over = null;
    },
    overlay: () => ({ ring: over }),
  };
}
