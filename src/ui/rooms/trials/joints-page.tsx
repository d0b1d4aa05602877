'use client';

import { isTried } from '../../state/document';
import clsx from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { type TrialLimits, USUAL_LIMITS } from '@/core/contracts/trials';
import { lengthText } from '@/core/contracts/units';
import { type MotionFigures, isWorse } from '@/core/rooms/trials/rows';
import { Button, Chip } from '../../kit/button';
import { percentText } from '../../kit/format';
import { OpenRow } from '../../kit/open-row';
import { ChangeCells } from '../../parts/motion-change';
import { chooseBone, goToRoom, lookAtWeights } from '../../state/choose';
import { useDesk } from '../../state/store';
import { showStretch } from '../../state/trials';
import { AngleChart } from './angle-chart';
import { type TriedJoint, triedJoints } from './joints';
import { lookAtMotion } from './look';

/** Stretched by a tenth counts as much as a hundredth of the volume. */
const lossOf = ({ volume, stretch }: MotionFigures): number =>
  Math.max(volume === null ? 0 : 1 - volume, (stretch - 1) / 10);

/** Rows that are shown at once; the others come when they are asked for. */
const FIRST = 14;

/** All joints with the motion in which each loses most; one opens into its motions, with the volume over the angle. */
export function JointsPage() {
  const tried = useDesk((state) => (isTried(state) ? state.tried : null));
  const limits = useDesk((state) => state.brief.trials) ?? USUAL_LIMITS;
  const [chosen, setChosen] = useState(-1);
  const [isWhole, setWhole] = useState(false);
  const joints = useMemo(() => triedJoints(tried?.rows ?? [], lossOf), [tried]);
  if (!tried)
    return (
      <p className="px-[18px] py-3 text-[13px] text-soft">
        The joints stand here as soon as each was turned through its motions; the bar below the figure says
        how far that is.
      </p>
    );
  if (joints.length === 0)
    return (
      <p className="px-[18px] py-3 text-[13px] text-soft">
        Nothing bends here: no mesh is bound to bones that turn. Bind one in Weights.
      </p>
    );
  const shown = isWhole ? joints : joints.slice(0, FIRST);
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <Since />
      <p className="text-[13px] text-soft">
        Every joint in the motion that costs it most. Press one to stand so and to see it over the angle.
      </p>
      <table className="mt-2 w-full text-[12.5px]">
        <thead>
          <tr className="border-b border-rule text-left text-soft">
            <th scope="col" className="py-1 font-normal">
              joint, worst at
            </th>
            <th scope="col" className="py-1 pl-2 text-right font-normal">
              volume
            </th>
            <th scope="col" className="py-1 pl-2 text-right font-normal">
              stretch
            </th>
            <th scope="col" className="py-1 pl-2 text-right font-normal">
              through
            </th>
          </tr>
        </thead>
        <tbody>
          {shown.map((joint) => (
            <JointRows
              key={joint.node}
              joint={joint}
              limits={limits}
              isOpen={joint.node === chosen}
              onOpen={() => {
                const isOpening = joint.node !== chosen;
                setChosen(isOpening ? joint.node : -1);
                if (isOpening) lookAtMotion(joint.motions[0]);
              }}
            />
          ))}
        </tbody>
      </table>
      {joints.length > FIRST && (
        <Button small className="mt-2" onClick={() => setWhole(!isWhole)}>
          {isWhole ? 'Only the worst' : `${joints.length - FIRST} more`}
        </Button>
      )}
    </div>
  );
}

/** Changes that are told one by one. */
const TOLD = 5;

/** What the steps since the trial before have done to the joints. */
function Since() {
  const since = useDesk((state) => state.tried?.since ?? null);
  const count = useDesk((state) => state.tried?.rows.length ?? 0);
  if (!since) return null;
  const { changes, revision } = since;
  const worse = changes.filter(isWorse);
  return (
    <section
      aria-label="Since the trial before"
      className="mb-3 rounded-lg border border-rule px-3 py-2 text-[13px]"
    >
      <p>
        Since revision {revision}{' '}
        {changes.length === 0 ? (
          <>none of the {count} motions has changed.</>
        ) : (
          <>
            {changes.length} of {count} motions are otherwise, <b>{worse.length} of them worse</b>.
          </>
        )}
      </p>
      {changes.length > 0 && (
        <table className="mt-1 w-full text-[12.5px]">
          <tbody>
            {changes.slice(0, TOLD).map((change) => (
              <tr key={`${change.after.node} ${change.after.motion}`}>
                <th scope="row" className="py-0.5 text-left font-normal [overflow-wrap:anywhere]">
                  <span className="mono">{change.after.bone}</span>{' '}
                  <span className="text-soft">{change.after.motion}</span>
                </th>
                <ChangeCells change={change} />
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function JointRows({
  joint,
  limits,
  isOpen,
  onOpen,
}: {
  joint: TriedJoint;
  limits: TrialLimits;
  isOpen: boolean;
  onOpen: () => void;
}) {
  const [worst] = joint.motions;
  const label = (
    <>
      <span className="mono">{joint.name}</span> <span className="text-soft">{worst.words}</span>
    </>
  );
  return (
    <OpenRow
      label={label}
      cells={<Figures row={worst} limits={limits} />}
      columns={4}
      isOpen={isOpen}
      onOpen={onOpen}
    >
      <OpenJoint joint={joint} limits={limits} />
    </OpenRow>
  );
}

const BAD = 'font-semibold text-stops';

function Figures({ row, limits }: { row: MotionFigures; limits: TrialLimits }) {
  const unit = useDesk((state) => state.brief.unit);
  const cell = 'mono whitespace-nowrap py-1 pl-2 text-right';
  const isLow = row.volume !== null && row.volume < limits.volume;
  return (
    <>
      <td className={clsx(cell, isLow && BAD)}>{percentText(row.volume)}</td>
      <td className={clsx(cell, row.stretch > limits.stretch && BAD)}>{row.stretch.toFixed(1)} ×</td>
      <td className={cell}>{row.through > 0 ? lengthText(row.through, unit) : '—'}</td>
    </>
  );
}

/** The motions of a joint, the chart of the chosen one, and the ways on from there. */
function OpenJoint({ joint, limits }: { joint: TriedJoint; limits: TrialLimits }) {
  const [motion, setMotion] = useState(joint.motions[0].motion);
  const row = joint.motions.find((one) => one.motion === motion) ?? joint.motions[0];
  const [degrees, setDegrees] = useState(row.degrees);
  const [isPicture, setPicture] = useState(false);
  useEffect(() => {
    if (!isPicture) return;
    void showStretch({ node: row.node, motion: row.motion, degrees });
  }, [isPicture, row, degrees]);
  useEffect(
    () => () => {
      void showStretch(null);
    },
    [],
  );
  const togglePicture = () => {
    setPicture(!isPicture);
    if (isPicture) void showStretch(null);
  };
  return (
    <div>
      <div role="group" aria-label={`Motions of ${joint.name}`} className="flex flex-wrap gap-1">
        {joint.motions.map((one) => (
          <Chip
            key={one.motion}
            on={one.motion === row.motion}
            onClick={() => {
              setMotion(one.motion);
              setDegrees(one.degrees);
              lookAtMotion(one);
            }}
          >
            {one.motion}
          </Chip>
        ))}
      </div>
      <AngleChart key={row.motion} row={row} limits={limits} onDegrees={setDegrees} />
      <div className="mt-2 flex flex-wrap items-center gap-1.5">
        <Chip on={isPicture} onClick={togglePicture}>
          Picture of stretch
        </Chip>
        <Button small onClick={() => paintHere(joint.node)}>
          Paint its weights in this pose
        </Button>
      </div>
    </div>
  );
}

/** Weights, with the pose as it stands and the bone in hand. */
function paintHere(node: number): void {
  goToRoom('weights');
  chooseBone(node);
  lookAtWeights();
}
