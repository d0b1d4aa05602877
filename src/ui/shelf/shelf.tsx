'use client';

import { Loader2, Plus, Trash2, X } from 'lucide-react';
import Link from 'next/link';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { AlertDialog } from 'radix-ui';
import { type Brief } from '@/core/house/brief';
import { BRIEFS, briefById } from '@/core/house/briefs';
import { forgetLook } from '../desk/look';
import { type Surveyed, api, sendFiles, surveyFiles } from '../kit/api';
import { AskUnits } from '../kit/ask-units';
import { Button } from '../kit/button';
import { ago } from '../kit/format';
import { Tally } from '../kit/gravity';

interface Row {
  id: string;
  name: string;
  brief: string;
  head: string;
  updatedAt: string;
  number: number;
  label: string;
  picture: string | null;
  counts: { stops: number; worth: number; note: number } | null;
}
interface Arrival {
  key: number;
  names: string;
  files: File[];
  survey?: Surveyed;
  answer?: (fields: { unit: string; up: string }) => void;
  stage: string;
  share: number;
  id?: string;
  name?: string;
  notes?: string[];
  message?: string;
  cancel: AbortController;
}

let counter = 0;

/** The shelf: the characters with their pictures, and the place to bring in more. */
export function Shelf() {
  const [rows, setRows] = useState<Row[] | null>(null);
  const [error, setError] = useState<{ text: string; again: () => void } | null>(null);
  const [arrivals, setArrivals] = useState<Arrival[]>([]);
  const [brief, setBrief] = useState(BRIEFS[0].id);
  const alive = useRef(true);

  const load = useCallback(async () => {
    try {
      setRows((await api<{ characters: Row[] }>('/api/characters')).characters);
      setError(null);
    } catch (e) {
      setError({ text: e instanceof Error ? e.message : String(e), again: () => void load() });
    }
  }, []);
  useEffect(() => {
    alive.current = true;
    void load();
    return () => {
      alive.current = false;
    };
  }, [load]);

  const take = useCallback(
    async (files: File[]) => {
      if (files.length === 0) return;
      const arrival: Arrival = {
        key: ++counter,
        names: files.map((f) => f.name).join(', '),
        files,
        stage: 'looking into it',
        share: 0.01,
        cancel: new AbortController(),
      };
      setArrivals((a) => [...a, arrival]);
      const change = (c: Partial<Arrival>) => {
        if (alive.current) setArrivals((a) => a.map((x) => (x.key === arrival.key ? { ...x, ...c } : x)));
      };
      const refused = (e: unknown) =>
        change({
          stage: 'refused',
          share: 1,
          survey: undefined,
          message: arrival.cancel.signal.aborted
            ? 'Cancelled; nothing was saved.'
            : e instanceof Error
              ? e.message
              : String(e),
        });
      const send = async (fields: { unit: string; up: string }) => {
        change({ survey: undefined, stage: 'sending', share: 0.02 });
        try {
          await sendFiles('/api/characters', files, { brief, ...fields }, change, arrival.cancel.signal);
          await load();
        } catch (e) {
          refused(e);
        }
      };
      try {
        const survey = await surveyFiles(files, arrival.cancel.signal);
        if (survey)
          change({ stage: 'waiting for your answer', survey, answer: (fields) => void send(fields) });
        else await send({ unit: '', up: '' });
      } catch (e) {
        refused(e);
      }
    },
    [brief, load],
  );

  const remove = async (row: Row) => {
    try {
      await api(`/api/characters/${row.id}`, { method: 'DELETE' });
      forgetLook(row.id);
      await load();
    } catch (e) {
      setError({
        text: `“${row.name}” was not removed. ${e instanceof Error ? e.message : String(e)}`,
        again: () => void remove(row),
      });
    }
  };

  const drop = useDropzone({ onDrop: (files) => void take(files), noClick: true, noKeyboard: true });

  return (
    <div {...drop.getRootProps({ className: 'min-h-full' })}>
      <header className="flex h-[52px] items-center gap-4 border-b border-rule bg-sheet px-6">
        {/* eslint-disable-next-line @next/next/no-img-element */}
        <img src="/bough.svg" alt="" width={22} height={22} />
        <span className="title text-[19px]">Young Bough</span>
        <span className="text-soft">the shelf</span>
        <span className="flex-1" />
        <label className="flex items-center gap-2 text-soft">
          new ones for
          <select
            value={brief}
            onChange={(e) => setBrief(e.target.value)}
            className="h-8 rounded-[7px] border border-rule bg-sheet px-2 font-semibold text-ink"
          >
            {BRIEFS.map((b) => (
              <option key={b.id} value={b.id}>
                {b.title}
              </option>
            ))}
          </select>
        </label>
        <Button kind="leaf" onClick={drop.open}>
          <Plus size={15} />
          Bring in a character
        </Button>
        <input {...drop.getInputProps({ 'aria-label': 'Files of a character' })} />
      </header>
      <main className="mx-auto max-w-[1180px] px-6 pb-16 pt-8">
        <h1 className="title text-[30px]">Characters</h1>
        <p className="mt-1 max-w-[62ch] text-soft">
          Drop glTF, COLLADA, OBJ or BVH here, with the buffers, materials and pictures that belong to them;
          files dropped together become one character. Each is measured against its brief as it arrives.
        </p>
        {error && (
          <p role="alert" className="mt-4 rounded-lg border border-stops/40 bg-sheet px-4 py-3 text-stops">
            {error.text}{' '}
            <button type="button" className="underline" onClick={error.again}>
              Try again
            </button>
          </p>
        )}
        <div aria-live="polite" className="mt-4 space-y-2">
          {arrivals.map((a) => (
            <ArrivalRow
              key={a.key}
              arrival={a}
              brief={briefById(brief) ?? BRIEFS[0]}
              close={() => setArrivals((x) => x.filter((y) => y.key !== a.key))}
            />
          ))}
        </div>
        <ul className="mt-6 grid grid-cols-[repeat(auto-fill,minmax(256px,1fr))] gap-5">
          {rows?.map((r) => (
            <Card key={r.id} row={r} onRemove={() => void remove(r)} />
          ))}
          <li>
            <button
              type="button"
              onClick={drop.open}
              className="flex h-full min-h-[340px] w-full flex-col items-center justify-center gap-2 rounded-xl border-2 border-dashed border-rule text-soft transition-colors hover:border-leaf hover:text-ink"
            >
              <Plus size={26} strokeWidth={1.6} />
              <span className="font-semibold">Drop files anywhere</span>
              <span className="text-[12.5px]">or choose them here</span>
            </button>
          </li>
        </ul>
        {rows === null && !error && <p className="mt-8 text-soft">Fetching the shelf …</p>}
      </main>
      {drop.isDragActive && (
        <div className="fixed inset-0 z-20 grid place-items-center border-4 border-leaf bg-paper/85">
          <p className="title text-[28px]">Let go to bring it in</p>
        </div>
      )}
    </div>
  );
}

function Card({ row, onRemove }: { row: Row; onRemove: () => void }) {
  return (
    <li className="group relative overflow-hidden rounded-xl border border-rule bg-sheet transition-shadow hover:shadow-[0_6px_22px_rgba(34,48,43,0.10)]">
      <Link href={`/c/${row.id}`} className="block rounded-xl" aria-label={`Open ${row.name}`}>
        <div className="grid h-[232px] place-items-center bg-paper">
          {/* eslint-disable-next-line @next/next/no-img-element */}
          {row.picture ? (
            <img src={`/api/blobs/${row.picture}`} alt={`${row.name} at rest`} className="h-[222px] w-auto" />
          ) : null}
        </div>
        <div className="border-t border-rule px-4 py-3">
          <h2 className="title text-[18px] leading-tight break-words">{row.name}</h2>
          <p className="text-[12.5px] text-soft">for {briefById(row.brief)?.title ?? row.brief}</p>
          <p className="mt-2 text-[12.5px] font-semibold">
            <Tally counts={row.counts} />
          </p>
          <p className="mt-2 text-[12.5px] text-soft">
            revision {row.number}, “{row.label}” · {ago(row.updatedAt)}
          </p>
        </div>
      </Link>
      <AlertDialog.Root>
        <AlertDialog.Trigger asChild>
          <button
            type="button"
            aria-label={`Remove ${row.name}`}
            className="absolute right-2 top-2 grid h-8 w-8 place-items-center rounded-full border border-transparent text-soft opacity-0 transition-opacity hover:border-rule hover:bg-sheet hover:text-stops focus-visible:opacity-100 group-hover:opacity-100"
          >
            <Trash2 size={15} />
          </button>
        </AlertDialog.Trigger>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fixed inset-0 z-30 bg-ink/25" />
          <AlertDialog.Content className="fixed left-1/2 top-1/2 z-40 w-[420px] -translate-x-1/2 -translate-y-1/2 rounded-xl border border-rule bg-sheet p-6">
            <AlertDialog.Title className="title text-[20px]">Remove “{row.name}”?</AlertDialog.Title>
            <AlertDialog.Description className="mt-2 text-soft">
              All of its revisions go with it. Files that you have downloaded stay where they are.
            </AlertDialog.Description>
            <div className="mt-5 flex justify-end gap-2">
              <AlertDialog.Cancel asChild>
                <Button>Keep it</Button>
              </AlertDialog.Cancel>
              <AlertDialog.Action asChild>
                <Button className="!border-stops !text-stops" onClick={onRemove}>
                  Remove
                </Button>
              </AlertDialog.Action>
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </li>
  );
}

function ArrivalRow({ arrival: a, brief, close }: { arrival: Arrival; brief: Brief; close: () => void }) {
  const over = a.stage === 'done' || a.stage === 'refused';
  return (
    <div className="rounded-lg border border-rule bg-sheet px-4 py-3">
      <div className="flex items-center gap-3">
        {!over && !a.survey && <Loader2 size={16} className="animate-spin text-leaf" aria-hidden />}
        <span className="mono min-w-0 truncate" title={a.names}>
          {a.names}
        </span>
        <span className={a.stage === 'refused' ? 'text-stops' : 'text-soft'}>
          {a.stage === 'done'
            ? 'is on the shelf'
            : a.stage === 'refused'
              ? 'was not taken in'
              : `${a.stage} …`}
        </span>
        <span className="flex-1" />
        {a.id && (
          <Link href={`/c/${a.id}`} className="font-semibold text-leaf underline">
            Open {a.name}
          </Link>
        )}
        {over ? (
          <button
            type="button"
            aria-label="Close this message"
            onClick={close}
            className="text-soft hover:text-ink"
          >
            <X size={16} />
          </button>
        ) : (
          !a.survey && (
            <Button small onClick={() => a.cancel.abort()}>
              Cancel
            </Button>
          )
        )}
      </div>
      {a.survey && a.answer && (
        <AskUnits survey={a.survey} brief={brief} onAnswer={a.answer} onCancel={close} />
      )}
      {!over && !a.survey && (
        <div
          role="progressbar"
          aria-label="Progress"
          aria-valuenow={Math.round(a.share * 100)}
          className="mt-2 h-1 overflow-hidden rounded bg-wash"
        >
          <div className="h-full bg-leaf transition-[width]" style={{ width: `${a.share * 100}%` }} />
        </div>
      )}
      {a.message && <p className="mt-1 text-stops">{a.message}</p>}
      {a.notes && a.notes.length > 0 && (
        <ul className="mt-1 list-disc pl-5 text-[13px] text-soft">
          {a.notes.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
      {a.stage === 'done' && a.notes?.length === 0 && (
        <p className="mt-1 text-[13px] text-soft">Everything that the file holds was carried over.</p>
      )}
    </div>
  );
}
