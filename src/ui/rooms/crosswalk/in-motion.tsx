'use client';

import { useCallback, useEffect, useState } from 'react';
import { fineUnit } from '@/core/contracts/units';
import { Chip } from '../../kit/button';
import { MiddleCut } from '../../kit/middle-cut';
import { Player, useClips } from '../../parts/player';
import { TurnSliders, reachOf } from '../../parts/turn-sliders';
import { useDesk } from '../../state/store';
import { shortLength } from './pair-row';
import { backToRest, showClip, showTurn } from './shown-pose';
import { type RemapTrial, useCrosswalkSession } from './session';

/** Both figures in motion: the chosen bone turned on either side, or a clip played on both. */
export function BothInMotion({ trial }: { trial: RemapTrial }) {
  return <Moving key={trial.figure?.bones.length} trial={trial} />;
}

const REST = [0, 0, 0];

function Moving({ trial }: { trial: RemapTrial }) {
  const clips = useClips();
  const [side, setSide] = useState<'source' | 'target'>('source');
  const [turn, setTurn] = useState<readonly number[]>(REST);
  const [held, setHeld] = useState<{ clip: number; time: number } | null>(null);
  const isPosed = useCrosswalkSession((session) => session.both !== null);
  const { node, name } = useTurned(side, trial);
  const mine = useDesk((state) => state.figure);
  const most = reachOf(side === 'source' ? mine : trial.figure, node);
  useEffect(() => setTurn(REST), [node]);
  useEffect(() => {
    if (isPosed) return;
    setTurn(REST);
    setHeld(null);
  }, [isPosed]);
  useEffect(() => backToRest, []);
  const play = useCallback((clip: number, time: number) => showClip(clip, time), []);
  const hold = (clip: number, time: number) => {
    setHeld({ clip, time });
    void showClip(clip, time);
  };
  const turnTo = (next: readonly number[]) => {
    setHeld(null);
    setTurn(next);
    void showTurn({ side, node, degrees: next });
  };
  return (
    <div className="flex h-full flex-col gap-2 overflow-y-auto text-[13px]">
      <div
        className="flex flex-wrap items-center gap-x-3 gap-y-1"
        role="group"
        aria-label="Turn the chosen bone"
      >
        <span className="flex gap-1" role="group" aria-label="On which figure">
          <Chip on={side === 'source'} className="!h-6" onClick={() => setSide('source')}>
            Left
          </Chip>
          <Chip on={side === 'target'} className="!h-6" onClick={() => setSide('target')}>
            Right
          </Chip>
        </span>
        {name === undefined ? (
          <span className="text-soft">choose a pair to turn its bone</span>
        ) : (
          <MiddleCut text={name} className="mono" />
        )}
      </div>
      <div className="flex flex-wrap items-center gap-x-3">
        <TurnSliders turn={turn} most={most} disabled={node < 0} onTurn={turnTo} />
      </div>
      {clips.length > 0 ? (
        <Player clips={clips} moment={held} hold={hold} play={play} />
      ) : (
        <p className="text-soft">This character brought no clips.</p>
      )}
      <Apart name={name} />
    </div>
  );
}

/** The node that is turned: the chosen bone on the left, or its counterpart on the right. */
function useTurned(side: 'source' | 'target', trial: RemapTrial): { node: number; name?: string } {
  const bone = useCrosswalkSession((session) => session.source?.bones[session.chosen]);
  const theirs = useCrosswalkSession((session) => {
    if (session.chosenTarget >= 0) return session.skeleton?.bones[session.chosenTarget]?.name;
    return session.crosswalk?.[session.chosen]?.kind === 'keep'
      ? session.source?.bones[session.chosen].name
      : undefined;
  });
  if (side === 'source') return { node: bone?.node ?? -1, name: bone?.name };
  return { node: trial.figure?.bones.find((bone) => bone.name === theirs)?.node ?? -1, name: theirs };
}

/** How far the two lie apart as they stand. */
function Apart({ name }: { name: string | undefined }) {
  const both = useCrosswalkSession((session) => session.both);
  const { proofTolerance, unit: given } = useDesk((state) => state.brief);
  const unit = fineUnit(given);
  if (!both) return null;
  return (
    <p role="status">
      <span className={both.most > proofTolerance ? 'text-stops' : 'text-fine'}>
        {shortLength(both.most, unit)} apart
      </span>{' '}
      <span className="text-soft">
        at the farthest point as they stand now; “Differences” shows where.
        {both.isAlone && name ? ` Nothing on the other side goes with ${name} by itself.` : ''}
      </span>
    </p>
  );
}
