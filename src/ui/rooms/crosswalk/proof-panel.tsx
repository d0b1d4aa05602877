'use client';

import { ChevronLeft, ChevronRight, RotateCcw } from 'lucide-react';
import { type ComponentType, useState } from 'react';
import { isRestSolved } from '@/core/rooms/crosswalk/remap';
import { Chip } from '../../kit/button';
import { numberText } from '../../kit/format';
import { IconButton } from '../../kit/icon-button';
import { goToRoom } from '../../state/choose';
import { useDesk } from '../../state/store';
import { ArrivalPanel } from './arrival';
import { BothInMotion } from './in-motion';
import { ProofChart } from './proof-chart';
import { backToRest, showPose } from './shown-pose';
import { type RemapTrial, useCrosswalkSession } from './session';
import { Worst } from './worst';

function verdictOf(trial: RemapTrial | null, isTrying: boolean, over: number): string {
  if (!trial) return isTrying ? 'trying …' : '';
  const count = trial.proof.poses.length;
  const { share } = trial;
  const on = share
    ? ` on ${numberText(share.points)} of ${numberText(share.of)} points; the others follow`
    : '';
  if (trial.proof.compared === 0) return 'it has no mesh, so there is nothing to compare';
  if (over === 0) return `${count} poses, none beyond what is allowed${on}`;
  return `${over} of ${count} poses differ by more than allowed${on}`;
}

/**
 * Where the pairs are not to blame: the mesh was bound in another pose, or the weights themselves had to be
 * mended.
 */
function NotThePairs({ mended }: { mended: number }) {
  const how = useCrosswalkSession((session) => session.how);
  if (how.mode === 'mesh')
    return (
      <p className="text-[12.5px] text-soft">
        The pairs do none of it: the mesh was bound anew in another pose, and its joints fold otherwise on the
        way back. {isRestSolved(how) && 'Its rest shape is the one that was found to fold nearest to before.'}
        {how.rest === 'posed' && how.lengths === 'kept' && 'A rest shape by example folds nearer to before.'}
      </p>
    );
  return (
    <p className="text-[12.5px] text-soft">
      The pairs do none of it: at {numberText(mended)} points the move had to mend the weights (too many
      bones, or no sum of one).{' '}
      <button type="button" className="font-semibold text-leaf underline" onClick={() => goToRoom('weights')}>
        Mend them first
      </button>
    </p>
  );
}

/** Shows one pose of the proof after the other on both figures. */
function PoseSteps({ count, pose, isPosed }: { count: number; pose: number; isPosed: boolean }) {
  return (
    <span className="flex shrink-0" role="group" aria-label="The pose that both figures stand in">
      <IconButton
        label="The pose before"
        title="The pose before"
        disabled={pose <= 0}
        onClick={() => void showPose(pose - 1)}
      >
        <ChevronLeft size={15} />
      </IconButton>
      <IconButton
        label="The next pose"
        title="Show the figures in the next pose; press a bar for any other"
        disabled={pose + 1 >= count}
        onClick={() => void showPose(pose + 1)}
      >
        <ChevronRight size={15} />
      </IconButton>
      <IconButton label="Back to rest" title="Back to rest" disabled={!isPosed} onClick={backToRest}>
        <RotateCcw size={13} />
      </IconButton>
    </span>
  );
}

interface Tab {
  readonly id: string;
  readonly word: string;
  readonly hint: string;
  readonly Body: ComponentType<{ trial: RemapTrial }>;
}

const WORST_PLACES: Tab = {
  id: 'worst',
  word: 'Worst places',
  hint: 'The points that lie farthest off, and the pairs that it is likely to come from',
  Body: Worst,
};

const TABS: readonly Tab[] = [
  { id: 'poses', word: 'Every pose', hint: 'The largest difference, pose by pose', Body: ProofChart },
  { id: 'motion', word: 'In motion', hint: 'Both figures turned by hand, or by a clip', Body: BothInMotion },
  WORST_PLACES,
  { id: 'arrival', word: 'On arrival', hint: 'As the game will hold it', Body: ArrivalPanel },
];

/** Does it still bend the same? Pose by pose, in motion, at its worst, and as the game will hold it. */
export function ProofPanel() {
  const trial = useCrosswalkSession((session) => session.trial);
  const isTrying = useCrosswalkSession((session) => session.isTrying);
  const pose = useCrosswalkSession((session) => session.pose);
  const isPosed = useCrosswalkSession((session) => session.both !== null);
  const causes = useCrosswalkSession((session) => session.causes?.length ?? 0);
  const { proofTolerance } = useDesk((state) => state.brief);
  const [tab, setTab] = useState(TABS[0]);
  const over = trial?.proof.poses.filter((pose) => pose.max > proofTolerance).length ?? 0;
  return (
    <div
      className="flex h-[238px] shrink-0 flex-col border-t border-rule bg-sheet px-[18px] py-2.5"
      data-testid="proof"
    >
      <div className="flex items-start gap-1">
        <p className="min-w-0 flex-1">
          <span className="font-semibold">Does it still bend the same?</span>{' '}
          <span className={over > 0 ? 'text-stops' : 'text-soft'}>{verdictOf(trial, isTrying, over)}</span>
          {causes > 0 && tab.id !== 'worst' && (
            <>
              {' · '}
              <button
                type="button"
                className="font-semibold text-leaf underline"
                onClick={() => setTab(WORST_PLACES)}
              >
                likely from {causes === 1 ? 'one pair' : `${causes} pairs`}
              </button>
            </>
          )}
        </p>
        {trial?.figure && <PoseSteps count={trial.proof.poses.length} pose={pose} isPosed={isPosed} />}
      </div>
      <div className="mt-1 flex flex-wrap gap-1" role="group" aria-label="How it is looked at">
        {TABS.map((otherTab) => (
          <Chip
            key={otherTab.id}
            on={otherTab === tab}
            title={otherTab.hint}
            className="!h-6 !px-2"
            onClick={() => setTab(otherTab)}
          >
            {otherTab.word}
          </Chip>
        ))}
      </div>
      {trial && over > 0 && trial.proof.byPairs <= proofTolerance && tab.id === 'poses' && (
        <NotThePairs mended={trial.proof.mended} />
      )}
      <div className="relative mt-1.5 min-h-0 flex-1">
        {trial && trial.proof.compared > 0 && (trial.figure || tab === TABS[0]) && <tab.Body trial={trial} />}
        {trial && !trial.figure && tab !== TABS[0] && (
          <p className="text-[13px] text-soft">All points are still being tried.</p>
        )}
      </div>
    </div>
  );
}
