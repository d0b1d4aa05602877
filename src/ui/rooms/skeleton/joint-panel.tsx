'use client';

import { Minus, Plus } from 'lucide-react';
import { useState } from 'react';
import { type LengthUnit, inUnit, unitSign } from '@/core/contracts/units';
import type { JointAxes } from '@/core/rooms/skeleton/joint-axes';
import { Button } from '../../kit/button';
import { IconButton } from '../../kit/icon-button';
import { MiddleCut } from '../../kit/middle-cut';
import { PlaceFields } from '../../parts/place-fields';
import { beginGesture } from '../../state/draft';
import { useDesk } from '../../state/store';
import { DRAG_WAYS, type DragWayId, useJointSettings } from './joint-settings';
import { placeOfJoint, putJoint, snapToLimb, snapToLoops, stepJoint } from './joint-tool';

/**
 * The joint that is moved: its place in numbers, whether what hangs below comes along, the middle of its
 * limb.
 */
export function JointPanel() {
  const bone = useDesk((state) => state.bone);
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  const unit = useDesk((state) => state.brief.unit);
  // Where it stands follows from the draft.
  useDesk((state) => state.draft);
  const place = placeOfJoint(bone);
  return (
    <div className="text-[13px]">
      {place && name !== undefined ? (
        <>
          <MiddleCut text={name} className="mono mb-1.5 font-semibold" />
          <PlaceFields
            place={place}
            unit={unit}
            onPlace={(to) => {
              beginGesture();
              void putJoint(bone, to);
            }}
          />
          <JointSteps bone={bone} unit={unit} />
          <SnapButtons key={bone} bone={bone} />
        </>
      ) : (
        <p className="text-soft">No joint is chosen yet.</p>
      )}
      <JointSettings />
    </div>
  );
}

const AXES_WORDS: Readonly<Record<JointAxes, string>> = {
  world: 'world’s',
  own: 'its own',
  chain: 'chain’s',
};

/** Steps along the joint's axes, each a press. */
function JointSteps({ bone, unit }: { bone: number; unit: LengthUnit }) {
  const step = useJointSettings((settings) => settings.step);
  const per = inUnit(1, unit);
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-x-1.5 gap-y-1">
      <label htmlFor="joint-step">Step</label>
      <input
        id="joint-step"
        type="number"
        min={0}
        step="any"
        value={Number((step * per).toPrecision(4))}
        onChange={({ target }) => {
          const typed = Number(target.value) / per;
          if (typed > 0) useJointSettings.setState({ step: typed });
        }}
        className="mono h-7 w-[72px] rounded-md border border-rule bg-paper px-1.5 text-right"
      />
      {unitSign(unit)}
      <span className="flex w-full justify-between">
        {(['x', 'y', 'z'] as const).map((axis, k) => (
          <span key={axis} className="flex items-center">
            <span className="mono mr-0.5">{axis}</span>
            <IconButton label={`One step back along ${axis}`} onClick={() => stepJoint(bone, k, -1)}>
              <Minus size={13} />
            </IconButton>
            <IconButton label={`One step along ${axis}`} onClick={() => stepJoint(bone, k, 1)}>
              <Plus size={13} />
            </IconButton>
          </span>
        ))}
      </span>
    </div>
  );
}

function JointSettings() {
  const { withChildren, snapsToLimb, axes, way } = useJointSettings();
  return (
    <>
      <div className="mt-1.5 flex gap-2" title="Of a chain, x is what it bends about and y runs along it.">
        <Choice
          label="Axes"
          value={axes}
          choices={AXES_WORDS}
          onChange={(to) => useJointSettings.setState({ axes: to })}
        />
        <Choice
          label="Drag"
          value={way}
          choices={WAY_WORDS}
          onChange={(to) => useJointSettings.setState({ way: to })}
        />
      </div>
      <Setting
        label="What hangs below comes along"
        isOn={withChildren}
        onChange={(on) => useJointSettings.setState({ withChildren: on })}
      />
      <Setting
        label="Let go, it goes into its limb"
        isOn={snapsToLimb}
        onChange={(on) => useJointSettings.setState({ snapsToLimb: on })}
      />
    </>
  );
}

const WAY_WORDS = Object.fromEntries(
  Object.entries(DRAG_WAYS).map(([id, { words }]) => [id, words]),
) as Record<DragWayId, string>;

function Choice<Id extends string>({
  label,
  value,
  choices,
  onChange,
}: {
  label: string;
  value: Id;
  choices: Readonly<Record<Id, string>>;
  onChange: (value: Id) => void;
}) {
  return (
    <label className="flex min-w-0 flex-1 items-center gap-1">
      {label}
      <select
        aria-label={label}
        value={value}
        onChange={(event) => onChange(event.target.value as Id)}
        className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-paper px-1"
      >
        {Object.entries<string>(choices).map(([id, words]) => (
          <option key={id} value={id}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

function Setting({
  label,
  isOn,
  onChange,
}: {
  label: string;
  isOn: boolean;
  onChange: (on: boolean) => void;
}) {
  return (
    <label className="mt-1.5 flex items-center gap-2">
      <input
        type="checkbox"
        checked={isOn}
        onChange={(event) => onChange(event.target.checked)}
        className="accent-[var(--leaf)]"
      />
      {label}
    </label>
  );
}

/** Where a limb itself wants its joint, and what is said where it does not tell. */
const SNAPS = [
  {
    label: 'Into its limb',
    snap: snapToLimb,
    none: 'There is no closed limb around this joint; it stays where it is.',
  },
  {
    label: 'To its loops',
    snap: snapToLoops,
    none: 'Its limb has no loops that lie closer for it; it stays where it is.',
  },
] as const;

function SnapButtons({ bone }: { bone: number }) {
  const [told, setTold] = useState<string | null>(null);
  return (
    <div className="mt-2">
      <span className="flex flex-wrap gap-1.5">
        {SNAPS.map(({ label, snap, none }) => (
          <Button
            key={label}
            small
            onClick={() => {
              beginGesture();
              void snap(bone).then((isDone) => setTold(isDone ? null : none));
            }}
          >
            {label}
          </Button>
        ))}
      </span>
      {told && (
        <p role="status" className="mt-1 text-[12.5px] text-worth">
          {told}
        </p>
      )}
    </div>
  );
}
