'use client';

import { useEffect, useState } from 'react';
import { inUnit, unitSign, fineUnit } from '@/core/contracts/units';
import type { ArrivalNotice } from '@/core/rooms/docket/receive';
import { RECEIVERS, type Receiver } from '@/core/rooms/docket/receivers';
import { messageOf } from '../kit/api';
import { useReceiver } from '../state/receiver';
import { useDesk } from '../state/store';
import type { ArrivedThere } from '../worker/moving';
import { ReceiverForm } from './receiver-form';

interface Answer {
  /** The question that it answers. */
  readonly of: unknown;
  readonly receiver: Receiver;
  readonly arrived: ArrivedThere | null;
  readonly error?: string;
}

/** What the chosen receiver makes of something; asked again when either is another. */
function useArrived(of: unknown, ask: (receiver: Receiver) => Promise<ArrivedThere | null>): Answer | null {
  const receiver = useReceiver((state) => state.receiver);
  const [answer, setAnswer] = useState<Answer | null>(null);
  useEffect(() => {
    let isOpen = true;
    const take = (more: Pick<Answer, 'arrived' | 'error'>) => isOpen && setAnswer({ of, receiver, ...more });
    ask(receiver).then(
      (arrived) => take({ arrived }),
      (error: unknown) => take({ arrived: null, error: messageOf(error) }),
    );
    return () => {
      isOpen = false;
    };
  }, [of, receiver, ask]);
  return answer?.of === of && answer?.receiver === receiver ? answer : null;
}

/** How the machine that it is for will hold it: its settings, how far points then lie off, and what it says. */
export function OnArrival({
  of,
  ask,
  from,
}: {
  /** What is handed over: another one is asked for anew. */
  of: unknown;
  ask: (receiver: Receiver) => Promise<ArrivedThere | null>;
  /** What it is held against, in words. */
  from: string;
}) {
  const answer = useArrived(of, ask);
  return (
    <>
      <ReceiverForm receivers={RECEIVERS} />
      {!answer && <p className="mt-1 text-soft">looking …</p>}
      {answer?.error && <p className="mt-1 text-stops">{answer.error}</p>}
      {answer?.arrived && <There arrived={answer.arrived} from={from} />}
    </>
  );
}

function There({ arrived: { max, rms, said }, from }: { arrived: ArrivedThere; from: string }) {
  const { proofTolerance, unit: given } = useDesk((state) => state.brief);
  const unit = fineUnit(given);
  const length = (metres: number) => `${Number(inUnit(metres, unit).toPrecision(3))} ${unitSign(unit)}`;
  return (
    <>
      <p className="mt-1">
        Held there, points lie up to{' '}
        <span className={max > proofTolerance ? 'text-stops' : 'text-fine'}>{length(max)}</span> from {from},{' '}
        {length(rms)} in the mean.
      </p>
      <Saying said={said} />
    </>
  );
}

const TONE: Record<ArrivalNotice['kind'], string> = {
  lost: 'text-stops',
  changed: 'text-worth',
  told: 'text-soft',
};

/** What a receiver changed and dropped, line by line. */
function Saying({ said }: { said: readonly ArrivalNotice[] }) {
  if (said.length === 0) return <p className="text-soft">It takes everything as it is.</p>;
  return (
    <ul aria-label="What the receiver says" className="mt-1 space-y-0.5">
      {said.map((item) => (
        <li key={item.text} className="grid grid-cols-[58px_minmax(0,1fr)] gap-1.5 text-[12.5px]">
          <span className={`font-semibold ${TONE[item.kind]}`}>{item.kind}</span>
          <span className="[overflow-wrap:anywhere]">{item.text}</span>
        </li>
      ))}
    </ul>
  );
}
