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
import { ChevronLeft, ChevronRight, RotateCcw } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { numberText } from '../../kit/format';
import { goToRoom } from '../../state/choose';
import { useSheet } from '../../kit/sheet';
import { type LengthUnit, inUnit } from '@/core/contracts/units';
import { IconButton } from '../../kit/icon-button';
import { useDesk } from '../../state/store';
import { showPose } from './shown-pose';
import { type RemapTrial, useWalk } from './walk';

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

type Poses = RemapTrial['proof']['poses'];

const MONO = "'JetBrains Mono Variable', monospace";

/** A colour of the house, as the page's style defines it. */
const colour = (name: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();

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
      const text = `allowed ${allowed} ${unit}`;
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

function colourOf(max: number, tolerance: number, isShown: boolean): string {
  if (isShown) return colour('damson');
  return colour(max > tolerance ? 'stops' : 'leaf');
}

function chartOf(
  poses: Poses,
  tolerance: number,
  unit: LengthUnit,
  shown: number,
): ChartConfiguration<'bar'> {
  const allowed = inUnit(tolerance, unit);
  return {
    type: 'bar',
    data: {
      labels: poses.map((p) => p.label),
      datasets: [
        {
          data: poses.map((p) => inUnit(p.max, unit)),
          backgroundColor: poses.map((p, i) => colourOf(p.max, tolerance, i === shown)),
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
            font: { family: MONO, size: 11 },
            callback: (v) => `${v} ${unit}`,
          },
        },
      },
    },
    plugins: [allowedLine(allowed, unit)],
  };
}

function verdictOf(trial: RemapTrial | null, isTrying: boolean, over: number): string {
  if (!trial) return isTrying ? 'trying …' : '';
  const count = trial.proof.poses.length;
  if (trial.proof.compared === 0) return 'it has no mesh, so there is nothing to compare';
  if (over === 0) return `${count} poses, none beyond what is allowed`;
  return `${over} of ${count} poses differ by more than allowed`;
}

/** Where the pairs are not to blame: the weights themselves had to be mended. */
function WeightsToMend({ mended }: { mended: number }) {
  return (
    <p className="text-[12.5px] text-soft">
      The pairs do none of it: at {numberText(mended)} points the move had to mend the weights (too many
      bones, or no sum of one).{' '}
      <button type="button" className="font-semibold text-leaf underline" onClick={() => goToRoom('weights')}>
        Mend them first
      </button>
    </p>
  );
}

/** Shows one pose of the proof after the other on both figures. */
function PoseSteps({ count, pose }: { count: number; pose: number }) {
  return (
    <span className="flex shrink-0" role="group" aria-label="The pose that both figures stand in">
      <IconButton
        label="The pose before"
        title="The pose before"
        disabled={pose <= 0}
        onClick={() => void showPose(pose - 1)}
      >
        <ChevronLeft size={15} />
      </IconButton>
      <IconButton
        label="The next pose"
        title="Show the figures in the next pose; press a bar for any other"
        disabled={pose + 1 >= count}
        onClick={() => void showPose(pose + 1)}
      >
        <ChevronRight size={15} />
      </IconButton>
      <IconButton
        label="Back to rest"
        title="Back to rest"
        disabled={pose < 0}
        onClick={() => void showPose(-1)}
      >
        <RotateCcw size={13} />
      </IconButton>
    </span>
  );
}

/** Does it still bend the same? The largest difference in every pose, against what the brief allows. */
export function ProofChart() {
  const trial = useWalk((s) => s.trial);
  const isTrying = useWalk((s) => s.isTrying);
  const brief = useDesk((s) => s.brief);
  const pose = useWalk((s) => s.pose);
  const sheet = useSheet();
  const canvas = useRef<HTMLCanvasElement>(null);
  const unit = brief.unit === 'm' ? 'mm' : brief.unit;
  const { proofTolerance } = brief;
  useEffect(() => {
    if (!canvas.current || !trial || trial.proof.compared === 0) return;
    const chart = new Chart(canvas.current, chartOf(trial.proof.poses, proofTolerance, unit, pose));
    return () => chart.destroy();
  }, [trial, unit, proofTolerance, pose, sheet]);
  const over = trial?.proof.poses.filter((p) => p.max > proofTolerance).length ?? 0;
  const length = (metres: number) => `${Number(inUnit(metres, unit).toPrecision(3))} ${unit}`;
  return (
    <div
      className="flex h-[238px] shrink-0 flex-col border-t border-rule bg-sheet px-[18px] py-3"
      data-testid="proof"
    >
      <div className="flex items-start gap-1">
        <p className="min-w-0 flex-1">
          <span className="font-semibold">Does it still bend the same?</span>{' '}
          <span className={over > 0 ? 'text-stops' : 'text-soft'}>{verdictOf(trial, isTrying, over)}</span>
        </p>
        {trial && <PoseSteps count={trial.proof.poses.length} pose={pose} />}
      </div>
      {trial && over > 0 && trial.proof.byPairs <= proofTolerance && (
        <WeightsToMend mended={trial.proof.mended} />
      )}
      <div className="relative mt-1 min-h-0 flex-1">
        {trial && trial.proof.compared > 0 && (
          <canvas
            ref={canvas}
            role="img"
            aria-label={`Largest difference in each of ${trial.proof.poses.length} poses; the largest of all is ${length(trial.proof.max)}, allowed are ${length(proofTolerance)}`}
          />
        )}
      </div>
    </div>
  );
}
