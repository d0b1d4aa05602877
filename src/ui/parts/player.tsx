'use client';

import { Pause, Play } from 'lucide-react';
import { type RefObject, useCallback, useEffect, useEffectEvent, useRef, useState } from 'react';
import { Button } from '../kit/button';
import { useDesk } from '../state/store';
import { deskWorker } from '../state/worker';

interface ClipEntry {
  readonly name: string;
  readonly seconds: number;
}

/** The clips of the character on the desk. */
export function useClips(): readonly ClipEntry[] {
  const revision = useDesk((state) => state.revision);
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
  /** The moment that is held; null where the figure does not stand at one of a clip. */
  moment: { readonly clip: number; readonly time: number } | null;
  /** Told before another moment is gone to or played from: all until it is held is taken back together. */
  onBegin?: () => void;
  /** Holds a moment. */
  hold: (clip: number, time: number) => void;
  /** Told of every moment that is shown. */
  onTime?: (clip: number, time: number) => void;
  /** Shows a moment while a clip plays, once a frame; the next comes when it is shown. */
  play: (clip: number, time: number) => Promise<void>;
}

/** Clips, played or held at a moment. What follows the clock is written past React. */
export function Player({ clips, moment, onBegin, hold, onTime, play }: PlayerProps) {
  const [clip, setClip] = useState(moment?.clip ?? 0);
  const [isPlaying, setPlaying] = useState(false);
  // Where the figure was put into another clip, by a finding or a kept pose, the player goes along.
  const [followed, setFollowed] = useState(clip);
  if (moment && moment.clip !== followed) {
    setFollowed(moment.clip);
    setClip(moment.clip);
    setPlaying(false);
  }
  const slider = useRef<HTMLInputElement>(null);
  const clock = useRef<HTMLSpanElement>(null);
  const time = useRef(0);
  const { seconds } = clips[Math.min(clip, clips.length - 1)];
  const tell = useCallback(
    (now: number) => {
      time.current = now;
      if (slider.current) slider.current.value = String(now);
      if (clock.current) clock.current.textContent = `${now.toFixed(2)} s`;
      onTime?.(clip, now);
    },
    [clip, onTime],
  );
  const held = moment?.clip === clip ? moment.time : 0;
  // What was taken back, or put back to rest, ends the playing, and is what the slider shows.
  useEffect(() => {
    if (moment && held === time.current) return;
    setPlaying(false);
    tell(held);
  }, [moment, held, tell]);
  // Who goes while it plays leaves the figure as it stands.
  const holdLast = useEffectEvent(() => {
    if (isPlaying) hold(clip, time.current);
  });
  useEffect(() => () => holdLast(), []);
  usePlaying(
    isPlaying,
    seconds,
    time,
    tell,
    useCallback((now: number) => play(clip, now), [clip, play]),
  );
  const toggle = () => {
    // Held where it begins as well: what plays is not at rest.
    if (!isPlaying) onBegin?.();
    hold(clip, time.current);
    setPlaying(!isPlaying);
  };
  return (
    <div className="flex items-center gap-3">
      <Button onClick={toggle}>
        {isPlaying ? <Pause size={14} /> : <Play size={14} />}
        {isPlaying ? 'Hold' : 'Play'}
      </Button>
      <select
        aria-label="Clip"
        value={clip}
        onChange={(event) => {
          setPlaying(false);
          setClip(Number(event.target.value));
        }}
        className="h-8 rounded-[7px] border border-rule bg-sheet px-2"
      >
        {clips.map(({ name }, i) => (
          <option key={i} value={i}>
            {name}
          </option>
        ))}
      </select>
      <input
        ref={slider}
        type="range"
        aria-label="Moment of the clip"
        min={0}
        max={seconds}
        step={0.01}
        defaultValue={0}
        onPointerDown={onBegin}
        onKeyDown={(event) => !event.repeat && onBegin?.()}
        onChange={(event) => {
          setPlaying(false);
          tell(Number(event.target.value));
          hold(clip, time.current);
        }}
        className="w-44 accent-[var(--leaf)]"
      />
      <span ref={clock} className="mono w-14 text-right">
        0.00 s
      </span>
    </div>
  );
}

/** Plays from where it is held, as fast as poses come. */
function usePlaying(
  isPlaying: boolean,
  seconds: number,
  time: RefObject<number>,
  tell: (now: number) => void,
  play: (now: number) => Promise<void>,
): void {
  useEffect(() => {
    if (!isPlaying) return;
    let isOn = true;
    let last = performance.now();
    let isWaiting = false;
    const tick = (now: number) => {
      if (!isOn) return;
      requestAnimationFrame(tick);
      if (isWaiting) return;
      const next = (time.current + (now - last) / 1000) % Math.max(0.01, seconds);
      last = now;
      isWaiting = true;
      tell(next);
      void play(next).finally(() => {
        isWaiting = false;
      });
    };
    requestAnimationFrame(tick);
    return () => {
      isOn = false;
    };
  }, [isPlaying, seconds, time, tell, play]);
}
