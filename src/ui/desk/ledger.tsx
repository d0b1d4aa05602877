'use client';

import clsx from 'clsx';
import { Dialog } from 'radix-ui';
import { Copy, GitCompare, Loader2, PackagePlus, Pencil, X } from 'lucide-react';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import { type ToldLine, api, sendFiles } from '../kit/api';
import { Button } from '../kit/button';
import { effectsText } from '@/core/contracts/effects-words';
import { ago } from '../kit/format';
import { Mark } from '../kit/gravity';
import { type Revision, type Sheet, compare, moveTo, refresh, useDesk, writeOn } from './store';

const WIDE = 250;
const GAP = 16;
const TALL = 128;
const ROW = TALL + 10;

/** Each revision on a twig of its own line: the first child goes on where its parent lies, every other one branches off below. */
function twigsOf(revisions: readonly Revision[]): Map<string, number> {
  const row = new Map<string, number>();
  const taken = new Set<string>();
  let rows = 0;
  for (const r of revisions) {
    const parent = r.parent ? row.get(r.parent) : undefined;
    if (parent !== undefined && !taken.has(r.parent as string)) {
      row.set(r.id, parent);
      taken.add(r.parent as string);
    } else {
      row.set(r.id, rows++);
    }
  }
  return row;
}

/** The line of revisions with its branches; labels, notes, pictures; going back, comparing, saving under a new name, a new delivery. */
export function Ledger() {
  const { sheet } = useDesk();
  const [writing, setWriting] = useState<Revision | null>(null);
  const [copying, setCopying] = useState<Revision | null>(null);
  if (!sheet) return null;
  const row = twigsOf(sheet.revisions);
  const at = new Map(
    sheet.revisions.map((r, i) => [r.id, { x: i * (WIDE + GAP), y: (row.get(r.id) ?? 0) * ROW }]),
  );
  const rows = Math.max(...row.values()) + 1;
  return (
    <div>
      <div className="flex items-center gap-2 px-4 pb-2">
        <Delivery sheet={sheet} />
        <span className="text-[12.5px] text-soft">
          A step on an older revision branches off from it; nothing is ever overwritten.
        </span>
      </div>
      <div className="scroll max-h-[292px] overflow-auto px-4 pb-3">
        <ol className="relative" style={{ width: sheet.revisions.length * (WIDE + GAP), height: rows * ROW }}>
          <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
            {sheet.revisions.map((r) => {
              const from = r.parent ? at.get(r.parent) : undefined;
              const to = at.get(r.id);
              if (!from || !to) return null;
              const [x0, y0, x1, y1] = [from.x + WIDE, from.y + TALL / 2, to.x, to.y + TALL / 2];
              return (
                <path
                  key={r.id}
                  d={
                    from.y === to.y
                      ? `M${x0} ${y0}L${x1} ${y1}`
                      : `M${x0 - 24} ${from.y + TALL}C${x0 - 24} ${y1} ${x0 - 10} ${y1} ${x1} ${y1}`
                  }
                  fill="none"
                  stroke="var(--bark)"
                  strokeWidth="2.5"
                  strokeLinecap="round"
                />
              );
            })}
          </svg>
          {sheet.revisions.map((r) => (
            <Leaf
              key={r.id}
              r={r}
              sheet={sheet}
              place={at.get(r.id) ?? { x: 0, y: 0 }}
              onWrite={() => setWriting(r)}
              onCopy={() => setCopying(r)}
            />
          ))}
        </ol>
      </div>
      {writing && <Write key={writing.id} r={writing} onClose={() => setWriting(null)} />}
      {copying && <SaveAs key={copying.id} r={copying} sheet={sheet} onClose={() => setCopying(null)} />}
    </div>
  );
}

function Leaf({
  r,
  sheet,
  place,
  onWrite,
  onCopy,
}: {
  r: Revision;
  sheet: Sheet;
  place: { x: number; y: number };
  onWrite: () => void;
  onCopy: () => void;
}) {
  const { busy, brief, compared } = useDesk();
  const on = r.id === sheet.head;
  // Where one stands is in sight, however long the line has become.
  const at = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (on) at.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [on]);
  const icon = 'grid h-6 w-6 place-items-center rounded text-soft hover:bg-wash hover:text-ink';
  const rows = r.step.kind === 'delivery' ? r.step.rows : undefined;
  const lost = rows?.filter((x) => x.outcome === 'does not fit').length ?? 0;
  return (
    <li
      ref={at}
      className={clsx(
        'absolute flex gap-2.5 overflow-hidden rounded-lg border p-2',
        on ? 'border-damson bg-damson-wash' : 'border-rule bg-sheet',
      )}
      style={{ left: place.x, top: place.y, width: WIDE, height: TALL }}
    >
      {/* eslint-disable-next-line @next/next/no-img-element */}
      {r.picture && <img src={`/api/blobs/${r.picture}`} alt="" className="h-[84px] w-auto self-start" />}
      <div className="flex min-w-0 flex-1 flex-col text-[12.5px]">
        <p className="flex items-center font-semibold">
          <span className="flex-1">
            Revision {r.number}
            {on && <span className="ml-1.5 text-damson">here</span>}
          </span>
          <button
            type="button"
            className={icon}
            aria-label={`Label and note of revision ${r.number}`}
            title="Label, note, and all that it touched"
            onClick={onWrite}
          >
            <Pencil size={12} />
          </button>
          <button
            type="button"
            className={icon}
            aria-label={`Save revision ${r.number} under a new name`}
            title="Save under a new name"
            onClick={onCopy}
          >
            <Copy size={12} />
          </button>
        </p>
        <p
          className="line-clamp-2 leading-snug break-words"
          title={effectsText(r.effects, brief.unit) || r.label}
        >
          {r.label}
        </p>
        {r.note && (
          <p className="truncate text-damson" title={r.note}>
            {r.note}
          </p>
        )}
        {rows && (
          <p
            className={lost > 0 ? 'text-worth' : 'text-soft'}
            title={rows.map((x) => `${x.label}: ${x.outcome}${x.why ? ` (${x.why})` : ''}`).join('\n')}
          >
            {rows.length} steps done again{lost > 0 ? `, ${lost} no longer fit` : ''}
          </p>
        )}
        <p className="flex items-center gap-2.5 text-soft">
          {ago(r.createdAt)}
          {r.counts && <Marks counts={r.counts} />}
        </p>
        <span className="mt-auto flex gap-1">
          {!on && (
            <Button
              small
              className="!h-6 !px-2"
              disabled={!!busy}
              onClick={() => void moveTo(r.id, 'Gone back')}
            >
              Go here
            </Button>
          )}
          {!on && (
            <Button
              small
              className="!h-6 !px-2"
              aria-pressed={compared?.a === r.id}
              title="Lay this revision beside the one you are on"
              onClick={() => void compare(r.id, sheet.head)}
            >
              <GitCompare size={12} />
              Compare
            </Button>
          )}
        </span>
      </div>
    </li>
  );
}

/** What was open on a revision, in marks and figures. */
function Marks({ counts }: { counts: NonNullable<Revision['counts']> }) {
  if (counts.stops + counts.worth === 0) return <span className="font-semibold text-fine">✓ clean</span>;
  return (
    <>
      {(['stops', 'worth'] as const)
        .filter((g) => counts[g] > 0)
        .map((g) => (
          <span
            key={g}
            className={`inline-flex items-center gap-1 font-semibold ${g === 'stops' ? 'text-stops' : 'text-worth'}`}
          >
            <Mark gravity={g} size={9} />
            {counts[g]}
          </span>
        ))}
    </>
  );
}

function Sheetlet({
  title,
  about,
  onClose,
  children,
}: {
  title: string;
  about: string;
  onClose: () => void;
  children: React.ReactNode;
}) {
  return (
    <Dialog.Root
      open
      onOpenChange={(o) => {
        if (!o) onClose();
      }}
    >
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/25" />
        <Dialog.Content className="fixed left-1/2 top-1/2 z-40 max-h-[86vh] w-[480px] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-xl border border-rule bg-sheet p-6">
          <div className="flex items-start justify-between gap-4">
            <Dialog.Title className="title text-[21px]">{title}</Dialog.Title>
            <Dialog.Close aria-label="Close" className="text-soft hover:text-ink">
              <X size={18} />
            </Dialog.Close>
          </div>
          <Dialog.Description className="text-[13px] text-soft">{about}</Dialog.Description>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

const field = 'mt-1 w-full rounded-md border border-rule bg-paper px-2.5 py-1.5 text-[14px]';

function Write({ r, onClose }: { r: Revision; onClose: () => void }) {
  const { brief } = useDesk();
  const changed = r.effects.kind === 'changed' ? r.effects : null;
  const [label, setLabel] = useState(r.label);
  const [note, setNote] = useState(r.note);
  return (
    <Sheetlet
      title={`Revision ${r.number}`}
      about={effectsText(r.effects, brief.unit) || 'What it holds never changes; its words may.'}
      onClose={onClose}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void writeOn(r.id, { label, note }).then(onClose);
        }}
      >
        <label className="mt-3 block text-[13px]">
          Label
          <input value={label} maxLength={200} onChange={(e) => setLabel(e.target.value)} className={field} />
        </label>
        <label className="mt-3 block text-[13px]">
          Note
          <textarea
            value={note}
            maxLength={4000}
            rows={4}
            onChange={(e) => setNote(e.target.value)}
            className={field}
          />
        </label>
        {(
          [
            ['Nodes it touched', changed?.nodes],
            ['Meshes', changed?.meshes],
            ['Binds of the joints', changed?.joints],
            ['Clips', changed?.clips],
            ['Removed', changed?.removed],
          ] as const
        ).map(([word, names]) =>
          names && names.length > 0 ? (
            <p key={word} className="mt-1.5 text-[12.5px] leading-snug text-soft">
              {word}:{' '}
              <span className="mono break-words text-ink">
                {names.slice(0, 24).join(', ')}
                {names.length > 24 ? ` and ${names.length - 24} more` : ''}
              </span>
            </p>
          ) : null,
        )}
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="leaf" type="submit" disabled={label.trim() === ''}>
            Keep the words
          </Button>
        </div>
      </form>
    </Sheetlet>
  );
}

function SaveAs({ r, sheet, onClose }: { r: Revision; sheet: Sheet; onClose: () => void }) {
  const [name, setName] = useState(`${sheet.name}, from revision ${r.number}`);
  const [made, setMade] = useState<string | null>(null);
  const [error, setError] = useState<string | null>(null);
  const save = async () => {
    try {
      setMade(
        (
          await api<{ id: string }>(`/api/characters/${sheet.id}/copies`, {
            method: 'POST',
            body: { revision: r.id, name },
          })
        ).id,
      );
    } catch (e) {
      setError(e instanceof Error ? e.message : String(e));
    }
  };
  return (
    <Sheetlet
      title="Save under a new name"
      about={`Revision ${r.number}, “${r.label}”, becomes the first revision of a character of its own. This one stays as it is.`}
      onClose={onClose}
    >
      {made ? (
        <p className="mt-4">
          It is on the shelf.{' '}
          <Link href={`/c/${made}`} className="font-semibold text-leaf underline">
            Open {name}
          </Link>
        </p>
      ) : (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void save();
          }}
        >
          <label className="mt-3 block text-[13px]">
            Name
            <input
              value={name}
              maxLength={120}
              autoFocus
              onChange={(e) => setName(e.target.value)}
              className={field}
            />
          </label>
          {error && (
            <p role="alert" className="mt-2 text-[13px] text-stops">
              {error}
            </p>
          )}
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={onClose}>Cancel</Button>
            <Button kind="leaf" type="submit" disabled={name.trim() === ''}>
              Save
            </Button>
          </div>
        </form>
      )}
    </Sheetlet>
  );
}

/** A new delivery of the character: its files come in beside the line that is there, and the line's steps are done again on it. */
function Delivery({ sheet }: { sheet: Sheet }) {
  const input = useRef<HTMLInputElement>(null);
  const [line, setLine] = useState<ToldLine | null>(null);
  const [error, setError] = useState<string | null>(null);
  const cancel = useRef<AbortController | null>(null);
  const take = async (files: File[]) => {
    cancel.current = new AbortController();
    setError(null);
    setLine({ stage: 'sending', share: 0.02 });
    try {
      setLine(
        await sendFiles(
          `/api/characters/${sheet.id}/deliveries`,
          files,
          { base: sheet.head },
          setLine,
          cancel.current.signal,
        ),
      );
    } catch (e) {
      if (cancel.current.signal.aborted) setLine(null);
      else setError(e instanceof Error ? e.message : String(e));
    }
    await refresh();
  };
  const close = () => {
    if (line && line.stage !== 'done' && !error) cancel.current?.abort();
    setLine(null);
    setError(null);
  };
  return (
    <>
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
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = '';
          if (files.length > 0) void take(files);
        }}
      />
      {line && (
        <Sheetlet
          title="A new delivery"
          about="The recorded steps of the line you are on, done again on what came; nodes are found by their names."
          onClose={close}
        >
          {error ? (
            <p role="alert" className="mt-4 text-stops">
              {error}
            </p>
          ) : line.stage !== 'done' ? (
            <div className="mt-4">
              <p className="flex items-center gap-2">
                <Loader2 size={15} className="animate-spin text-leaf" aria-hidden />
                {line.stage} …
              </p>
              <div
                role="progressbar"
                aria-label="Progress"
                aria-valuenow={Math.round(line.share * 100)}
                className="mt-2 h-1 overflow-hidden rounded bg-wash"
              >
                <div className="h-full bg-leaf" style={{ width: `${line.share * 100}%` }} />
              </div>
              <Button small className="mt-3" onClick={close}>
                Cancel
              </Button>
            </div>
          ) : (
            <>
              {(line.rows?.length ?? 0) === 0 ? (
                <p className="mt-4">It is in the ledger. The line held no steps to do again.</p>
              ) : (
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
                    {line.rows?.map((r, i) => (
                      <tr key={i} className="border-t border-rule align-top">
                        <td className="py-1.5 pr-3">{r.label}</td>
                        <td className="py-1.5">
                          <span
                            className={clsx(
                              'font-semibold',
                              r.outcome === 'done'
                                ? 'text-fine'
                                : r.outcome === 'not needed'
                                  ? 'text-note'
                                  : 'text-stops',
                            )}
                          >
                            {r.outcome}
                          </span>
                          {r.why && <span className="block text-soft">{r.why}</span>}
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              )}
              {(line.notes?.length ?? 0) > 0 && (
                <ul className="mt-3 list-disc pl-5 text-[13px] text-soft">
                  {line.notes?.map((n) => (
                    <li key={n}>{n}</li>
                  ))}
                </ul>
              )}
              <div className="mt-4 flex justify-end">
                <Button kind="leaf" onClick={close}>
                  Go on with it
                </Button>
              </div>
            </>
          )}
        </Sheetlet>
      )}
    </>
  );
}
