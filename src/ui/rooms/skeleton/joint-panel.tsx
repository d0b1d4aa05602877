'use client';

import { useState } from 'react';
import { Button } from '../../kit/button';
import { MiddleCut } from '../../kit/middle-cut';
import { PlaceFields } from '../../parts/place-fields';
import { beginGesture } from '../../state/draft';
import { useDesk } from '../../state/store';
import { useJointSettings } from './joint-settings';
import { placeOfJoint, putJoint, snapToLimb } from './joint-tool';

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
          <LimbButton key={bone} bone={bone} />
        </>
      ) : (
        <p className="text-soft">No joint is chosen yet.</p>
      )}
      <JointSettings />
    </div>
  );
}

function JointSettings() {
  const { withChildren, snapsToLimb } = useJointSettings();
  return (
    <>
      <Setting
        label="What hangs below comes along"
        isOn={withChildren}
        onChange={(on) => useJointSettings.setState({ withChildren: on })}
      />
      <Setting
        label="Let go, it goes to the middle of its limb"
        isOn={snapsToLimb}
        onChange={(on) => useJointSettings.setState({ snapsToLimb: on })}
      />
    </>
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

function LimbButton({ bone }: { bone: number }) {
  const [isOpen, setOpen] = useState(false);
  const snap = async () => {
    beginGesture();
    setOpen(!(await snapToLimb(bone)));
  };
  return (
    <div className="mt-2">
      <Button small onClick={() => void snap()}>
        To the middle of its limb
      </Button>
      {isOpen && (
        <p role="status" className="mt-1 text-[12.5px] text-worth">
          There is no closed limb around this joint; it stays where it is.
        </p>
      )}
    </div>
  );
}
