'use client';

/** The volume that a joint keeps over the angle of a motion: skinned linearly and by dual quaternions; a press stands there. */
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
import type { SkinningMethod } from '@/core/geometry/skinning';
import type { TrialLimits } from '@/core/contracts/trials';
import type { TrialCurve, MotionFigures } from '@/core/rooms/trials/rows';
import { messageOf } from '../../kit/api';
import { CHART_FONT, colour } from '../../kit/chart-style';
import { useSheet } from '../../kit/sheet';
import { desk, setDesk, useDesk } from '../../state/store';
import { standInMotion } from '../../state/trials';
import { solveWorker } from '../../state/worker';
import { TwistChart } from './twist-chart';

Chart.register(LineController, LineElement, LinearScale, PointElement);

/** The curve of a motion; null until it is there. */
function useCurve({ node, motion }: MotionFigures): TrialCurve | null {
  const revision = useDesk((state) => state.revision);
  const [curve, setCurve] = useState<TrialCurve | null>(null);
  useEffect(() => {
    let isCurrent = true;
    const { character, brief } = desk();
    if (character)
      solveWorker(character)
        .trialCurve(node, motion, brief)
        .then((made) => isCurrent && setCurve(made))
        .catch((error: unknown) => isCurrent && setDesk({ error: messageOf(error) }));
    return () => {
      isCurrent = false;
    };
  }, [revision, node, motion]);
  return curve;
}

/** What lies below the limit of the brief, and where the figure stands. */
const ground = (limit: number, degrees: () => number): Plugin<'line'> => ({
  id: 'ground',
  beforeDatasetsDraw({ ctx, scales, chartArea: { left, right, top, bottom } }) {
    const at = Math.min(bottom, Math.max(top, scales.y.getPixelForValue(limit * 100)));
    ctx.save();
    ctx.globalAlpha = 0.1;
    ctx.fillStyle = colour('stops');
    ctx.fillRect(left, at, right - left, bottom - at);
    ctx.globalAlpha = 1;
    ctx.strokeStyle = colour('stops');
    ctx.setLineDash([3, 3]);
    ctx.beginPath();
    ctx.moveTo(left, at);
    ctx.lineTo(right, at);
    ctx.stroke();
    ctx.setLineDash([]);
    ctx.strokeStyle = colour('damson');
    ctx.lineWidth = 1.5;
    const x = scales.x.getPixelForValue(degrees());
    ctx.beginPath();
    ctx.moveTo(x, top);
    ctx.lineTo(x, bottom);
    ctx.stroke();
    ctx.restore();
  },
});

function line(
  label: string,
  degrees: readonly number[],
  shares: readonly (number | null)[],
  look: Partial<ChartDataset<'line'>>,
): ChartDataset<'line'> {
  return {
    label,
    data: degrees.flatMap((x, i) => {
      const share = shares[i];
      return share === null ? [] : [{ x, y: share * 100 }];
    }),
    borderWidth: 1.6,
    pointRadius: 0,
    ...look,
  };
}

function chartOf(
  { degrees, linear, dual }: TrialCurve,
  limit: number,
  at: () => number,
  onDegrees: (degrees: number) => void,
): ChartConfiguration<'line'> {
  const ticks = { color: colour('soft'), font: { family: CHART_FONT, size: 11 } };
  const lowest = Math.min(1, limit, ...[...linear, ...dual].filter((share) => share !== null));
  return {
    type: 'line',
    data: {
      datasets: [
        line('linear', degrees, linear, { borderColor: colour('ink') }),
        line('dual quaternions', degrees, dual, { borderColor: colour('leaf'), borderDash: [5, 3] }),
      ],
    },
    options: {
      animation: false,
      events: ['click'],
      onClick: ({ x }, _elements, chart) => {
        const value = x === null ? Number.NaN : Number(chart.scales.x.getValueForPixel(x));
        const [start, end] = [degrees[0], degrees[degrees.length - 1]];
        if (Number.isFinite(value)) onDegrees(Math.min(end, Math.max(start, value)));
      },
      responsive: true,
      maintainAspectRatio: false,
      scales: {
        x: {
          type: 'linear',
          min: degrees[0],
          max: degrees[degrees.length - 1],
          grid: { display: false },
          border: { color: colour('rule') },
          ticks: { ...ticks, maxTicksLimit: 6, callback: (value) => `${Math.round(Number(value))}°` },
        },
        y: {
          type: 'linear',
          min: Math.floor(lowest * 10 - 1) * 10,
          suggestedMax: 105,
          border: { display: false },
          grid: { color: colour('rule') },
          ticks: { ...ticks, maxTicksLimit: 5, callback: (value) => `${Number(value)} %` },
        },
      },
    },
    plugins: [ground(limit, at)],
  };
}

const percentAt = (shares: readonly (number | null)[]): string => {
  const last = shares[shares.length - 1];
  return last === null ? 'not told' : `${Math.round(last * 100)} %`;
};

/** The chart of one motion, with the angle to be set beside it. */
export function AngleChart({
  row,
  limits,
  onDegrees,
}: {
  row: MotionFigures;
  limits: TrialLimits;
  /** Told where the figure stands now, degrees. */
  onDegrees: (degrees: number) => void;
}) {
  const curve = useCurve(row);
  const sheet = useSheet();
  const canvas = useRef<HTMLCanvasElement>(null);
  const chart = useRef<Chart<'line'> | null>(null);
  const stands = useRef(row.degrees);
  const [degrees, setDegrees] = useState(row.degrees);
  const go = useRef((to: number) => {
    stands.current = to;
    setDegrees(to);
    onDegrees(to);
    void standInMotion(row.node, row.motion, to);
  });
  useEffect(() => {
    chart.current?.draw();
  }, [degrees]);
  useEffect(() => {
    if (!canvas.current || !curve) return;
    const made = new Chart(
      canvas.current,
      chartOf(
        curve,
        limits.volume,
        () => stands.current,
        (to) => go.current(to),
      ),
    );
    chart.current = made;
    return () => {
      chart.current = null;
      made.destroy();
    };
  }, [curve, limits, sheet]);
  const ofEngine = (method: SkinningMethod) => (limits.skinning === method ? ', as the engine skins' : '');
  if (!curve) return <p className="mt-2 text-[13px] text-soft">drawing …</p>;
  const hasVolume = curve.linear.some((share) => share !== null);
  return (
    <figure className="mt-2">
      {hasVolume ? (
        <div
          role="img"
          aria-label={`Volume kept at ${row.bone}, ${row.motion}: at the end ${percentAt(curve.linear)} linearly, ${percentAt(curve.dual)} by dual quaternions`}
          className="relative h-[140px] cursor-pointer"
        >
          <canvas ref={canvas} aria-hidden />
        </div>
      ) : (
        <p className="text-[13px] text-soft">
          No piece of limb lies about this joint whose volume could be told; stretch and the others stand
          above.
        </p>
      )}
      <figcaption className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-[12px] text-soft">
        {hasVolume && (
          <>
            <span>
              <span className="mono text-ink">——</span> linear{ofEngine('linear')}
            </span>
            <span>
              <span className="mono text-leaf">– –</span> dual quaternions{ofEngine('dual-quaternion')}
            </span>
          </>
        )}
        <label className="flex flex-1 items-center gap-2">
          angle
          <input
            type="range"
            min={Math.round(Math.min(row.from, row.to))}
            max={Math.round(Math.max(row.from, row.to))}
            value={Math.round(degrees)}
            onChange={(event) => go.current(Number(event.target.value))}
            className="min-w-[80px] flex-1 accent-[var(--leaf)]"
          />
          <span className="mono w-10 text-right text-ink">{Math.round(degrees)}°</span>
        </label>
      </figcaption>
      {curve.twist && <TwistChart twist={curve.twist} />}
    </figure>
  );
}
