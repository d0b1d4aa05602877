'use client';

import { RotateCcw } from 'lucide-react';
import { useEffect, useState } from 'react';
import { restWorld } from '@/core/character/hierarchy';
import { decompose, quatAbout, quatMultiply, quatRotate } from '@/core/geometry/matrix';
import { Button } from '../../kit/button';
import { MiddleCut } from '../../kit/middle-cut';
import { Player, useClips } from '../../parts/player';
import { TurnSliders, reachOf } from '../../parts/turn-sliders';
import { Asking } from '../../state/asking';
import { posing } from '../../state/pointer';
import { desk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import type { Trial } from '../../worker/desk.worker';

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

const showClip = (clip: number, time: number) => showTrial({ clip, time });

function showRest(): void {
  asking.drop();
  const { figure } = desk();
  posing.set(figure && { figure, pose: null });
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
          <Player clips={clips} show={showClip} {...player} />
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
  const most = useDesk((s) => reachOf(s.figure, s.bone));
  const turnTo = (next: readonly number[]) => {
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
      <TurnSliders turn={turn} most={most} disabled={bone < 0} onTurn={turnTo} />
    </div>
  );
}
