'use client';

/** How a turn of the hand is spread along the arm, ring by ring, beside an even spread. */
import {
  Chart,
  type ChartConfiguration,
  LineController,
  LineElement,
  LinearScale,
  PointElement,
} from 'chart.js';
import { useEffect, useRef } from 'react';
import type { TwistSpread } from '@/core/rooms/trials/twist-spread';
import { CHART_FONT, colour } from '../../kit/chart-style';
import { useSheet } from '../../kit/sheet';
import { useDesk } from '../../state/store';

Chart.register(LineController, LineElement, LinearScale, PointElement);

const percent = (share: number): number => Math.round(share * 100);

function chartOf({ rings, degrees }: TwistSpread): ChartConfiguration<'line'> {
  const ticks = { color: colour('soft'), font: { family: CHART_FONT, size: 11 } };
  const line = { borderWidth: 1.6, pointRadius: 0 };
  return {
    type: 'line',
    data: {
      datasets: [
        {
          ...line,
          label: 'skin',
          data: rings.map(({ along, turned }) => ({ x: percent(along), y: turned })),
          borderColor: colour('ink'),
          pointRadius: 2,
          pointBackgroundColor: colour('ink'),
        },
        {
          ...line,
          label: 'even',
          data: [
            { x: 0, y: 0 },
            { x: 100, y: degrees },
          ],
          borderColor: colour('leaf'),
          borderDash: [5, 3],
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
          min: 0,
          max: 100,
          grid: { display: false },
          border: { color: colour('rule') },
          ticks: { ...ticks, maxTicksLimit: 5, callback: (value) => `${Number(value)} %` },
        },
        y: {
          type: 'linear',
          border: { display: false },
          grid: { color: colour('rule') },
          ticks: { ...ticks, maxTicksLimit: 4, callback: (value) => `${Number(value)}°` },
        },
      },
    },
  };
}

export function TwistChart({ twist }: { twist: TwistSpread }) {
  const sheet = useSheet();
  const canvas = useRef<HTMLCanvasElement>(null);
  const mesh = useDesk((state) => state.character?.nodes[twist.node]?.name ?? '');
  useEffect(() => {
    if (!canvas.current) return;
    const made = new Chart(canvas.current, chartOf(twist));
    return () => made.destroy();
  }, [twist, sheet]);
  const words = `${Math.round(twist.off)}° off an even spread at most, ${percent(twist.at)} % of the way to the hand, on “${mesh}”`;
  return (
    <figure className="mt-3">
      <div role="img" aria-label={`Twist along the arm: ${words}`} className="relative h-[110px]">
        <canvas ref={canvas} aria-hidden />
      </div>
      <figcaption className="mt-1 text-[12px] text-soft">
        Twist along the arm, elbow to hand: <span className="mono text-ink">——</span> skin,{' '}
        <span className="mono text-leaf">– –</span> even; {words}.
      </figcaption>
    </figure>
  );
}
