'use client';

import { Pause, Repeat } from 'lucide-react';
import { type ReactNode, useEffect, useState } from 'react';
import { type TurnTest, UNLIKE } from '@/core/rooms/skeleton/turn-test';
import { IconButton } from '../kit/icon-button';
import { beginPose, degreesOf, turnToDegrees } from '../state/pose';
import { desk, useDesk } from '../state/store';
import { deskWorker } from '../state/worker';
import { reachOf } from './turn-sliders';

const AXES = ['x', 'y', 'z'] as const;

/** A sweep goes there, back, and as far the other way in so long, milliseconds. */
const SWEEP = 3600;

/** Farthest that a sweep goes, degrees. */
const FARTHEST = 60;

/** Degrees up to which a pair counts as mirror images. */
const ALIKE = 1;

/** A button for each axis that sweeps a bone about it; ends by itself, or when it is pressed again. */
export function useSweepButtons(bone: number): (axis: number) => ReactNode {
  const [sweeping, setSweeping] = useState<number | null>(null);
  useSweep(bone, sweeping, setSweeping);
  return (axis) => (
    <IconButton
      label={`Sweep about ${AXES[axis]}`}
      aria-pressed={sweeping === axis}
      disabled={bone < 0}
      onClick={() => setSweeping(sweeping === axis ? null : axis)}
    >
      {sweeping === axis ? <Pause size={13} /> : <Repeat size={13} />}
    </IconButton>
  );
}

/** Sweeps while an axis is named; ends where it began. */
function useSweep(bone: number, axis: number | null, setAxis: (axis: null) => void): void {
  useEffect(() => {
    if (axis === null || bone < 0) return;
    const before = degreesOf(desk(), bone);
    const most = Math.min(FARTHEST, reachOf(desk().figure, bone));
    const turn = (by: number) =>
      turnToDegrees(
        bone,
        before.map((x, k) => (k === axis ? x + by : x)),
      );
    beginPose();
    const begun = performance.now();
    let frame = requestAnimationFrame(function step(now) {
      const share = (now - begun) / SWEEP;
      if (share >= 1) {
        setAxis(null);
        return;
      }
      turn(Math.round(most * Math.sin(2 * Math.PI * share)));
      frame = requestAnimationFrame(step);
    });
    return () => {
      cancelAnimationFrame(frame);
      turn(0);
    };
  }, [bone, axis, setAxis]);
}

/** How the chosen bone and its twin turn about their own axes: whether that makes them mirror images. */
export function TwinTurns() {
  const bone = useDesk((state) => state.bone);
  const figure = useDesk((state) => state.figure);
  const nodes = useDesk((state) => state.character?.nodes);
  const [told, setTold] = useState<{ readonly bone: number; readonly test: TurnTest | null } | null>(null);
  useEffect(() => {
    if (bone < 0 || !figure) return;
    let isWanted = true;
    void deskWorker()
      .turnTest(bone)
      .then((test) => isWanted && setTold({ bone, test }));
    return () => {
      isWanted = false;
    };
  }, [bone, figure]);
  const test = told?.bone === bone ? told.test : null;
  if (!test) return null;
  return (
    <dl aria-label="Turned alike with its twin" className="flex flex-wrap gap-x-3 text-[13px]">
      <dt className="w-full text-soft">
        mirror image of <span className="mono text-ink">{nodes?.[test.twin]?.name}</span> by
      </dt>
      {test.axes.map(({ axis, way, off }) => (
        <dd key={axis} className={off > ALIKE ? 'text-worth' : ''}>
          <span className="mono">{axis}</span> {saidOf(way, off)}
        </dd>
      ))}
    </dl>
  );
}

function saidOf(way: 'same' | 'opposite', off: number): string {
  if (off > UNLIKE) return `neither turn, ${off.toFixed(0)}° off`;
  return off <= ALIKE ? `${way} turn` : `${way} turn, ${off.toFixed(1)}° off`;
}
