'use client';

/**
 * How the chosen bone turns over the clip that is played, with the moment that is shown: drawn once for a bone and a clip;
 * while it plays only the line of the moment moves, told by the clock and not through React.
 */
import {
  Chart,
  type ChartConfiguration,
  type ChartDataset,
  LineController,
  LineElement,
  LinearScale,
  type Plugin,
  PointElement,
} from 'chart.js';
import { useEffect, useRef, useState } from 'react';
import type { TurnsOverTime } from '@/core/motion/turns-over-time';
import { CHART_FONT, colour } from '../../kit/chart-style';
import { useSheet } from '../../kit/sheet';
import { messageOf } from '../../kit/api';
import { clock } from '../../state/pointer';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';

Chart.register(LineController, LineElement, LinearScale, PointElement);

const AXES = ['x', 'y', 'z'] as const;

/** Axes are told apart by their strokes, as the notches on the stage tell them apart. */
const DASHES: Readonly<Record<(typeof AXES)[number], number[]>> = { x: [], y: [6, 3], z: [1.5, 3] };

interface Asked {
  readonly node: number;
  readonly clip: number;
  /** Name under which another character lends it. */
  readonly from?: string;
}

/** What the worker samples of a bone over a clip; null until it is there. */
function useTurns({ node, clip, from }: Asked): TurnsOverTime | null {
  const revision = useDesk((state) => state.revision);
  const [turns, setTurns] = useState<TurnsOverTime | null>(null);
  useEffect(() => {
    let isCurrent = true;
    void deskWorker()
      .turnsOver(node, clip, from)
      .then(
        (sampled) => isCurrent && setTurns(sampled),
        (error: unknown) => isCurrent && setDesk({ error: messageOf(error) }),
      );
    return () => {
      isCurrent = false;
    };
  }, [revision, node, clip, from]);
  return turns;
}

/** The line of the moment that is shown. */
const momentLine: Plugin<'line'> = {
  id: 'moment',
  afterDatasetsDraw({ ctx, scales, chartArea: { top, bottom } }) {
    const x = scales.x.getPixelForValue(clock.value?.time ?? 0);
    ctx.save();
    ctx.strokeStyle = colour('damson');
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    ctx.moveTo(x, top);
    ctx.lineTo(x, bottom);
    ctx.stroke();
    ctx.restore();
  },
};

function lineOf({ times, degrees }: TurnsOverTime, k: number): ChartDataset<'line'> {
  return {
    label: AXES[k],
    data: Array.from(times, (time, i) => ({ x: time, y: degrees[i * 3 + k] })),
    borderColor: colour('ink'),
    borderDash: DASHES[AXES[k]],
    borderWidth: 1.4,
    pointRadius: 0,
  };
}

function chartOf(turns: TurnsOverTime, onTime: (time: number) => void): ChartConfiguration<'line'> {
  const axis = {
    border: { display: false },
    grid: { color: colour('rule') },
  };
  const ticks = { color: colour('soft'), font: { family: CHART_FONT, size: 11 } };
  return {
    type: 'line',
    data: { datasets: AXES.map((_, k) => lineOf(turns, k)) },
    options: {
      animation: false,
      events: ['click'],
      onClick: ({ x }, _elements, chart) => {
        const time = x === null ? Number.NaN : Number(chart.scales.x.getValueForPixel(x));
        const end = turns.times[turns.times.length - 1];
        if (Number.isFinite(time)) onTime(Math.min(end, Math.max(0, time)));
      },
      responsive: true,
      maintainAspectRatio: false,
      scales: {
        x: {
          ...axis,
          type: 'linear',
          min: 0,
          max: turns.times[turns.times.length - 1],
          ticks: { ...ticks, maxTicksLimit: 9, callback: (value) => `${Number(value)} s` },
        },
        y: {
          ...axis,
          grace: '8%',
          ticks: { ...ticks, maxTicksLimit: 5, callback: (value) => `${Number(value)}°` },
        },
      },
    },
    plugins: [momentLine],
  };
}

/** The range of every axis in words, for who does not see the chart. */
function rangesOf({ degrees }: TurnsOverTime): string {
  const words = AXES.map((axis, k) => {
    const values = degrees.filter((_, i) => i % 3 === k);
    return `${axis} ${Math.round(Math.min(...values))}° to ${Math.round(Math.max(...values))}°`;
  });
  return words.join(', ');
}

/** The turn of a bone over a clip; a press goes to that moment. */
export function TurnChart({
  onTime,
  ...asked
}: Asked & {
  /** Told of the moment that was pressed, seconds. */
  onTime: (time: number) => void;
}) {
  const turns = useTurns(asked);
  const name = useDesk((state) => state.character?.nodes[asked.node]?.name ?? '');
  const sheet = useSheet();
  const canvas = useRef<HTMLCanvasElement>(null);
  const go = useRef(onTime);
  useEffect(() => {
    go.current = onTime;
  }, [onTime]);
  useEffect(() => {
    if (!canvas.current || !turns) return;
    const chart = new Chart(
      canvas.current,
      chartOf(turns, (time) => go.current(time)),
    );
    const stop = clock.listen(() => chart.draw());
    return () => {
      stop();
      chart.destroy();
    };
  }, [turns, sheet]);
  if (!turns) return null;
  return (
    <figure className="mt-2 flex items-stretch gap-3">
      <figcaption className="w-[150px] shrink-0 text-[12.5px] leading-snug text-soft">
        <span className="mono block text-ink [overflow-wrap:anywhere]">{name}</span>
        its turn about its own axes
        <span className="mono block whitespace-nowrap">x —— y – – z ···</span>
      </figcaption>
      <div
        role="img"
        aria-label={`Turn of ${name} over the clip: ${rangesOf(turns)}`}
        className="relative h-[84px] min-w-0 flex-1 cursor-pointer"
      >
        <canvas ref={canvas} aria-hidden />
      </div>
    </figure>
  );
}
