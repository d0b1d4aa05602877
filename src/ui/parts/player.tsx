'use client';

import { Pause, Play } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { Button } from '../kit/button';
import { useDesk } from '../state/store';
import { deskWorker } from '../state/worker';

interface ClipEntry {
  readonly name: string;
  readonly seconds: number;
}

/** The clips of the character on the desk. */
export function useClips(): readonly ClipEntry[] {
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

interface PlayerProps {
  clips: readonly ClipEntry[];
  /** Shows a moment of a clip. */
  show: (clip: number, time: number) => Promise<void>;
  time: number;
  setTime: (time: number) => void;
  isPlaying: boolean;
  setPlaying: (isPlaying: boolean) => void;
}

/** Clips, played or held at a moment. */
export function Player({ clips, show, time, setTime, isPlaying, setPlaying }: PlayerProps) {
  const [clip, setClip] = useState(0);
  const { seconds } = clips[clip];
  usePlaying(isPlaying, clip, seconds, time, setTime, show);
  const goTo = (moment: number) => {
    setPlaying(false);
    setTime(moment);
    void show(clip, moment);
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
  show: PlayerProps['show'],
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
        void show(clip, next).finally(() => {
          isWaiting = false;
        });
      };
      requestAnimationFrame(tick);
    },
    [clip, seconds, setTime, show],
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
