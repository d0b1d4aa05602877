'use client';

import { useEffect, useRef, useState } from 'react';
import { type DocketEntry, handOverPath } from '@/routes/dockets';
import { type ShelfEntry, listCharacters } from '@/routes/characters';
import { addressOf } from '@/routes/route';
import { askWork, call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { Tally } from '../kit/gravity';
import { UnderWay } from '../kit/progress';
import { DocketLinks } from '../parts/docket-links';
import { loadDockets, useDockets } from '../state/dockets';
import { useReceiver, useReceiverAsked } from '../state/receiver';
import { keepName, keptName } from '../state/waivers';

const field = 'mt-1 h-8 w-full rounded-md border border-rule bg-paper px-2.5 text-[13.5px]';

/** What came of handing one over. */
interface Row {
  readonly entry: ShelfEntry;
  /** Id of its docket. */
  readonly docket?: string;
  /** Why it was not handed over. */
  readonly error?: string;
}

/** Who is at hand, and how far it has come. */
interface Now {
  readonly entry: ShelfEntry;
  readonly stage: string;
  readonly share: number;
}

/** Hands several characters of the shelf over, one docket each, as they stand. */
export function HandOverSeveral({ onClose }: { onClose: () => void }) {
  const [entries, setEntries] = useState<readonly ShelfEntry[] | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { rows, now, run, cancel } = useHandingOver();
  useEffect(() => {
    call(listCharacters, {}).then(
      ({ characters }) => setEntries(characters.filter((c) => c.head)),
      (e: unknown) => setError(messageOf(e)),
    );
  }, []);
  const list = entries?.filter((e) => chosen.has(e.id)) ?? [];
  return (
    <PaperDialog
      title="Hand over several"
      about="Each just as it stands, all of it, under its own brief: written, read back, audited and sealed into a docket of its own."
      width={820}
      onClose={() => {
        cancel();
        onClose();
      }}
    >
      {error && (
        <p role="alert" className="mt-3 text-[13px] text-stops">
          {error}
        </p>
      )}
      {rows === null ? (
        <Choose
          entries={entries}
          chosen={chosen}
          onChosen={setChosen}
          onSend={(what) => void run(list, what)}
        />
      ) : (
        <Results rows={rows} now={now} total={list.length} onCancel={cancel} onClose={onClose} />
      )}
    </PaperDialog>
  );
}

/** What goes along with every one of them. */
interface What {
  readonly by: string;
  readonly note: string;
  readonly format: string;
  readonly receiver: string;
}

/** Hands over one after the other; broken off, those that are sealed stay. */
function useHandingOver() {
  const [rows, setRows] = useState<readonly Row[] | null>(null);
  const [now, setNow] = useState<Now | null>(null);
  const abort = useRef<AbortController | null>(null);
  const run = async (list: readonly ShelfEntry[], what: What) => {
    const control = new AbortController();
    abort.current = control;
    const done: Row[] = [];
    setRows([]);
    for (const entry of list) {
      if (control.signal.aborted) break;
      setNow({ entry, stage: 'sending', share: 0 });
      done.push(await handOne(entry, what, control.signal, setNow));
      setRows([...done]);
    }
    setNow(null);
    if (useDockets.getState().of === null) await loadDockets(null);
  };
  return { rows, now, run, cancel: () => abort.current?.abort() };
}

async function handOne(
  entry: ShelfEntry,
  what: What,
  signal: AbortSignal,
  tell: (now: Now) => void,
): Promise<Row> {
  try {
    const { id: docket } = await askWork(
      addressOf({ method: 'POST', path: handOverPath }, { id: entry.id }),
      { revision: entry.head, ...what },
      ({ stage, share }) => tell({ entry, stage, share }),
      signal,
      'The connection broke off before the docket was sealed.',
    );
    return { entry, docket };
  } catch (error) {
    return { entry, error: signal.aborted ? 'cancelled' : messageOf(error) };
  }
}

function Choose({
  entries,
  chosen,
  onChosen,
  onSend,
}: {
  /** Null until the shelf has told. */
  entries: readonly ShelfEntry[] | null;
  chosen: ReadonlySet<string>;
  onChosen: (chosen: ReadonlySet<string>) => void;
  onSend: (what: What) => void;
}) {
  const [by, setBy] = useState(keptName);
  const [note, setNote] = useState('');
  const [format, setFormat] = useState('glb');
  const receiver = useReceiverAsked();
  const { title } = useReceiver((s) => s.receiver);
  const all = entries ?? [];
  const isAll = all.length > 0 && chosen.size === all.length;
  const isReady = chosen.size > 0 && by.trim() !== '';
  const toggle = (id: string) =>
    onChosen(new Set(chosen.has(id) ? [...chosen].filter((x) => x !== id) : [...chosen, id]));
  const choose = (some: readonly ShelfEntry[]) => onChosen(new Set(some.map((e) => e.id)));
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (!isReady) return;
        keepName(by.trim());
        onSend({ by: by.trim(), note: note.trim(), format, receiver });
      }}
    >
      <div className="mt-3 grid grid-cols-3 gap-3 text-[13px]">
        <label>
          By, kept in this browser
          <input value={by} maxLength={200} onChange={(e) => setBy(e.target.value)} className={field} />
        </label>
        <label>
          Note
          <input value={note} maxLength={2000} onChange={(e) => setNote(e.target.value)} className={field} />
        </label>
        <label>
          Format
          <select value={format} onChange={(e) => setFormat(e.target.value)} className={field}>
            <option value="glb">binary glTF 2.0</option>
            <option value="dae">COLLADA 1.4.1</option>
          </select>
        </label>
      </div>
      <div className="mt-3 flex items-center gap-2 text-[13px] text-soft">
        <span className="flex-1">Held against the receiver that was chosen last: {title}.</span>
        <Button
          small
          kind="quiet"
          disabled={!entries}
          onClick={() => choose(all.filter((e) => e.counts?.stops === 0))}
        >
          Those that nothing stops
        </Button>
        <Button small kind="quiet" disabled={!entries} onClick={() => choose(isAll ? [] : all)}>
          {isAll ? 'None' : 'All'}
        </Button>
      </div>
      <ul className="mt-1 max-h-[40vh] overflow-y-auto" aria-label="Characters">
        {all.map((e) => (
          <li key={e.id} className="border-b border-rule">
            <label className="flex items-center gap-2.5 py-1.5 text-[13.5px]">
              <input
                type="checkbox"
                checked={chosen.has(e.id)}
                onChange={() => toggle(e.id)}
                className="accent-[var(--leaf)]"
              />
              <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
                {e.name} <span className="text-soft">revision {e.number}</span>
              </span>
              <span className="text-[12.5px] text-soft">{e.wants?.title}</span>
              <span className="w-[230px] text-[12.5px] font-semibold">
                <Tally counts={e.counts} />
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

function Results({
  rows,
  now,
  total,
  onCancel,
  onClose,
}: {
  rows: readonly Row[];
  now: Now | null;
  total: number;
  onCancel: () => void;
  onClose: () => void;
}) {
  const entries = useDockets((s) => s.entries) ?? [];
  return (
    <div className="mt-3">
      {now && (
        <UnderWay
          stage={`${now.entry.name}: ${now.stage}`}
          share={(rows.length + now.share) / Math.max(1, total)}
          label="Handed over so far"
          onCancel={onCancel}
        />
      )}
      <table className="mt-2 w-full text-[13.5px]" aria-label="What came of it">
        <tbody>
          {rows.map((r) => (
            <ResultRow key={r.entry.id} row={r} docket={entries.find((d) => d.id === r.docket)} />
          ))}
        </tbody>
      </table>
      {!now && (
        <div className="mt-4 flex justify-end">
          <Button onClick={onClose}>Close</Button>
        </div>
      )}
    </div>
  );
}

function ResultRow({ row: { entry, docket: id, error }, docket }: { row: Row; docket?: DocketEntry }) {
  return (
    <tr className="border-b border-rule align-top">
      <th scope="row" className="py-1.5 pr-3 text-left font-semibold [overflow-wrap:anywhere]">
        {entry.name}
      </th>
      <td className="py-1.5 pr-3">
        {error && <span className="text-stops">{error}</span>}
        {docket && <Tally counts={docket.counts} empty="nothing open" />}
        {docket && docket.waived > 0 && <span className="ml-2 text-soft">{docket.waived} waived</span>}
        {id && !docket && <span className="text-fine">sealed</span>}
      </td>
      <td className="py-1.5">{docket && <DocketLinks docket={docket} />}</td>
    </tr>
  );
}
