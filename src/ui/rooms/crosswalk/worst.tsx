'use client';

import { type LengthUnit, fineUnit } from '@/core/contracts/units';
import type { Cause } from '@/core/rooms/crosswalk/causes';
import { hasTarget, targetsOf } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import type { WorstPoint } from '@/core/rooms/crosswalk/worst';
import { Button } from '../../kit/button';
import { useDesk } from '../../state/store';
import { removeCause } from './changes';
import { choosePair } from './choice';
import { shortLength } from './pair-row';
import { goToPlace } from './places';
import { type RemapTrial, useCrosswalkSession } from './session';

/** From this share on most of a deviation comes from one pair. */
const MAIN = 0.5;

/** What a bone goes onto, in words. */
function ontoText(skeleton: Skeleton, rule: Cause['instead']): string {
  if (!hasTarget(rule)) return rule.kind === 'keep' ? 'kept' : 'released';
  return `onto ${targetsOf(rule)
    .map((target) => skeleton.bones[target].name)
    .join(', ')}`;
}

/** The pairs that the deviation is likely to come from, each with the change that takes it away. */
export function LikelyCauses() {
  const causes = useCrosswalkSession((session) => session.causes);
  if (!causes || causes.length === 0) return null;
  return (
    <ul className="mb-1 border-b border-rule pb-1" aria-label="Pairs that it is likely to come from">
      {causes.map((cause) => (
        <li key={cause.source}>
          <LikelyCause cause={cause} />
        </li>
      ))}
    </ul>
  );
}

function LikelyCause({ cause }: { cause: Cause }) {
  const source = useCrosswalkSession((session) => session.source);
  const skeleton = useCrosswalkSession((session) => session.skeleton);
  const rule = useCrosswalkSession((session) => session.crosswalk?.[cause.source]);
  if (!source || !skeleton || !rule) return null;
  const { name } = source.bones[cause.source];
  const instead = ontoText(skeleton, cause.instead);
  const share = Math.round(cause.taken * 100);
  return (
    <div className="flex items-start gap-2 py-[3px] text-[12.5px]">
      <button
        type="button"
        className="min-w-0 flex-1 text-left hover:bg-wash"
        title="Choose this pair"
        onClick={() => choosePair(cause.source)}
      >
        <b>{cause.taken >= MAIN ? 'Most of it comes from one pair' : 'Some of it comes from a pair'}</b>:{' '}
        <span className="mono [overflow-wrap:anywhere]">{name}</span>{' '}
        <span className="mono [overflow-wrap:anywhere]">{ontoText(skeleton, rule)}</span>
        {cause.isByHand ? ', set by hand' : ''}. With it{' '}
        <span className="mono [overflow-wrap:anywhere]">{instead}</span> {share} % of it goes.
      </button>
      <Button small className="!h-6 shrink-0" onClick={() => removeCause(cause)}>
        {hasTarget(cause.instead) ? 'Pair so' : `Set to ${cause.instead.kind}`}
      </Button>
    </div>
  );
}

/** Where the worst places stand at a joint that another rest pose turned: no pair and no weight mends that. */
function Turned({ trial: { turned } }: { trial: RemapTrial }) {
  if (!turned) return null;
  return (
    <p className="mb-1 border-b border-rule pb-1 text-[12.5px] text-soft">
      Most of them stand between <span className="mono text-ink">{turned.above}</span> and{' '}
      <span className="mono text-ink">{turned.below}</span>, which the other rest pose turns by{' '}
      {Math.round(turned.degrees)}° against each other: what both carry folds otherwise, on any weights. A
      rest pose nearer to the old stance would lose less, and <i>Joints to mesh</i> nothing of this kind.
    </p>
  );
}

/** The pairs it is likely to come from, and the places that lie farthest off, each in the pose that shows it. */
export function Worst({ trial }: { trial: RemapTrial }) {
  const unit = useDesk((state) => fineUnit(state.brief.unit));
  const place = useCrosswalkSession((session) => session.place);
  if (trial.worst.length === 0)
    return <p className="text-[13px] text-soft">No point lies off in any pose.</p>;
  return (
    <div className="h-full overflow-y-auto">
      <LikelyCauses />
      <Turned trial={trial} />
      <ul aria-label="Places that lie farthest off">
        {trial.worst.map((point) => (
          <li key={`${point.node} ${point.vertex}`}>
            <Place point={point} trial={trial} unit={unit} isChosen={place === point} />
          </li>
        ))}
      </ul>
    </div>
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
