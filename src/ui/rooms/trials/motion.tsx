'use client';

import { BackToRest, KeptPoses, PoseSettings, TurnedBone } from '../../parts/pose-panel';
import { Player, useClips } from '../../parts/player';
import { beginPose, playAt, standAt } from '../../state/pose';
import { useDesk } from '../../state/store';

/** The character in motion: its clips, or any of its bones turned. How it stands stays when the room is left. */
export function Motion() {
  const clips = useClips();
  const moment = useDesk((state) => state.pose.moment);
  return (
    <section aria-label="Motion" className="shrink-0 border-t border-rule bg-sheet px-4 py-3">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2">
        {clips.length > 0 ? (
          <Player clips={clips} moment={moment} onBegin={beginPose} hold={standAt} play={playAt} />
        ) : (
          <p className="text-soft">This character brought no clips.</p>
        )}
        <TurnedBone />
        <PoseSettings />
        <BackToRest />
        <KeptPoses />
      </div>
    </section>
  );
}
