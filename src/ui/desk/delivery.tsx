'use client';

import { Loader2, PackagePlus } from 'lucide-react';
import { useRef, useState } from 'react';
import { type RerunRow, stepsLeft } from '@/core/contracts/step';
import { type ProgressLine, deliveryOnPath, deliveryPath } from '@/routes/arrivals';
import type { CharacterRecord, Revision } from '@/routes/characters';
import { addressOf } from '@/routes/route';
import { askWork, messageOf, sendFiles } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { ProgressBar } from '../kit/progress';
import { refreshDesk } from '../state/open';

/** Sends the files of a new delivery; tells how far it has come and what became of it. */
function useDelivery(record: CharacterRecord) {
  const [line, setLine] = useState<ProgressLine | null>(null);
  const [error, setError] = useState<string | null>(null);
  const cancel = useRef<AbortController | null>(null);
  const follow = async (work: (signal: AbortSignal) => Promise<ProgressLine>) => {
    const mine = new AbortController();
    cancel.current = mine;
    setError(null);
    setLine({ stage: 'sending', share: 0.02 });
    try {
      setLine(await work(mine.signal));
    } catch (error) {
      if (mine.signal.aborted) setLine(null);
      else setError(messageOf(error));
    }
    await refreshDesk();
  };
  const take = (files: readonly File[]) => {
    const path = addressOf({ method: 'POST', path: deliveryPath }, { id: record.id });
    return follow((signal) => sendFiles(path, files, { base: record.head }, setLine, signal));
  };
  const goOn = (revision: string) => {
    const path = addressOf({ method: 'POST', path: deliveryOnPath }, { id: record.id, revision });
    const broken = 'The connection broke off before the delivery was whole; go on with it from the ledger.';
    return follow((signal) => askWork(path, {}, setLine, signal, broken));
  };
  const close = () => {
    if (line && line.stage !== 'done' && !error) cancel.current?.abort();
    setLine(null);
    setError(null);
  };
  return { line, error, take, goOn, close };
}

/**
 * A new delivery of the character: its files come in beside the line that is there, and the line's steps are
 * done again on it.
 */
export function DeliveryDialog({ record }: { record: CharacterRecord }) {
  const input = useRef<HTMLInputElement>(null);
  const { line, error, take, goOn, close } = useDelivery(record);
  const broken = record.working
    ? undefined
    : record.revisions.findLast((revision) => stepsLeft(revision.step) > 0);
  return (
    <>
      {broken && <BrokenOff revision={broken} onGoOn={() => void goOn(broken.id)} />}
      <Button
        small
        onClick={() => input.current?.click()}
        title="Bring in a new delivery of this character and do the steps of this line again on it"
      >
        <PackagePlus size={14} />
        New delivery …
      </Button>
      <input
        ref={input}
        type="file"
        multiple
        className="hidden"
        aria-label="Files of a new delivery"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) void take(files);
        }}
      />
      {line && (
        <PaperDialog
          title="A new delivery"
          about="The recorded steps of the line you are on, done again on what came; nodes are found by their names."
          onClose={close}
        >
          <DeliveryState line={line} error={error} onClose={close} />
        </PaperDialog>
      )}
    </>
  );
}

/** A delivery that stands aside, since it was broken off before all steps were done again on it. */
function BrokenOff({ revision: { number, step }, onGoOn }: { revision: Revision; onGoOn: () => void }) {
  if (step.kind !== 'delivery') return null;
  return (
    <span role="status" className="flex items-center gap-2 text-[13px] text-worth">
      Delivery of revision {number}: broken off after {step.rows?.length ?? 0} of {step.again?.length ?? 0}{' '}
      steps
      <Button small kind="leaf" onClick={onGoOn}>
        Go on with it
      </Button>
    </span>
  );
}

function DeliveryState({
  line,
  error,
  onClose,
}: {
  line: ProgressLine;
  error: string | null;
  onClose: () => void;
}) {
  if (error)
    return (
      <p role="alert" className="mt-4 text-stops">
        {error}
      </p>
    );
  if (line.stage !== 'done')
    return (
      <div className="mt-4">
        <p className="mb-2 flex items-center gap-2">
          <Loader2 size={15} className="animate-spin text-leaf" aria-hidden />
          {line.stage} …
        </p>
        <ProgressBar share={line.share} label="Progress" />
        <Button small className="mt-3" onClick={onClose}>
          Cancel
        </Button>
      </div>
    );
  return (
    <>
      <RowsAgain rows={line.rows ?? []} />
      <ul className="mt-3 list-disc pl-5 text-[13px] text-soft">
        {line.notes?.map((note) => (
          <li key={note}>{note}</li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end">
        <Button kind="leaf" onClick={onClose}>
          Go on with it
        </Button>
      </div>
    </>
  );
}

const TONES: Readonly<Record<RerunRow['outcome'], string>> = {
  done: 'text-fine',
  'not needed': 'text-note',
  'in part': 'text-worth',
  'does not fit': 'text-stops',
};

function RowsAgain({ rows }: { rows: readonly RerunRow[] }) {
  if (rows.length === 0)
    return <p className="mt-4">It is in the ledger. The line held no steps to do again.</p>;
  return (
    <table className="mt-4 w-full text-[13px]">
      <thead>
        <tr className="text-left text-[12px] text-soft">
          <th scope="col" className="font-normal">
            Step
          </th>
          <th scope="col" className="font-normal">
            What became of it
          </th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row, i) => (
          <tr key={i} className="border-t border-rule align-top">
            <td className="py-1.5 pr-3">{row.label}</td>
            <td className="py-1.5">
              <span className={`font-semibold ${TONES[row.outcome]}`}>{row.outcome}</span>
              {row.why && <span className="block text-soft">{row.why}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
