'use client';

import { useEffect, useRef } from 'react';
import { Overlay, type DrawnLine, type Drawing, type DrawingSource, type Staff } from './overlay';
import type { MakeLayer } from './layers/layer';
import { Stage } from './stage';
import type { MakeTool, PointerAt, Tool } from './tools/tool';

interface Props {
  /** Called with the stage, and with null when it goes. Must stay the same function. */
  onStage: (stage: Stage | null) => void;
  label: string;
  makeTool: MakeTool;
  staff?: Staff | null;
  /** Measures drawn over the picture. */
  lines?: readonly DrawnLine[];
  /** What else is drawn over it, beside what the tool draws. */
  drawing?: DrawingSource;
  /** Layers beside the stage's own, the last one on top. */
  layers?: readonly MakeLayer[];
}

/** A press that goes farther than this is a drag, pixels. */
const DRAG = 4;

const TURNS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-0.15, 0],
  ArrowRight: [0.15, 0],
  ArrowUp: [0, -0.12],
  ArrowDown: [0, 0.12],
};

const NO_DRAWING: Drawing = {};

interface Over {
  readonly staff: Staff | null;
  readonly lines: readonly DrawnLine[];
  readonly drawing?: DrawingSource;
}

/** A canvas with a stage on it, the tool that is in the hand, and what is drawn over the picture. */
export function StageCanvas({ onStage, label, makeTool, staff = null, lines, drawing, layers }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const stage = useRef<Stage | null>(null);
  const tool = useRef<Tool | null>(null);
  const over = useRef<Over>({ staff: null, lines: [] });

  useEffect(() => {
    over.current = { staff, lines: lines ?? [], drawing };
    stage.current?.draw();
    return drawing?.listen(() => stage.current?.draw());
  }, [staff, lines, drawing]);

  // The stage lives as long as its canvas.
  useEffect(() => {
    if (!canvas.current || !svg.current) return;
    const made = new Stage(canvas.current);
    const overlay = new Overlay(svg.current, made);
    const element = canvas.current;
    stage.current = made;
    made.onDraw = () => {
      const { staff, lines, drawing } = over.current;
      overlay.draw(staff, lines, drawing?.draw() ?? NO_DRAWING, tool.current?.overlay?.() ?? NO_DRAWING);
      const { geometries, textures } = made.held;
      element.dataset.geometries = String(geometries);
      element.dataset.textures = String(textures);
    };
    const watch = new ResizeObserver(() => made.resize());
    watch.observe(element);
    const paper = new MutationObserver(() => made.repaint());
    paper.observe(document.documentElement, { attributes: true, attributeFilter: ['data-sheet'] });
    const release = handPointer(element, made, () => tool.current);
    onStage(made);
    return () => {
      onStage(null);
      release();
      watch.disconnect();
      paper.disconnect();
      stage.current = null;
      made.dispose();
    };
  }, [onStage]);

  useEffect(() => {
    if (!stage.current || !canvas.current) return;
    const made = makeTool(stage.current);
    tool.current = made;
    canvas.current.style.cursor = made.cursor;
    stage.current.draw();
    return () => {
      made.cancel();
      tool.current = null;
      stage.current?.draw();
    };
  }, [makeTool, onStage]);

  useEffect(() => {
    const taken = (layers ?? []).map((make) => stage.current?.addLayer(make()));
    return () => {
      for (const takeOff of taken) takeOff?.();
    };
  }, [layers, onStage]);

  return (
    <div className="absolute inset-0">
      <canvas
        ref={canvas}
        className="block h-full w-full touch-none"
        tabIndex={0}
        role="img"
        aria-label={`${label}. Drag to turn, wheel to come closer; arrow keys turn.`}
        onKeyDown={(event) => {
          const turn = TURNS[event.key];
          if (!turn) return;
          event.preventDefault();
          stage.current?.rig.orbit(turn[0], turn[1]);
        }}
      />
      <svg
        ref={svg}
        className="pointer-events-none absolute inset-0 h-full w-full overflow-hidden"
        aria-hidden="true"
      />
    </div>
  );
}

/**
 * Leads the pointer to the tool first, and to the camera where the tool does not take it. Returns what ends
 * it.
 */
function handPointer(canvas: HTMLCanvasElement, stage: Stage, toolNow: () => Tool | null): () => void {
  let holder: Tool | null = null;
  let pressed: readonly [number, number] | null = null;
  let asked = 0;
  const placeOf = (event: PointerEvent): PointerAt => {
    const rect = canvas.getBoundingClientRect();
    return {
      x: event.clientX - rect.left,
      y: event.clientY - rect.top,
      shift: event.shiftKey,
      alt: event.altKey,
      pressure: event.pointerType === 'pen' ? event.pressure : 1,
    };
  };
  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    pressed = [event.clientX, event.clientY];
    const tool = toolNow();
    if (!tool?.down(placeOf(event))) return;
    holder = tool;
    stage.rig.hold(true);
    canvas.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent) => {
    if (event.buttons !== 0 && !holder) return;
    if (holder?.samples && holder === toolNow()) {
      const all = event.getCoalescedEvents?.() ?? [];
      holder.samples((all.length > 0 ? all : [event]).map(placeOf));
    }
    const at = placeOf(event);
    cancelAnimationFrame(asked);
    asked = requestAnimationFrame(() => toolNow()?.move(at, holder !== null && holder === toolNow()));
  };
  const up = (event: PointerEvent) => {
    cancelAnimationFrame(asked);
    const from = pressed;
    pressed = null;
    if (holder) {
      if (holder === toolNow()) holder.up(placeOf(event));
      holder = null;
      stage.rig.hold(false);
      return;
    }
    const isClick = from && Math.hypot(event.clientX - from[0], event.clientY - from[1]) <= DRAG;
    if (isClick && event.button === 0) toolNow()?.click?.(placeOf(event));
  };
  const leave = () => {
    cancelAnimationFrame(asked);
    toolNow()?.leave?.();
  };
  const events = { pointerdown: down, pointermove: move, pointerup: up, pointercancel: up } as const;
  // Before the camera's own listeners, which sit on the canvas.
  const around = canvas.parentElement ?? canvas;
  for (const [name, listener] of Object.entries(events))
    around.addEventListener(name, listener as EventListener, { capture: true });
  canvas.addEventListener('pointerleave', leave);
  return () => {
    for (const [name, listener] of Object.entries(events))
      around.removeEventListener(name, listener as EventListener, { capture: true });
    canvas.removeEventListener('pointerleave', leave);
    cancelAnimationFrame(asked);
  };
}
