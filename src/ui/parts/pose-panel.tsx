'use client';

import { RotateCcw, X } from 'lucide-react';
import { useState } from 'react';
import { Button, Chip } from '../kit/button';
import { IconButton } from '../kit/icon-button';
import { MiddleCut } from '../kit/middle-cut';
import {
  backToRest,
  beginPose,
  degreesOf,
  dropPose,
  keepPose,
  setTurnAxes,
  setTwinFollows,
  strikePose,
  turnToDegrees,
} from '../state/pose';
import { type TwinFollows, isAtRest } from '../state/posed';
import { useDesk } from '../state/store';
import { TurnSliders, reachOf } from './turn-sliders';
import { TwinTurns, useSweepButtons } from './turn-test';

/** The chosen bone turned by numbers; about which axes; whether the other side goes along; back to rest. */
export function PosePanel() {
  // In Trials all of it stands below the stage.
  const isBelow = useDesk((state) => state.room === 'trials');
  if (isBelow) return null;
  return (
    <div className="flex flex-col gap-1.5">
      <TurnedBone />
      <TwinTurns />
      <PoseSettings />
      <BackToRest />
      <KeptPoses />
    </div>
  );
}

/** Poses that are kept with the character: struck, kept under a name, let go. */
export function KeptPoses() {
  const poses = useDesk((state) => state.record?.poses);
  const isResting = useDesk((state) => isAtRest(state.pose));
  const [name, setName] = useState('');
  const isTaken = poses?.some((pose) => pose.name === name.trim()) ?? false;
  const keep = async () => {
    if (await keepPose(name.trim())) setName('');
  };
  return (
    <div role="group" aria-label="Kept poses" className="flex flex-wrap items-center gap-1.5 text-[13px]">
      {poses?.map((pose) => (
        <span key={pose.id} className="flex items-center rounded-full border border-rule bg-sheet pl-2.5">
          <button
            type="button"
            className="max-w-[150px] truncate"
            title={pose.name}
            onClick={() => strikePose(pose)}
          >
            {pose.name}
          </button>
          <IconButton label={`Let go of the pose ${pose.name}`} onClick={() => void dropPose(pose.id)}>
            <X size={12} />
          </IconButton>
        </span>
      ))}
      <form
        className="flex items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (!isResting && name.trim()) void keep();
        }}
      >
        <input
          value={name}
          maxLength={80}
          aria-label="Name of the pose"
          placeholder="name of the pose"
          onChange={(event) => setName(event.target.value)}
          className="h-7 w-[130px] rounded-md border border-rule bg-sheet px-2"
        />
        <Button type="submit" small disabled={isResting || !name.trim()}>
          {isTaken ? 'Replace' : 'Keep'}
        </Button>
      </form>
    </div>
  );
}

/** Sliders and numbers of the chosen bone; they show what it is turned by, whichever bone was turned last. */
export function TurnedBone() {
  const bone = useDesk((state) => state.bone);
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  const most = useDesk((state) => reachOf(state.figure, state.bone));
  const character = useDesk((state) => state.character);
  const pose = useDesk((state) => state.pose);
  const turnAxes = useDesk((state) => state.turnAxes);
  const sweepButton = useSweepButtons(bone);
  return (
    <div
      className="flex min-w-0 flex-wrap items-center gap-x-3"
      role="group"
      aria-label="Turn the chosen bone"
    >
      {name === undefined ? (
        <span className="text-[13px] text-soft">no bone chosen</span>
      ) : (
        <span className="flex min-w-0 gap-1 text-[13px] text-soft">
          turn <MiddleCut text={name} className="mono text-ink" />
        </span>
      )}
      <TurnSliders
        turn={degreesOf({ character, pose, turnAxes }, bone)}
        most={most}
        disabled={bone < 0 || name === undefined}
        onBegin={beginPose}
        onTurn={(degrees) => turnToDegrees(bone, degrees)}
        after={sweepButton}
      />
    </div>
  );
}

const TWIN_WORDS: Readonly<Record<TwinFollows, string>> = {
  stays: 'stays',
  mirrored: 'as mirror image',
  same: 'by the same turn',
};

export function PoseSettings() {
  const axes = useDesk((state) => state.turnAxes);
  const follows = useDesk((state) => state.twinFollows);
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[13px]">
      <span className="flex gap-1" role="group" aria-label="About which axes">
        <Chip on={axes === 'own'} className="!h-6" onClick={() => setTurnAxes('own')}>
          Own axes
        </Chip>
        <Chip on={axes === 'world'} className="!h-6" onClick={() => setTurnAxes('world')}>
          World’s
        </Chip>
      </span>
      <label className="flex items-center gap-1.5">
        Other side
        <select
          aria-label="Other side"
          value={follows}
          onChange={(event) => void setTwinFollows(event.target.value as TwinFollows)}
          className="h-6 rounded-md border border-rule bg-sheet px-1"
        >
          {Object.entries(TWIN_WORDS).map(([id, words]) => (
            <option key={id} value={id}>
              {words}
            </option>
          ))}
        </select>
      </label>
    </div>
  );
}

export function BackToRest() {
  const isResting = useDesk((state) => isAtRest(state.pose));
  return (
    <Button small disabled={isResting} onClick={backToRest} className="self-start" title="Back to rest (0)">
      <RotateCcw size={14} />
      Back to rest
    </Button>
  );
}
