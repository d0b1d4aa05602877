'use client';

import { type PointerEvent, useEffect, useRef } from 'react';
import { type Hit, type Snap, Stage } from './stage';

interface Props {
  /** Called once with the stage, and with null when it goes. */
  onStage: (stage: Stage | null) => void;
  onHover?: (hit: Hit | null) => void;
  onPick?: (hit: Hit | null, extend: boolean) => void;
  label: string;
  staff?: Staff | null;
  /** Measures drawn over the picture. */
  lines?: readonly DrawnLine[];
  /** While two points are measured: called with what the pointer would take, and what it took. */
  measuring?: { onMove: (at: Snap | null) => void; onTake: (at: Snap) => void } | null;
}

/** A measured line between two world places, with its length in words; `live` while it is being drawn, `end` for a lone first or next point. */
export interface DrawnLine {
  readonly from: readonly number[];
  readonly to: readonly number[];
  readonly text: string;
  readonly live?: boolean;
}

export interface Staff {
  readonly perMetre: number;
  readonly unit: string;
  readonly target: number | null;
  readonly tolerance: number;
  readonly top: number | null;
  readonly text: string;
  /** The side of the known box, in words. */ readonly boxText?: string;
}

/** A canvas with a stage on it, and the height staff drawn over it. */
export function StageView({ onStage, onHover, onPick, label, staff, lines, measuring }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const stage = useRef<Stage | null>(null);
  const staffNow = useRef(staff);
  const down = useRef<[number, number] | null>(null);
  const asked = useRef(0);
  const told = useRef(onStage);

  const linesNow = useRef(lines);
  useEffect(() => {
    staffNow.current = staff;
    linesNow.current = lines;
    stage.current?.draw();
  }, [staff, lines]);

  useEffect(() => {
    if (!canvas.current) return;
    const s = new Stage(canvas.current);
    const tell = told.current;
    stage.current = s;
    s.onDraw = () => {
      if (!svg.current) return;
      drawStaff(svg.current, s, staffNow.current ?? null);
      drawLines(svg.current, s, linesNow.current ?? [], staffNow.current ?? null);
    };
    const watch = new ResizeObserver(() => s.resize());
    watch.observe(canvas.current);
    const sheet = new MutationObserver(() => s.paper());
    sheet.observe(document.documentElement, { attributes: true, attributeFilter: ['data-sheet'] });
    tell(s);
    return () => {
      watch.disconnect();
      sheet.disconnect();
      s.dispose();
      stage.current = null;
      tell(null);
    };
    // The stage lives as long as its canvas.
  }, []);

  const move = (e: PointerEvent) => {
    if (e.buttons !== 0) return;
    if (measuring) {
      const { clientX, clientY } = e;
      cancelAnimationFrame(asked.current);
      asked.current = requestAnimationFrame(() =>
        measuring.onMove(stage.current?.snap(clientX, clientY) ?? null),
      );
      return;
    }
    if (!onHover) return;
    const { clientX, clientY } = e;
    cancelAnimationFrame(asked.current);
    asked.current = requestAnimationFrame(() => onHover(stage.current?.pick(clientX, clientY) ?? null));
  };
  const up = (e: PointerEvent) => {
    const from = down.current;
    down.current = null;
    if (!from || Math.hypot(e.clientX - from[0], e.clientY - from[1]) > 4 || e.button !== 0) return;
    if (measuring) {
      const at = stage.current?.snap(e.clientX, e.clientY);
      if (at) measuring.onTake(at);
      return;
    }
    onPick?.(stage.current?.pick(e.clientX, e.clientY) ?? null, e.shiftKey);
  };
  return (
    <div className="absolute inset-0">
      <canvas
        ref={canvas}
        className={`block h-full w-full touch-none ${measuring ? 'cursor-crosshair' : ''}`}
        tabIndex={0}
        role="img"
        aria-label={`${label}. Drag to turn, wheel to come closer; arrow keys turn.`}
        onPointerMove={move}
        onPointerDown={(e) => {
          down.current = [e.clientX, e.clientY];
        }}
        onPointerUp={up}
        onPointerLeave={() => onHover?.(null)}
        onKeyDown={(e) => {
          const turn = {
            ArrowLeft: [-0.15, 0],
            ArrowRight: [0.15, 0],
            ArrowUp: [0, -0.12],
            ArrowDown: [0, 0.12],
          }[e.key];
          if (turn) {
            e.preventDefault();
            stage.current?.orbit(turn[0], turn[1]);
          }
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

/** The height staff: a drawn rule beside the figure in the brief's unit, with the band that the brief wants and a thread to the crown. */
function drawStaff(svg: SVGSVGElement, stage: Stage, staff: Staff | null): void {
  svg.replaceChildren();
  if (!staff) return;
  const box = stage.bounds;
  const size = box.max.y - box.min.y;
  const top = Math.max(box.max.y, (staff.target ?? 0) + staff.tolerance);
  const x = Math.min(box.min.x - size * 0.1, -size * 0.32);
  const z = 0;
  const at = (y: number) => stage.project(x, y, z);
  const add = (name: string, attributes: Record<string, string | number>, text?: string) => {
    const e = document.createElementNS('http://www.w3.org/2000/svg', name);
    for (const [k, v] of Object.entries(attributes)) e.setAttribute(k, String(v));
    if (text !== undefined) e.textContent = text;
    svg.append(e);
  };
  const span = top * staff.perMetre;
  const major =
    [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500].find(
      (s) => span / s <= 5,
    ) ?? 1000;
  const last = Math.ceil(span / major) * major;
  const [x0, y0] = at(0);
  const [x1, y1] = at(last / staff.perMetre);
  if (Math.hypot(x1 - x0, y1 - y0) < 30) return;
  if (staff.target !== null) {
    const [bx, b0] = at(staff.target - staff.tolerance);
    const [, b1] = at(staff.target + staff.tolerance);
    add('rect', {
      x: bx - 10,
      y: b1,
      width: 20,
      height: Math.max(2, b0 - b1),
      fill: 'var(--leaf)',
      opacity: 0.24,
    });
    // Beside a number of the staff the word steps aside for it.
    const middle = (b0 + b1) / 2;
    const near = Math.round((staff.target * staff.perMetre) / major) * major;
    const [, ny] = at(near / staff.perMetre);
    const aside = Math.abs(ny - middle) < 11 ? 10 + String(Number(near.toFixed(3))).length * 7 : 14;
    add(
      'text',
      {
        x: bx - aside,
        y: middle + 4,
        'text-anchor': 'end',
        fill: 'var(--leaf)',
        'font-size': 11,
        'font-weight': 600,
        'font-family': 'var(--font-sans)',
      },
      'brief',
    );
  }
  add('line', { x1: x0, y1: y0, x2: x1, y2: y1, stroke: 'var(--ink)', 'stroke-width': 1.2 });
  for (let i = 0; i <= Math.round(last / major) * 10; i++) {
    const [tx, ty] = at((i * major) / 10 / staff.perMetre);
    const whole = i % 10 === 0;
    const half = i % 5 === 0;
    add('line', {
      x1: tx,
      y1: ty,
      x2: tx + (whole ? 11 : half ? 7 : 4),
      y2: ty,
      stroke: 'var(--ink)',
      'stroke-width': whole ? 1.2 : 0.8,
    });
    if (whole)
      add(
        'text',
        {
          x: tx - 8,
          y: ty + 4,
          'text-anchor': 'end',
          fill: 'var(--soft)',
          'font-size': 11,
          'font-family': 'var(--font-mono)',
        },
        String(Number(((i * major) / 10).toFixed(3))),
      );
  }
  if (staff.top !== null) {
    const [px, py] = at(staff.top);
    const [hx, hy] = stage.project(0, staff.top, z);
    add('line', {
      x1: px,
      y1: py,
      x2: hx,
      y2: hy,
      stroke: 'var(--damson)',
      'stroke-width': 1.2,
      'stroke-dasharray': '3 3',
    });
    const w = staff.text.length * 7.4 + 12;
    add('rect', {
      x: px + 16,
      y: py - 22,
      width: w,
      height: 19,
      rx: 4,
      fill: 'var(--sheet)',
      stroke: 'var(--rule)',
    });
    add(
      'text',
      { x: px + 22, y: py - 8.5, fill: 'var(--ink)', 'font-size': 12, 'font-family': 'var(--font-mono)' },
      staff.text,
    );
  }
}

/** Pinned measures and the one that is being taken: a thread between two dots, its length in the middle; and the word on the known box. */
function drawLines(svg: SVGSVGElement, stage: Stage, lines: readonly DrawnLine[], staff: Staff | null): void {
  const add = (name: string, attributes: Record<string, string | number>, text?: string) => {
    const e = document.createElementNS('http://www.w3.org/2000/svg', name);
    for (const [k, v] of Object.entries(attributes)) e.setAttribute(k, String(v));
    if (text !== undefined) e.textContent = text;
    svg.append(e);
  };
  const word = (x: number, y: number, text: string) => {
    const w = text.length * 7.4 + 12;
    add('rect', {
      x: x - w / 2,
      y: y - 10,
      width: w,
      height: 19,
      rx: 4,
      fill: 'var(--sheet)',
      stroke: 'var(--rule)',
    });
    add(
      'text',
      {
        x,
        y: y + 3.5,
        'text-anchor': 'middle',
        fill: 'var(--ink)',
        'font-size': 12,
        'font-family': 'var(--font-mono)',
      },
      text,
    );
  };
  for (const l of lines) {
    const [x0, y0] = stage.project(l.from[0], l.from[1], l.from[2]);
    const [x1, y1] = stage.project(l.to[0], l.to[1], l.to[2]);
    add('line', {
      x1: x0,
      y1: y0,
      x2: x1,
      y2: y1,
      stroke: 'var(--damson)',
      'stroke-width': 1.6,
      ...(l.live ? { 'stroke-dasharray': '5 4' } : {}),
    });
    for (const [x, y] of [
      [x0, y0],
      [x1, y1],
    ])
      add('circle', {
        cx: x,
        cy: y,
        r: 4,
        fill: 'var(--sheet)',
        stroke: 'var(--damson)',
        'stroke-width': 1.8,
      });
    if (l.text) word((x0 + x1) / 2, (y0 + y1) / 2, l.text);
  }
  if (stage.boxAt && staff) {
    const [x, y] = stage.project(...stage.boxAt);
    word(x, y - 14, staff.boxText ?? '');
  }
}
