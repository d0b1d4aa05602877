'use client';

import { useEffect, useState } from 'react';
import { type LengthUnit } from '@/core/contracts/units';
import { RECEIVERS } from '@/core/rooms/docket/receivers';
import { messageOf } from '../../kit/api';
import { ReceiverForm } from '../../parts/receiver-form';
import { Saying } from '../../parts/saying';
import { useReceiver } from '../../state/receiver';
import { useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import type { ArrivedThere } from '../../worker/moving';
import { shortLength } from './pair-row';
import type { RemapTrial } from './walk';

type Answer = { readonly of: unknown; readonly arrived: ArrivedThere | null; readonly error?: string };

/** The move as a kind of machine will hold it: what it changes and drops, and how far the mesh then lies off. */
export function Arrival({ trial }: { trial: RemapTrial }) {
  const receiver = useReceiver((s) => s.receiver);
  const [answer, setAnswer] = useState<Answer | null>(null);
  useEffect(() => {
    let isOpen = true;
    deskWorker()
      .arrive(receiver)
      .then(
        (arrived) => isOpen && setAnswer({ of: receiver, arrived }),
        (error: unknown) => isOpen && setAnswer({ of: receiver, arrived: null, error: messageOf(error) }),
      );
    return () => {
      isOpen = false;
    };
  }, [receiver, trial]);
  const now = answer?.of === receiver ? answer : null;
  return (
    <div className="h-full overflow-y-auto text-[13px]">
      <ReceiverForm receivers={RECEIVERS} />
      {!now && <p className="mt-1 text-soft">looking …</p>}
      {now?.error && <p className="mt-1 text-stops">{now.error}</p>}
      {now?.arrived && <ThereText arrived={now.arrived} />}
    </div>
  );
}

function ThereText({ arrived }: { arrived: ArrivedThere }) {
  const { proofTolerance, unit: given } = useDesk((s) => s.brief);
  const unit: LengthUnit = given === 'm' ? 'mm' : given;
  return (
    <>
      <p className="mt-1">
        What arrives lies up to{' '}
        <span className={arrived.max > proofTolerance ? 'text-stops' : 'text-fine'}>
          {shortLength(arrived.max, unit)}
        </span>{' '}
        from the source, {shortLength(arrived.rms, unit)} in the mean.
      </p>
      <Saying said={arrived.said} />
    </>
  );
}
