import { type DragWay, placeUnder } from '@/core/geometry/drag';
import { type Vec3, distance } from '@/core/geometry/matrix';
import type { DrawnLine } from '../overlay';
import type { Stage } from '../stage';
import type { Tool } from './tool';

/** What is held, where it stood, and how far from the pointer that is, pixels. */
interface Held {
  readonly node: number;
  readonly place: readonly number[];
  readonly offset: readonly [number, number];
  readonly way: DragWay | null;
}

/** Drags something that stands at a world place: in the plane of the picture, or along a line or plane. */
export function dragTool(
  stage: Stage,
  callbacks: {
    readonly id: string;
    /** What the pointer would take, and where it stands; null for nothing. */
    find(x: number, y: number): { readonly node: number; readonly place: readonly number[] } | null;
    begin(node: number): void;
    /** Where it may go from a place; null for anywhere in the plane of the picture. */
    wayOf?(node: number, place: readonly number[]): DragWay | null;
    /** What is written beside a drag along a line or plane: its way in metres, in words. */
    say?(metres: number): string;
    drag(node: number, place: Vec3): void;
    drop?(node: number): void;
  },
): Tool {
  let held: Held | null = null;
  let over: readonly number[] | null = null;
  const draggedLine = ({ place: from }: Held, to: readonly number[]): DrawnLine => ({
    from,
    to,
    text: callbacks.say?.(distance(from, to)) ?? '',
    live: true,
  });
  return {
    id: callbacks.id,
    cursor: 'grab',
    down: ({ x, y }) => {
      const found = callbacks.find(x, y);
      if (!found) return false;
      const [px, py] = stage.rig.project(found.place[0], found.place[1], found.place[2]);
      callbacks.begin(found.node);
      const way = callbacks.wayOf?.(found.node, found.place) ?? null;
      held = { ...found, offset: [px - x, py - y], way };
      return true;
    },
    move: ({ x, y }, isHeld) => {
      if (!isHeld || !held) {
        over = callbacks.find(x, y)?.place ?? null;
        stage.draw();
        return;
      }
      const [px, py] = [x + held.offset[0], y + held.offset[1]];
      const to = held.way
        ? placeUnder(held.way, stage.rig.rayOf(px, py))
        : stage.rig.unproject(px, py, held.place);
      // Looked along a line, or edge on at a plane, the pointer tells no place: it stays where it is.
      if (!to) return;
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
    overlay: () => ({ ring: over, lines: held?.way && over ? [draggedLine(held, over)] : [] }),
  };
}
