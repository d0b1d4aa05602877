'use client';

import { ChevronDown, Loader2, X } from 'lucide-react';
import Link from 'next/link';
import { useState } from 'react';
import { type Brief, briefKey } from '@/core/house/brief';
import type { ProgressLine, Survey } from '@/routes/arrivals';
import { AskUnits, type UnitAnswer } from '../kit/ask-units';
import { changeCharacter } from '@/routes/characters';
import { call, fetchFindings, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { ProgressBar } from '../kit/progress';

/** Files on their way into the house. */
export interface Arrival {
  readonly key: number;
  readonly names: string;
  readonly files: readonly File[];
  readonly line: ProgressLine;
  /** What they hold, while it is asked what they do not say. */
  readonly survey?: Survey;
  readonly cancel: AbortController;
}

const isOver = ({ line }: Arrival): boolean => line.stage === 'done' || line.stage === 'refused';

const OUTCOMES: Readonly<Record<string, string>> = {
  done: 'is on the shelf',
  refused: 'was not taken in',
};

/** All that is on its way; more than one fold together into one line. */
export function Arrivals({
  arrivals,
  brief,
  onAnswer,
  onClose,
  onChanged,
}: {
  arrivals: readonly Arrival[];
  brief: Brief;
  onAnswer: (arrival: Arrival, answer: UnitAnswer) => void;
  onClose: (arrivals: readonly Arrival[]) => void;
  /** One of them has another brief now. */
  onChanged: () => Promise<void>;
}) {
  const [isOpen, setOpen] = useState(true);
  const over = arrivals.filter(isOver);
  const cards = arrivals.map((arrival) => (
    <ArrivalCard
      key={arrival.key}
      arrival={arrival}
      brief={brief}
      onAnswer={(answer) => onAnswer(arrival, answer)}
      onClose={() => onClose([arrival])}
      onChanged={onChanged}
    />
  ));
  return (
    <div aria-live="polite" className="mt-4">
      {arrivals.length > 1 && (
        <div className="mb-2 flex items-center gap-3 text-[13px]">
          <button
            type="button"
            aria-expanded={isOpen}
            onClick={() => setOpen(!isOpen)}
            className="flex items-center gap-1.5 font-semibold"
          >
            <ChevronDown size={15} className={isOpen ? '' : '-rotate-90'} />
            {summaryOf(arrivals)}
          </button>
          {over.length > 0 && (
            <button type="button" className="font-semibold text-leaf underline" onClick={() => onClose(over)}>
              Put away what is done
            </button>
          )}
        </div>
      )}
      <div className="space-y-2">{isOpen || arrivals.length < 2 ? cards : wanting(arrivals, cards)}</div>
    </div>
  );
}

/** Folded together, what waits for an answer stays in sight. */
const wanting = <T,>(arrivals: readonly Arrival[], cards: readonly T[]): T[] =>
  cards.filter((_, i) => arrivals[i].survey !== undefined);

/** “5 arrivals: 3 on the shelf, 1 not taken in, 1 on its way”. */
function summaryOf(arrivals: readonly Arrival[]): string {
  const count = (stage: string) => arrivals.filter((arrival) => arrival.line.stage === stage).length;
  const done = count('done');
  const refused = count('refused');
  const coming = arrivals.length - done - refused;
  const parts = [
    done > 0 && `${done} on the shelf`,
    refused > 0 && `${refused} not taken in`,
    coming > 0 && `${coming} on the way`,
  ];
  return `${arrivals.length} arrivals: ${parts.filter(Boolean).join(', ')}`;
}

function ArrivalCard({
  arrival,
  brief,
  onAnswer,
  onClose,
  onChanged,
}: {
  arrival: Arrival;
  brief: Brief;
  onAnswer: (answer: UnitAnswer) => void;
  onClose: () => void;
  onChanged: () => Promise<void>;
}) {
  const { line, survey } = arrival;
  const isComing = !isOver(arrival) && !survey;
  return (
    <div className="rounded-lg border border-rule bg-sheet px-4 py-3">
      <div className="flex items-center gap-3">
        {isComing && <Loader2 size={16} className="animate-spin text-leaf" aria-hidden />}
        <span className="mono min-w-0 [overflow-wrap:anywhere]">{arrival.names}</span>
        <span className={line.stage === 'refused' ? 'text-stops' : 'text-soft'}>
          {OUTCOMES[line.stage] ?? `${line.stage} …`}
        </span>
        <span className="flex-1" />
        {line.id && (
          <Link href={`/c/${line.id}`} className="font-semibold text-leaf underline">
            Open {line.name}
          </Link>
        )}
        {isOver(arrival) && (
          <button
            type="button"
            aria-label="Close this message"
            onClick={onClose}
            className="text-soft hover:text-ink"
          >
            <X size={16} />
          </button>
        )}
        {isComing && (
          <Button small onClick={() => arrival.cancel.abort()}>
            Cancel
          </Button>
        )}
      </div>
      {survey && <AskUnits survey={survey} brief={brief} onAnswer={onAnswer} onCancel={onClose} />}
      {isComing && (
        <div className="mt-2">
          <ProgressBar share={line.share} label="Progress" />
        </div>
      )}
      <Told line={line} />
      {line.id && line.fits && <Fits id={line.id} fits={line.fits} onChanged={onChanged} />}
    </div>
  );
}

/** A brief that fits better than the one that was asked for. */
function Fits({
  id,
  fits: { brief, reason },
  onChanged,
}: {
  id: string;
  fits: NonNullable<ProgressLine['fits']>;
  onChanged: () => Promise<void>;
}) {
  const [told, setTold] = useState<string | null>(null);
  const hold = async () => {
    setTold('Auditing it …');
    try {
      const { head, wants } = await call(changeCharacter, { id, brief });
      await fetchFindings(head, briefKey(wants), () => {}, new AbortController().signal);
      await onChanged();
      setTold(`It is held against “${wants.title}” now.`);
    } catch (error) {
      setTold(messageOf(error));
    }
  };
  return (
    <p className="mt-1.5 flex flex-wrap items-center gap-2 text-[13px]">
      {told ?? reason}
      {!told && (
        <Button small onClick={() => void hold()}>
          Hold it against that one
        </Button>
      )}
    </p>
  );
}

/** What became of the files, and what of them could not be carried. */
function Told({ line }: { line: ProgressLine }) {
  return (
    <>
      {line.message && <p className="mt-1 text-stops [overflow-wrap:anywhere]">{line.message}</p>}
      {line.notes && line.notes.length > 0 && (
        <ul className="mt-1 list-disc pl-5 text-[13px] text-soft">
          {line.notes.map((note) => (
            <li key={note}>{note}</li>
          ))}
        </ul>
      )}
      {line.stage === 'done' && line.notes?.length === 0 && (
        <p className="mt-1 text-[13px] text-soft">Everything that the file holds was carried over.</p>
      )}
    </>
  );
}
