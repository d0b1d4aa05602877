'use client';

import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
import { useEffect, useMemo, useRef } from 'react';
import { inUnit } from '@/core/contracts/units';
import { useDesk } from '../../desk/store';
import { useWalk } from './state';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

/** Does it still bend the same? The largest difference in every pose, against what the brief allows. */
export function ProofChart() {
  const { trial, trying } = useWalk();
  const brief = useDesk((s) => s.brief);
  const canvas = useRef<HTMLCanvasElement>(null);
  const unit = brief.unit === 'm' ? 'mm' : brief.unit;
  const allowed = inUnit(brief.proofTolerance, unit);
  const poses = useMemo(() => trial?.proof.poses ?? [], [trial]);
  const over = poses.filter((p) => p.max > brief.proofTolerance);
  useEffect(() => {
    if (!canvas.current || !trial) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string) => style.getPropertyValue(`--${name}`).trim();
    const mono = "'JetBrains Mono Variable', monospace";
    const chart = new Chart(canvas.current, {
      type: 'bar',
      data: {
        labels: poses.map((p) => p.label),
        datasets: [
          {
            data: poses.map((p) => inUnit(p.max, unit)),
            backgroundColor: poses.map((p) => colour(p.max > brief.proofTolerance ? 'stops' : 'leaf')),
            borderRadius: 1,
            barPercentage: 0.85,
            categoryPercentage: 0.9,
            minBarLength: 1.5,
          },
        ],
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        plugins: {
          tooltip: { callbacks: { label: (i) => `${Number(i.parsed.y).toPrecision(3)} ${unit}` } },
          legend: { display: false },
        },
        scales: {
          x: { display: false },
          y: {
            beginAtZero: true,
            suggestedMax: allowed * 1.25,
            border: { display: false },
            grid: { color: colour('rule') },
            ticks: {
              maxTicksLimit: 5,
              color: colour('soft'),
              font: { family: mono, size: 11 },
              callback: (v) => `${v} ${unit}`,
            },
          },
        },
      },
      plugins: [
        {
          id: 'allowed',
          afterDraw(c) {
            const y = c.scales.y.getPixelForValue(allowed);
            const { left, right } = c.chartArea;
            c.ctx.save();
            c.ctx.setLineDash([4, 3]);
            c.ctx.strokeStyle = colour('stops');
            c.ctx.beginPath();
            c.ctx.moveTo(left, y);
            c.ctx.lineTo(right, y);
            c.ctx.stroke();
            const text = `allowed ${allowed} ${unit}`;
            c.ctx.font = "11px 'Figtree Variable', sans-serif";
            c.ctx.textAlign = 'right';
            c.ctx.fillStyle = colour('sheet');
            c.ctx.fillRect(
              right - c.ctx.measureText(text).width - 8,
              y - 17,
              c.ctx.measureText(text).width + 8,
              15,
            );
            c.ctx.fillStyle = colour('stops');
            c.ctx.fillText(text, right - 4, y - 5);
            c.ctx.restore();
          },
        },
      ],
    });
    return () => chart.destroy();
  }, [trial, poses, unit, allowed, brief.proofTolerance]);
  const verdict = !trial
    ? trying
      ? 'trying …'
      : ''
    : over.length === 0
      ? `${poses.length} poses, none beyond what is allowed`
      : `${over.length} of ${poses.length} poses differ by more than allowed`;
  return (
    <div
      className="flex h-[232px] shrink-0 flex-col border-t border-rule bg-sheet px-[18px] py-3"
      data-testid="proof"
    >
      <p>
        <span className="font-semibold">Does it still bend the same?</span>{' '}
        <span className={over.length > 0 ? 'text-stops' : 'text-soft'}>{verdict}</span>
      </p>
      <div className="relative mt-1 min-h-0 flex-1">
        {trial && (
          <canvas
            ref={canvas}
            role="img"
            aria-label={`Largest difference in each of ${poses.length} poses; the largest of all is ${inUnit(trial.proof.max, unit).toPrecision(3)} ${unit}, allowed are ${allowed} ${unit}`}
          />
        )}
      </div>
    </div>
  );
}
