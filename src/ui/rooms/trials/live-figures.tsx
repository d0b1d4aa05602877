'use client';

import clsx from 'clsx';
import { useEffect, useState } from 'react';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import type { PoseFigures } from '@/core/rooms/trials/figures';
import { messageOf } from '../../kit/api';
import { percentText } from '../../kit/format';
import { trialOf } from '../../state/pose';
import { isAtRest } from '../../state/posed';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';

/** The figures of the chosen joint in the pose that the figure stands in; null at rest and where nothing bends. */
function useFiguresInPose(): PoseFigures | null {
  const bone = useDesk((state) => state.bone);
  const pose = useDesk((state) => state.pose);
  const revision = useDesk((state) => state.revision);
  const skinning = useDesk((state) => state.brief.trials?.skinning);
  const [told, setTold] = useState<{ readonly bone: number; readonly figures: PoseFigures | null }>();
  const isAsked = bone >= 0 && !isAtRest(pose);
  useEffect(() => {
    if (!isAsked) return;
    let isCurrent = true;
    deskWorker()
      .figuresInPose(bone, { ...trialOf(pose), skinning })
      .then((figures) => isCurrent && setTold({ bone, figures }))
      .catch((error: unknown) => isCurrent && setDesk({ error: messageOf(error) }));
    return () => {
      isCurrent = false;
    };
  }, [isAsked, bone, pose, revision, skinning]);
  // While the next ones are worked out those of the pose before stand, so that nothing flickers under a slider.
  return isAsked && told?.bone === bone ? told.figures : null;
}

/** What the pose does to the chosen joint, while it is turned. */
export function LiveFigures() {
  const figures = useFiguresInPose();
  const limits = useDesk((state) => state.brief.trials) ?? USUAL_LIMITS;
  if (!figures) return null;
  const { volume, stretch, inverted, torn } = figures;
  const told: readonly (readonly [string, string, boolean])[] = [
    ['volume', percentText(volume), volume !== null && volume < limits.volume],
    ['stretch', `${stretch.toFixed(1)} ×`, stretch > limits.stretch],
    ['inside out', `${(inverted * 100).toFixed(1)} %`, inverted > limits.inverted],
    ['flies off', `${torn.toFixed(2)} ×`, torn > limits.torn],
  ];
  return (
    <div className="flex items-center gap-x-4 text-[12.5px]">
      {limits.skinning === 'dual-quaternion' && <span className="text-soft">by dual quaternions:</span>}
      <dl aria-label="The joint in this pose" className="flex items-center gap-x-4">
        {told.map(([word, value, isBeyond]) => (
          <div key={word} className="flex gap-1.5">
            <dt className="text-soft">{word}</dt>
            <dd className={clsx('mono', isBeyond && 'font-semibold text-stops')}>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
