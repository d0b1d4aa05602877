'use client';

import { useCallback, useEffect } from 'react';
import { BackToRest, KeptPoses, PoseSettings, TurnedBone } from '../../parts/pose-panel';
import { Player, useClips } from '../../parts/player';
import { borrowFrom, findLenders, useLent } from '../../state/lent';
import { clock } from '../../state/pointer';
import { beginPose, playAt, showPose, standAt } from '../../state/pose';
import { useDesk } from '../../state/store';
import { LiveFigures } from './live-figures';
import { Trying } from './trying';
import { TurnChart } from './turn-chart';

/** The character in motion: its clips or another one's, or any of its bones turned. How it stands stays when the room is left. */
export function Motion() {
  const skinning = useDesk((state) => state.brief.trials?.skinning ?? 'linear');
  useEffect(() => {
    if (skinning === 'linear') return;
    void showPose();
    // In another room, and under another brief, the figure is skinned otherwise.
    return () => void showPose();
  }, [skinning]);
  return (
    <section aria-label="Motion" className="shrink-0 border-t border-rule bg-sheet px-4 py-3">
      <Trying />
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        <Clips />
        <TurnedBone />
        <LiveFigures />
        <PoseSettings />
        <BackToRest />
        <KeptPoses />
      </div>
      <ChosenTurn />
    </section>
  );
}

/** How the chosen bone turns over the clip that the figure stands in. */
function ChosenTurn() {
  const bone = useDesk((state) => state.bone);
  const clip = useDesk((state) => state.pose.moment?.clip ?? -1);
  const from = useDesk((state) => state.pose.moment?.from);
  if (bone < 0 || clip < 0) return null;
  const goTo = (time: number) => {
    beginPose();
    standAt(clip, time, from);
  };
  return <TurnChart node={bone} clip={clip} from={from?.revision} onTime={goTo} />;
}

const tellClock = (clip: number, time: number) => clock.set({ clip, time });

function Clips() {
  const own = useClips();
  const from = useLent((lent) => lent.from);
  const theirs = useLent((lent) => lent.clips);
  const moment = useDesk((state) => state.pose.moment);
  const clips = from ? theirs : own;
  const play = useCallback((clip: number, time: number) => playAt(clip, time, from ?? undefined), [from]);
  const isOfThese = moment && moment.from?.revision === from?.revision;
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
      {clips.length > 0 ? (
        <Player
          key={from?.revision ?? ''}
          clips={clips}
          moment={isOfThese ? moment : null}
          onBegin={beginPose}
          hold={(clip, time) => standAt(clip, time, from ?? undefined)}
          play={play}
          onTime={tellClock}
        />
      ) : (
        <p className="text-soft">This character brought no clips.</p>
      )}
      <Lenders />
    </div>
  );
}

/** Whose motion is played. */
function Lenders() {
  const record = useDesk((state) => state.record?.id);
  const lenders = useLent((lent) => lent.lenders);
  const from = useLent((lent) => lent.from);
  const asked = useLent((lent) => lent.asked);
  useEffect(() => {
    void borrowFrom(null);
    void findLenders();
  }, [record]);
  if (lenders.length === 0) return null;
  return (
    <label className="flex items-center gap-1.5 text-[13px] text-soft">
      motion of
      <select
        value={(asked ?? from)?.revision ?? ''}
        disabled={asked !== null}
        onChange={(event) =>
          void borrowFrom(lenders.find(({ revision }) => revision === event.target.value) ?? null)
        }
        className="h-8 max-w-[150px] rounded-[7px] border border-rule bg-sheet px-2 text-ink"
      >
        <option value="">itself</option>
        {lenders.map(({ revision, name }) => (
          <option key={revision} value={revision}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
