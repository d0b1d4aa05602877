'use client';

import { type LengthUnit } from '@/core/contracts/units';
import type { WorstPoint } from '@/core/rooms/crosswalk/worst';
import { useDesk } from '../../state/store';
import { shortLength } from './pair-row';
import { goToPlace } from './places';
import { type RemapTrial, useWalk } from './walk';

/** The places that lie farthest off, each in the pose that shows it. */
export function Worst({ trial }: { trial: RemapTrial }) {
  const unit: LengthUnit = useDesk((s) => (s.brief.unit === 'm' ? 'mm' : s.brief.unit));
  const place = useWalk((s) => s.place);
  if (trial.worst.length === 0)
    return <p className="text-[13px] text-soft">No point lies off in any pose.</p>;
  return (
    <ul className="h-full overflow-y-auto" aria-label="Places that lie farthest off">
      {trial.worst.map((p) => (
        <li key={`${p.node} ${p.vertex}`}>
          <Place point={p} trial={trial} unit={unit} isChosen={place === p} />
        </li>
      ))}
    </ul>
  );
}

function Place({
  point,
  trial,
  unit,
  isChosen,
}: {
  point: WorstPoint;
  trial: RemapTrial;
  unit: LengthUnit;
  isChosen: boolean;
}) {
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      onClick={() => void goToPlace(point)}
      title="Go there, in the pose that shows it"
      className={`grid w-full grid-cols-[64px_minmax(0,1fr)_minmax(0,1fr)] items-baseline gap-2 border-b border-rule py-[3px] text-left text-[12.5px] ${isChosen ? 'bg-damson-wash' : 'hover:bg-wash'}`}
    >
      <span className="mono text-right text-stops">{shortLength(point.distance, unit)}</span>
      <span className="mono truncate" title={`${point.mesh}, at ${point.bone}`}>
        {point.bone || point.mesh}
      </span>
      <span className="truncate text-soft" title={trial.proof.poses[point.pose].label}>
        in “{trial.proof.poses[point.pose].label}”
      </span>
    </button>
  );
}
