'use client';

import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  type ChartConfiguration,
  LinearScale,
  type Plugin,
  Tooltip,
} from 'chart.js';
import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { CHART_FONT, colour } from '../../kit/chart-style';
import { useSheet } from '../../kit/sheet';
import { type LengthUnit, inUnit, unitSign, fineUnit } from '@/core/contracts/units';
import { useDesk } from '../../state/store';
import { shortLength } from './pair-row';
import { showPose } from './shown-pose';
import { type RemapTrial, useCrosswalkSession } from './session';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

type Poses = RemapTrial['proof']['poses'];

/** The line of what the brief allows, with its word. */
function allowedLine(allowed: number, unit: LengthUnit): Plugin<'bar'> {
  return {
    id: 'allowed',
    afterDraw({ ctx, scales, chartArea: { left, right } }) {
      const y = scales.y.getPixelForValue(allowed);
      ctx.save();
      ctx.setLineDash([4, 3]);
      ctx.strokeStyle = colour('stops');
      ctx.beginPath();
      ctx.moveTo(left, y);
      ctx.lineTo(right, y);
      ctx.stroke();
      const text = `allowed ${allowed} ${unitSign(unit)}`;
      ctx.font = "11px 'Figtree Variable', sans-serif";
      ctx.textAlign = 'right';
      const { width } = ctx.measureText(text);
      ctx.fillStyle = colour('sheet');
      ctx.fillRect(right - width - 8, y - 17, width + 8, 15);
      ctx.fillStyle = colour('stops');
      ctx.fillText(text, right - 4, y - 5);
      ctx.restore();
    },
  };
}

interface Lit {
  /** The pose that both figures stand in, and the one that the keys have come to; −1 for none. */
  readonly shown: number;
  readonly marked: number;
}

function colourOf(max: number, tolerance: number, index: number, { shown, marked }: Lit): string {
  if (index === shown) return colour('damson');
  if (index === marked) return colour('ink');
  return colour(max > tolerance ? 'stops' : 'leaf');
}

function chartOf(poses: Poses, tolerance: number, unit: LengthUnit, lit: Lit): ChartConfiguration<'bar'> {
  const allowed = inUnit(tolerance, unit);
  return {
    type: 'bar',
    data: {
      labels: poses.map((pose) => pose.label),
      datasets: [
        {
          data: poses.map((pose) => inUnit(pose.max, unit)),
          backgroundColor: poses.map((pose, i) => colourOf(pose.max, tolerance, i, lit)),
          borderRadius: 1,
          barPercentage: 0.85,
          categoryPercentage: 0.9,
          minBarLength: 1.5,
        },
      ],
    },
    options: {
      animation: false,
      interaction: { mode: 'index', intersect: false },
      onClick: (_, [bar]) => void showPose(bar ? bar.index : -1),
      responsive: true,
      maintainAspectRatio: false,
      plugins: {
        tooltip: {
          callbacks: { label: (item) => `${Number(item.parsed.y).toPrecision(3)} ${unitSign(unit)}` },
        },
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
            font: { family: CHART_FONT, size: 11 },
            callback: (value) => `${value} ${unitSign(unit)}`,
          },
        },
      },
    },
    plugins: [allowedLine(allowed, unit)],
  };
}

/**
 * The largest difference in every pose of the proof, against what the brief allows. The bars are a list that can be
 * gone through by keys and heard: arrows choose a pose, Enter puts both figures into it.
 */
export function ProofChart({ trial }: { trial: RemapTrial }) {
  const pose = useCrosswalkSession((session) => session.pose);
  const { proofTolerance, unit: lengthUnit } = useDesk((state) => state.brief);
  const unit = fineUnit(lengthUnit);
  const { poses, max } = trial.proof;
  const sheet = useSheet();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [cursor, setCursor] = useState(0);
  const [hasFocus, setFocus] = useState(false);
  const at = Math.min(cursor, poses.length - 1);
  const marked = hasFocus ? at : -1;
  useEffect(() => {
    if (!canvas.current) return;
    const chart = new Chart(canvas.current, chartOf(poses, proofTolerance, unit, { shown: pose, marked }));
    return () => chart.destroy();
  }, [poses, unit, proofTolerance, pose, sheet, marked]);
  const length = (metres: number) => shortLength(metres, unit);
  const told = (pose: Poses[number]) =>
    `${pose.label}: ${length(pose.max)}${pose.max > proofTolerance ? ', more than allowed' : ''}`;
  const onKeyDown = (event: KeyboardEvent) => {
    const to = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: poses.length - 1 }[event.key];
    if (to !== undefined) setCursor(Math.max(0, Math.min(poses.length - 1, to)));
    else if (event.key === 'Enter' || event.key === ' ') void showPose(at);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      role="listbox"
      tabIndex={0}
      aria-label={`Largest difference in each of ${poses.length} poses; the largest of all is ${length(max)}, allowed are ${length(proofTolerance)}`}
      aria-activedescendant={`pose-${at}`}
      className="relative h-full"
      onKeyDown={onKeyDown}
      onFocus={() => {
        setFocus(true);
        if (pose >= 0) setCursor(pose);
      }}
      onBlur={() => setFocus(false)}
    >
      <canvas ref={canvas} aria-hidden />
      {poses.map((listed, i) => (
        <span key={i} id={`pose-${i}`} role="option" aria-selected={i === pose} className="sr-only">
          {told(listed)}
        </span>
      ))}
      {hasFocus && poses[at] && (
        <p className="pointer-events-none absolute left-14 top-0 max-w-[70%] truncate rounded bg-wash px-1.5 text-[12px]">
          {told(poses[at])}
        </p>
      )}
    </div>
  );
}
