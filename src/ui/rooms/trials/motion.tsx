'use client';

import { Pause, Play, RotateCcw } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { restWorld } from '@/core/character/hierarchy';
import { decompose, quatAbout, quatMultiply, quatRotate } from '@/core/geometry/matrix';
import { Button } from '../../kit/button';
import { MiddleCut } from '../../kit/middle-cut';
import { Asking } from '../../state/asking';
import { posing } from '../../state/pointer';
import { desk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import type { Trial } from '../../worker/desk.worker';

interface ClipEntry {
  readonly name: string;
  readonly seconds: number;
}

const AXES = ['x', 'y', 'z'] as const;

/** Farthest that a slider turns a bone, degrees. */
const MOST = 120;

const asking = new Asking();

/**
 * Shows a moment of a motion. A late answer, or one for a figure that is not on the desk any more, is
 * dropped.
 */
async function showTrial(trial: Trial): Promise<void> {
  const isCurrent = asking.begin();
  const { figure } = desk();
  const pose = await deskWorker().pose(trial);
  if (isCurrent() && figure && desk().figure === figure) posing.set({ figure, pose });
}

function showRest(): void {
  asking.drop();
  const { figure } = desk();
  posing.set(figure && { figure, pose: null });
}

/** The clips of the character on the desk. */
function useClips(): readonly ClipEntry[] {
  const revision = useDesk((s) => s.revision);
  const [clips, setClips] = useState<readonly ClipEntry[]>([]);
  useEffect(() => {
    if (!revision) return;
    let isOpen = true;
    void deskWorker()
      .clips()
      .then((found) => isOpen && setClips(found));
    return () => {
      isOpen = false;
    };
  }, [revision]);
  return clips;
}

/** The character in motion: its clips, or the chosen bone turned about its own three axes. */
export function Motion() {
  // Another revision begins at rest.
  const revision = useDesk((s) => s.revision);
  return <Trying key={revision} />;
}

function Trying() {
  const clips = useClips();
  const [turn, setTurn] = useState<readonly number[]>([0, 0, 0]);
  const [isPlaying, setPlaying] = useState(false);
  const [time, setTime] = useState(0);
  useEffect(() => showRest, []);
  const rest = () => {
    setPlaying(false);
    setTurn([0, 0, 0]);
    setTime(0);
    showRest();
  };
  const player = { time, setTime, isPlaying, setPlaying };
  return (
    <section aria-label="Motion" className="shrink-0 border-t border-rule bg-sheet px-4 py-3">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        {clips.length > 0 ? (
          <Player clips={clips} {...player} />
        ) : (
          <p className="text-soft">This character brought no clips.</p>
        )}
        <Turning turn={turn} setTurn={setTurn} onTurn={() => setPlaying(false)} />
        <Button onClick={rest}>
          <RotateCcw size={14} />
          Back to rest
        </Button>
      </div>
    </section>
  );
}

interface PlayerProps {
  clips: readonly ClipEntry[];
  time: number;
  setTime: (time: number) => void;
  isPlaying: boolean;
  setPlaying: (isPlaying: boolean) => void;
}

function Player({ clips, time, setTime, isPlaying, setPlaying }: PlayerProps) {
  const [clip, setClip] = useState(0);
  const { seconds } = clips[clip];
  usePlaying(isPlaying, clip, seconds, time, setTime);
  const goTo = (moment: number) => {
    setPlaying(false);
    setTime(moment);
    void showTrial({ clip, time: moment });
  };
  return (
    <div className="flex items-center gap-3">
      <Button onClick={() => setPlaying(!isPlaying)}>
        {isPlaying ? <Pause size={14} /> : <Play size={14} />}
        {isPlaying ? 'Hold' : 'Play'}
      </Button>
      <select
        aria-label="Clip"
        value={clip}
        onChange={(e) => setClip(Number(e.target.value))}
        className="h-8 rounded-[7px] border border-rule bg-sheet px-2"
      >
        {clips.map((c, i) => (
          <option key={i} value={i}>
            {c.name}
          </option>
        ))}
      </select>
      <input
        type="range"
        aria-label="Moment of the clip"
        min={0}
        max={seconds}
        step={0.01}
        value={time}
        onChange={(e) => goTo(Number(e.target.value))}
        className="w-44 accent-[var(--leaf)]"
      />
      <span className="mono w-14 text-right">{time.toFixed(2)} s</span>
    </div>
  );
}

/** Plays a clip from where it is held, as fast as poses come. */
function usePlaying(
  isPlaying: boolean,
  clip: number,
  seconds: number,
  time: number,
  setTime: (time: number) => void,
): void {
  const moment = useRef(time);
  useEffect(() => {
    moment.current = time;
  }, [time]);
  const play = useCallback(
    (isOn: () => boolean) => {
      let last = performance.now();
      let isWaiting = false;
      const tick = (now: number) => {
        if (!isOn()) return;
        requestAnimationFrame(tick);
        if (isWaiting) return;
        const next = (moment.current + (now - last) / 1000) % Math.max(0.01, seconds);
        last = now;
        isWaiting = true;
        setTime(next);
        void showTrial({ clip, time: next }).finally(() => {
          isWaiting = false;
        });
      };
      requestAnimationFrame(tick);
    },
    [clip, seconds, setTime],
  );
  useEffect(() => {
    if (!isPlaying) return;
    let isOn = true;
    play(() => isOn);
    return () => {
      isOn = false;
    };
  }, [isPlaying, play]);
}

/** A turn about a bone's own three axes, degrees, as a quaternion in the world. */
function turnInWorld(bone: number, turn: readonly number[]): readonly number[] {
  const { character } = desk();
  if (!character) return [0, 0, 0, 1];
  const own = decompose(restWorld(character.nodes), bone * 16).rotation;
  return turn.reduce<readonly number[]>(
    (q, degrees, axis) => {
      const about = quatRotate(own, [Number(axis === 0), Number(axis === 1), Number(axis === 2)]);
      return quatMultiply(quatAbout(about, (degrees * Math.PI) / 180), q);
    },
    [0, 0, 0, 1],
  );
}

function Turning({
  turn,
  setTurn,
  onTurn,
}: {
  turn: readonly number[];
  setTurn: (turn: readonly number[]) => void;
  onTurn: () => void;
}) {
  const bone = useDesk((s) => s.bone);
  const name = useDesk((s) => s.character?.nodes[s.bone]?.name);
  const turnTo = (axis: number, degrees: number) => {
    const next = turn.map((x, k) => (k === axis ? degrees : x));
    setTurn(next);
    onTurn();
    void showTrial({ bone, turn: turnInWorld(bone, next) });
  };
  return (
    <div className="flex min-w-0 items-center gap-3" role="group" aria-label="Turn the chosen bone">
      {name === undefined ? (
        <span className="text-[13px] text-soft">choose a bone to turn it</span>
      ) : (
        <span className="flex min-w-0 gap-1 text-[13px] text-soft">
          turn <MiddleCut text={name} className="mono text-ink" />
        </span>
      )}
      {AXES.map((axis, k) => (
        <label key={axis} className="flex items-center gap-1 text-[13px]">
          {axis}
          <input
            type="range"
            disabled={bone < 0}
            aria-label={`About its ${axis} axis, degrees`}
            min={-MOST}
            max={MOST}
            value={turn[k]}
            onChange={(e) => turnTo(k, Number(e.target.value))}
            className="w-20 accent-[var(--leaf)]"
          />
          <span className="mono w-10 text-right">{turn[k]}°</span>
        </label>
      ))}
    </div>
  );
}
