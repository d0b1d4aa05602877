'use client';

import {
  BarController,
  BarElement,
  Chart,
  type ChartConfiguration,
  LinearScale,
  type Plugin,
} from 'chart.js';
import { useEffect, useRef } from 'react';
import { inUnit, unitSign } from '@/core/contracts/units';
import type { LoopFigures } from '@/core/rooms/surface/figures';
import { CHART_FONT, colour } from '../../kit/chart-style';
import { useSheet } from '../../kit/sheet';
import { useDesk } from '../../state/store';

Chart.register(BarController, BarElement, LinearScale);

/** The joint at 0, and how far to either side loops count. */
const jointLine = (reach: number): Plugin<'bar'> => ({
  id: 'joint',
  beforeDatasetsDraw({ ctx, scales, chartArea: { top, bottom } }) {
    const at = (value: number) => scales.x.getPixelForValue(value);
    ctx.save();
    ctx.fillStyle = colour('wash');
    ctx.fillRect(at(-reach), top, at(reach) - at(-reach), bottom - top);
    ctx.strokeStyle = colour('damson');
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    ctx.moveTo(at(0), top);
    ctx.lineTo(at(0), bottom);
    ctx.stroke();
    ctx.restore();
  },
});

interface Bar {
  readonly x: number;
  readonly y: number;
}

/** Where each loop lies along the limb, and how wide the way from it to the next is. */
function chartOf(along: readonly number[], reach: number, sign: string): ChartConfiguration<'bar', Bar[]> {
  const ways = along.map((x, i) => (i + 1 < along.length ? along[i + 1] - x : along[i] - along[i - 1] || 0));
  const least = Math.min(-reach, ...along);
  const most = Math.max(reach, ...along);
  const ticks = { color: colour('soft'), font: { family: CHART_FONT, size: 11 } };
  return {
    type: 'bar',
    data: {
      datasets: [
        {
          data: along.map((x, i) => ({ x, y: ways[i] })),
          backgroundColor: colour('ink'),
          barThickness: 2,
        },
      ],
    },
    options: {
      animation: false,
      events: [],
      responsive: true,
      maintainAspectRatio: false,
      scales: {
        x: {
          type: 'linear',
          min: least,
          max: most,
          grid: { display: false },
          border: { color: colour('rule') },
          ticks: {
            ...ticks,
            maxTicksLimit: 5,
            callback: (value) => `${Number(Number(value).toPrecision(2))} ${sign}`,
          },
        },
        y: {
          type: 'linear',
          min: 0,
          grid: { color: colour('rule') },
          border: { display: false },
          ticks: {
            ...ticks,
            maxTicksLimit: 3,
            callback: (value) => `${Number(Number(value).toPrecision(2))}`,
          },
        },
      },
    },
    plugins: [jointLine(reach)],
  };
}

/** The loops of a joint: a stroke where each lies along the limb, as high as it is to the next. */
export function LoopChart({ joint }: { joint: LoopFigures }) {
  const { unit } = useDesk((state) => state.brief);
  const sheet = useSheet();
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (!canvas.current) return;
    const along = joint.along.map((x) => inUnit(x, unit));
    const chart = new Chart(canvas.current, chartOf(along, inUnit(joint.reach, unit), unitSign(unit)));
    return () => chart.destroy();
  }, [joint, unit, sheet]);
  return (
    <figure>
      <div
        role="img"
        aria-label={`Loops along ${joint.bone}: ${joint.near} near the joint, ${joint.above} above and ${joint.below} below it`}
        className="relative h-[96px]"
      >
        <canvas ref={canvas} aria-hidden />
      </div>
      <figcaption className="text-[12px] text-soft">
        where each loop lies along the limb, as high as it is to the next; the line is the joint
      </figcaption>
    </figure>
  );
}
