'use client';

import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { askForJobs } from '@/routes/jobs';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { Tally } from '../kit/gravity';
import { WholeFormats } from '../parts/whole-formats';
import { useReceiver, useReceiverAsked } from '../state/receiver';
import { type ShelfFigure, fetchShelf } from '../state/shelf';
import { keepName, keptName } from '../state/waivers';

const field = 'mt-1 h-8 w-full rounded-md border border-rule bg-paper px-2.5 text-[13.5px]';

/** What goes along with every one of them. */
interface What {
  readonly by: string;
  readonly note: string;
  readonly format: string;
  readonly receiver: string;
}

/** The job of handing one character over as it stands. */
const partOf = (entry: ShelfFigure, what: What) => ({
  id: crypto.randomUUID(),
  kind: 'hand over several',
  title: entry.name,
  character: entry.id,
  base: entry.head,
  input: { ...what },
});

/** Asks for several characters of the shelf to be handed over, one docket each; the house does it on its own from there. */
export function HandOverSeveral({ onClose }: { onClose: () => void }) {
  const router = useRouter();
  const [entries, setEntries] = useState<readonly ShelfFigure[] | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [isAsking, setAsking] = useState(false);
  useEffect(() => {
    fetchShelf().then(
      (characters) => setEntries(characters.filter((character) => character.head)),
      (shelf: unknown) => setError(messageOf(shelf)),
    );
  }, []);
  const send = async (what: What) => {
    setAsking(true);
    setError(null);
    try {
      const parts =
        entries?.filter((entry) => chosen.has(entry.id)).map((figure) => partOf(figure, what)) ?? [];
      const title = `${parts.length === 1 ? parts[0].title : `${parts.length} characters`} handed over`;
      const { id } = await call(askForJobs, { id: crypto.randomUUID(), title, by: what.by, parts });
      router.push(`/work?job=${id}`);
    } catch (error) {
      setError(messageOf(error));
      setAsking(false);
    }
  };
  return (
    <PaperDialog
      title="Hand over several"
      about="Each just as it stands, all of it, under its own brief: written, read back, audited and sealed into a docket of its own. It goes on when this page is closed."
      width={820}
      onClose={onClose}
    >
      {error && (
        <p role="alert" className="mt-3 text-[13px] text-stops">
          {error}
        </p>
      )}
      <Choose
        entries={entries}
        chosen={chosen}
        isAsking={isAsking}
        onChosen={setChosen}
        onSend={(what) => void send(what)}
      />
    </PaperDialog>
  );
}

function Choose({
  entries,
  chosen,
  isAsking,
  onChosen,
  onSend,
}: {
  /** Null until the shelf has told. */
  entries: readonly ShelfFigure[] | null;
  chosen: ReadonlySet<string>;
  /** It is being asked for. */
  isAsking: boolean;
  onChosen: (chosen: ReadonlySet<string>) => void;
  onSend: (what: What) => void;
}) {
  const [by, setBy] = useState(keptName);
  const [note, setNote] = useState('');
  const [format, setFormat] = useState('glb');
  const receiver = useReceiverAsked();
  const { title } = useReceiver((state) => state.receiver);
  const all = entries ?? [];
  const isAll = all.length > 0 && chosen.size === all.length;
  const isReady = !isAsking && chosen.size > 0 && by.trim() !== '';
  const toggle = (id: string) =>
    onChosen(new Set(chosen.has(id) ? [...chosen].filter((text) => text !== id) : [...chosen, id]));
  const choose = (some: readonly ShelfFigure[]) => onChosen(new Set(some.map((figure) => figure.id)));
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!isReady) return;
        keepName(by.trim());
        onSend({ by: by.trim(), note: note.trim(), format, receiver });
      }}
    >
      <div className="mt-3 grid grid-cols-3 gap-3 text-[13px]">
        <label>
          By, kept in this browser
          <input
            value={by}
            maxLength={200}
            onChange={(event) => setBy(event.target.value)}
            className={field}
          />
        </label>
        <label>
          Note
          <input
            value={note}
            maxLength={2000}
            onChange={(event) => setNote(event.target.value)}
            className={field}
          />
        </label>
        <label>
          Format
          <select value={format} onChange={(event) => setFormat(event.target.value)} className={field}>
            <WholeFormats />
          </select>
        </label>
      </div>
      <div className="mt-3 flex items-center gap-2 text-[13px] text-soft">
        <span className="flex-1">Held against the receiver that was chosen last: {title}.</span>
        <Button
          small
          kind="quiet"
          disabled={!entries}
          onClick={() => choose(all.filter((figure) => figure.counts?.stops === 0))}
        >
          Those that nothing stops
        </Button>
        <Button small kind="quiet" disabled={!entries} onClick={() => choose(isAll ? [] : all)}>
          {isAll ? 'None' : 'All'}
        </Button>
      </div>
      <ul className="mt-1 max-h-[40vh] overflow-y-auto" aria-label="Characters">
        {all.map((figure) => (
          <li key={figure.id} className="border-b border-rule">
            <label className="flex items-center gap-2.5 py-1.5 text-[13.5px]">
              <input
                type="checkbox"
                checked={chosen.has(figure.id)}
                onChange={() => toggle(figure.id)}
                className="accent-[var(--leaf)]"
              />
              <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
                {figure.name} <span className="text-soft">revision {figure.number}</span>
              </span>
              <span className="text-[12.5px] text-soft">{figure.wants?.title}</span>
              <span className="w-[230px] text-[12.5px] font-semibold">
                <Tally counts={figure.counts} />
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end">
        <Button kind="leaf" type="submit" disabled={!isReady}>
          {chosen.size === 1 ? 'Hand one over' : `Hand ${chosen.size} over`}
        </Button>
      </div>
    </form>
  );
}
