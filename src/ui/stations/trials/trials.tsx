'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import { Pause, Play, RotateCcw } from 'lucide-react';
import { decompose, quatAbout, quatMultiply as multiply, quatRotate } from '@/core/geometry/matrix';
import { restWorld } from '@/core/character/hierarchy';
import { Button } from '../../kit/button';
import { deskWorker, useDesk } from '../../desk/store';
import type { FigureBone } from '../../worker/figure';

/** The character in motion: its clips, or the chosen bone turned about its own three axes. */
export function Trials() {
  const { character, figure, stage, bone } = useDesk();
  const [clips, setClips] = useState<{ name: string; seconds: number }[]>([]);
  const [clip, setClip] = useState(0);
  const [time, setTime] = useState(0);
  const [playing, setPlaying] = useState(false);
  const [turn, setTurn] = useState([0, 0, 0]);
  const asked = useRef(0);
  const waiting = useRef(false);
  const moment = useRef(0);
  useEffect(() => {
    moment.current = time;
  }, [time]);

  useEffect(() => {
    void deskWorker().clips().then(setClips);
  }, [character]);
  const show = useCallback(
    async (what: Parameters<ReturnType<typeof deskWorker>['pose']>[0]) => {
      const mine = ++asked.current;
      waiting.current = true;
      const { world, meshes } = await deskWorker().pose(what);
      waiting.current = false;
      if (mine !== asked.current || !figure || !character) return;
      const rest = restWorld(character.nodes);
      const bones = figure.bones.map((b): FigureBone => carried(b, rest, world));
      stage?.pose(new Map(meshes.map((m) => [m.node, m.points])), bones);
    },
    [figure, character, stage],
  );
  useEffect(
    () => () => {
      void show(null);
    },
    [show],
  );
  useEffect(() => {
    if (!playing || !clips[clip]) return;
    let frame = 0;
    let last = performance.now();
    let t = moment.current;
    const tick = (now: number) => {
      t = (t + (now - last) / 1000) % Math.max(0.01, clips[clip].seconds);
      last = now;
      if (!waiting.current) {
        setTime(t);
        void show({ clip, time: t });
      }
      frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [playing, clip, clips, show]);
  const rest = () => {
    setPlaying(false);
    setTurn([0, 0, 0]);
    setTime(0);
    void show(null);
  };
  const turned = (axis: number, degrees: number) => {
    if (!character || bone < 0) return;
    const next = turn.map((x, k) => (k === axis ? degrees : x));
    setTurn(next);
    setPlaying(false);
    const own = decompose(restWorld(character.nodes), bone * 16).rotation;
    let q: readonly number[] = [0, 0, 0, 1];
    next.forEach((d, k) => {
      const a = quatRotate(own, [Number(k === 0), Number(k === 1), Number(k === 2)]);
      const r = quatAbout(a, (d * Math.PI) / 180);
      q = multiply(r, q);
    });
    void show({ bone, turn: q });
  };
  return (
    <section aria-label="Motion" className="shrink-0 border-t border-rule bg-sheet px-4 py-3">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        {clips.length > 0 ? (
          <div className="flex items-center gap-3">
            <Button disabled={!clips[clip]} onClick={() => setPlaying((p) => !p)}>
              {playing ? <Pause size={14} /> : <Play size={14} />}
              {playing ? 'Hold' : 'Play'}
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
              max={clips[clip]?.seconds ?? 1}
              step={0.01}
              value={time}
              onChange={(e) => {
                setPlaying(false);
                setTime(Number(e.target.value));
                void show({ clip, time: Number(e.target.value) });
              }}
              className="w-44 accent-[var(--leaf)]"
            />
            <span className="mono w-14 text-right">{time.toFixed(2)} s</span>
          </div>
        ) : (
          <p className="text-soft">This character brought no clips.</p>
        )}
        <div className="flex items-center gap-3" aria-label="Turn the chosen bone">
          <span className="text-[13px] text-soft">
            {bone >= 0 && character ? (
              <>
                turn <span className="mono text-ink">{character.nodes[bone].name}</span>
              </>
            ) : (
              'choose a bone to turn it'
            )}
          </span>
          {['x', 'y', 'z'].map((a, k) => (
            <label key={a} className="flex items-center gap-1 text-[13px]">
              {a}
              <input
                type="range"
                disabled={bone < 0}
                aria-label={`About its ${a} axis, degrees`}
                min={-120}
                max={120}
                value={turn[k]}
                onChange={(e) => turned(k, Number(e.target.value))}
                className="w-20 accent-[var(--leaf)]"
              />
              <span className="mono w-10 text-right">{turn[k]}°</span>
            </label>
          ))}
        </div>
        <Button onClick={rest}>
          <RotateCcw size={14} />
          Back to rest
        </Button>
      </div>
    </section>
  );
}

/** A twig carried from its rest to a pose by its node's own motion. */
function carried(b: FigureBone, rest: Float64Array, world: Float64Array): FigureBone {
  const r = decompose(rest, b.node * 16);
  const w = decompose(world, b.node * 16);
  const q = multiply(w.rotation, [-r.rotation[0], -r.rotation[1], -r.rotation[2], r.rotation[3]]);
  const d = quatRotate(q, [b.to[0] - b.from[0], b.to[1] - b.from[1], b.to[2] - b.from[2]]);
  return {
    ...b,
    from: w.translation,
    to: w.translation.map((x, k) => x + d[k]),
    across: quatRotate(q, b.across),
  };
}
