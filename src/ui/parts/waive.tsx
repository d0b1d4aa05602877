'use client';

import clsx from 'clsx';
import { useEffect, useState } from 'react';
import type { Finding } from '@/core/contracts/finding';
import { ROOM_WORDS, type RoomId } from '@/core/contracts/rooms';
import { WAIVER_WORDS, type Waiver } from '@/core/contracts/waiver';
import { checkById } from '@/core/house/registry';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { sentence, today } from '../kit/format';
import { Mark } from '../kit/gravity';
import { chooseFinding } from '../state/choose';
import { type WaiverOnDesk, headOf } from '../state/document';
import { setDesk, useDesk } from '../state/store';
import { keepName, keptName, waive, withdraw } from '../state/waivers';

const field = 'mt-1 w-full rounded-md border border-rule bg-paper px-2.5 py-1.5 text-[14px]';

/** How long a waiver holds, in words; nothing where it always does. */
export function untilWords({ until, untilRevision }: Pick<Waiver, 'until' | 'untilRevision'>): string {
  const words = [until && `until ${until}`, untilRevision && `until revision ${untilRevision}`];
  return words.filter(Boolean).join(', ');
}

const closeWaiving = () => setDesk({ dialog: null });

/** What can be done about the chosen finding besides mending it: waiving it, or withdrawing what waives it. */
export function Waiving({ finding }: { finding: Finding }) {
  const waiver = useDesk(
    (state) => state.waived.find((candidate) => candidate.finding.key === finding.key)?.waiver,
  );
  const grown = useDesk((state) =>
    state.waiverNotes.find((note) => note.key === finding.key && note.state !== 'idle'),
  );
  if (waiver)
    return (
      <div className="mt-2.5 rounded-lg border border-rule px-3 py-2 text-[13px]">
        <WaivedBy waiver={waiver} />
        <Withdraw waiver={waiver} />
      </div>
    );
  return (
    <div className="mt-1.5 text-[13px] text-soft">
      {grown && (
        <p className="mb-2">
          {grown.waiver.by} waived it, “{grown.waiver.reason}”: {WAIVER_WORDS[grown.state]}.
        </p>
      )}
      <Button
        small
        kind="quiet"
        className="-ml-2.5"
        title="Accept it as it is, with a reason (Z)"
        onClick={() => setDesk({ dialog: 'waive' })}
      >
        Waive it …
      </Button>
    </div>
  );
}

function WaivedBy({ waiver }: { waiver: WaiverOnDesk }) {
  const until = untilWords(waiver);
  return (
    <p className="[overflow-wrap:anywhere]">
      Waived by <span className="font-semibold">{waiver.by}</span>
      {until && `, ${until}`}: {waiver.reason}
    </p>
  );
}

/** Takes a waiver back; with it all findings that it covers come back. */
function Withdraw({ waiver, word = 'Withdraw' }: { waiver: WaiverOnDesk; word?: string }) {
  const { length } = waiver.keys;
  return (
    <Button
      small
      className="mt-1.5"
      title={
        length > 1 ? `All ${length} findings that it covers are open again` : 'The finding is open again'
      }
      onClick={() => void withdraw(waiver.id, keptName() || waiver.by)}
    >
      {word}
      {length > 1 && ` all ${length}`}
    </Button>
  );
}

/** What is waived in a room, struck through, and waivers of the room that are needed no longer. */
export function WaivedList({ room }: { room: RoomId }) {
  const all = useDesk((state) => state.waived);
  const notes = useDesk((state) => state.waiverNotes);
  const record = useDesk((state) => state.record);
  const chosen = useDesk((state) => state.chosen);
  const waived = all.filter((finding) => finding.finding.room === room);
  const toldOf = (id: string, key: string) =>
    record?.waivers.find((waiver) => waiver.id === id)?.findings.find((finding) => finding.key === key);
  const mine = notes.filter(
    (note) => checkById(toldOf(note.waiver.id, note.key)?.check ?? '')?.room === room,
  );
  if (waived.length + mine.length === 0) return null;
  return (
    <section aria-label="Waived" className="border-b border-rule bg-wash/40">
      <h3 className="px-[18px] pb-1 pt-2.5 text-[12.5px] font-semibold text-soft">
        {waived.length > 0 ? `${waived.length} waived` : 'Waived before'}
      </h3>
      <ul className="text-[13px] text-soft">
        {waived.map(({ finding, waiver }) => (
          <li key={finding.key}>
            <button
              type="button"
              aria-pressed={finding.key === chosen}
              onClick={() => chooseFinding(finding.key)}
              className={clsx(
                'flex w-full gap-3 px-[18px] py-1.5 text-left',
                finding.key === chosen ? 'bg-damson-wash' : 'hover:bg-wash',
              )}
            >
              <span className="pt-1 opacity-60">
                <Mark gravity={finding.gravity} />
              </span>
              <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
                <s className="line-clamp-2" title={finding.message}>
                  {sentence(finding.message)}
                </s>
                <span className="block text-ink">
                  {waiver.by}: {waiver.reason}
                </span>
              </span>
            </button>
          </li>
        ))}
        {mine.map(({ key, waiver, state }) => (
          <li key={`${waiver.id} ${key}`} className="px-[18px] py-1.5">
            {state === 'idle' ? (
              <s className="line-clamp-1">{toldOf(waiver.id, key)?.message}</s>
            ) : (
              <span className="line-clamp-2">{toldOf(waiver.id, key)?.message}</span>
            )}
            <span>
              {waiver.by}: {waiver.reason};{' '}
              <span className={state === 'idle' ? undefined : 'font-semibold text-worth'}>
                {WAIVER_WORDS[state]}
              </span>
              .{' '}
            </span>
            {waiver.keys.every((key) =>
              mine.some((note) => note.key === key && note.waiver.id === waiver.id),
            ) && <Withdraw waiver={waiver} word="Clear away" />}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Asks why the chosen finding, or several of its kind, are accepted, by whom, and for how long. */
export function WaiveDialog() {
  const isOpen = useDesk((state) => state.dialog === 'waive');
  const finding = useDesk((state) => state.findings?.find((finding) => finding.key === state.chosen));
  // What is not there any more cannot be asked about, and a dialog that nobody sees would hold the keys.
  useEffect(() => {
    if (isOpen && !finding) closeWaiving();
  }, [isOpen, finding]);
  return isOpen && finding ? <WaiveForm key={finding.key} finding={finding} /> : null;
}

type Until = 'always' | 'day' | 'revision';

function WaiveForm({ finding }: { finding: Finding }) {
  const findings = useDesk((state) => state.findings);
  const head = useDesk((state) => headOf(state.record)?.number ?? 1);
  const alike = findings?.filter((candidate) => candidate.check === finding.check) ?? [finding];
  const [keys, setKeys] = useState<ReadonlySet<string>>(new Set([finding.key]));
  const [reason, setReason] = useState('');
  const [by, setBy] = useState(keptName);
  const [until, setUntil] = useState<Until>('always');
  const [day, setDay] = useState('');
  const [revision, setRevision] = useState(head);
  const [isBusy, setIsBusy] = useState(false);
  const isReady =
    keys.size > 0 && reason.trim() !== '' && by.trim() !== '' && (until !== 'day' || day !== '') && !isBusy;
  const send = async () => {
    setIsBusy(true);
    keepName(by.trim());
    const kept = await waive([...keys], {
      reason: reason.trim(),
      by: by.trim(),
      ...(until === 'day' && { until: day }),
      ...(until === 'revision' && { untilRevision: revision }),
    });
    setIsBusy(false);
    if (kept) closeWaiving();
  };
  return (
    <PaperDialog
      title="Waive, with a reason"
      about={`${ROOM_WORDS[finding.room]}: ${checkById(finding.check)?.title ?? finding.check}. It stands apart then and stops nothing, as long as it does not grow.`}
      width={520}
      onClose={closeWaiving}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (isReady) void send();
        }}
      >
        <Which alike={alike} keys={keys} onKeys={setKeys} />
        <label className="mt-3 block text-[13px]">
          Reason
          <textarea
            value={reason}
            maxLength={2000}
            rows={2}
            autoFocus
            onChange={(event) => setReason(event.target.value)}
            className={field}
          />
        </label>
        <Reasons finding={finding} onReason={setReason} />
        <label className="mt-3 block text-[13px]">
          Your name, kept in this browser
          <input
            value={by}
            maxLength={200}
            onChange={(event) => setBy(event.target.value)}
            className={field}
          />
        </label>
        <HowLong
          until={until}
          onUntil={setUntil}
          day={day}
          onDay={setDay}
          revision={revision}
          onRevision={setRevision}
          head={head}
        />
        <Error />
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={closeWaiving}>Cancel</Button>
          <Button kind="leaf" type="submit" disabled={!isReady}>
            {keys.size > 1 ? `Waive ${keys.size} findings` : 'Waive'}
          </Button>
        </div>
      </form>
    </PaperDialog>
  );
}

/** Reasons that are often given for findings of this kind: one press writes them. */
function Reasons({ finding, onReason }: { finding: Finding; onReason: (reason: string) => void }) {
  const reasons = checkById(finding.check)?.waiverReasons ?? [];
  if (reasons.length === 0) return null;
  return (
    <div className="mt-1.5 flex flex-wrap gap-1.5" role="group" aria-label="Reasons that are often given">
      {reasons.map((reason) => (
        <Button
          key={reason}
          small
          className="h-auto py-1 text-left whitespace-normal"
          onClick={() => onReason(reason)}
        >
          {reason}
        </Button>
      ))}
    </div>
  );
}

function Error() {
  const error = useDesk((state) => state.error);
  if (!error) return null;
  return (
    <p role="alert" className="mt-3 text-[13px] text-stops">
      {error}
    </p>
  );
}

/** Which findings of the kind: the one that is chosen, some, or all. */
function Which({
  alike,
  keys,
  onKeys,
}: {
  alike: readonly Finding[];
  keys: ReadonlySet<string>;
  onKeys: (keys: ReadonlySet<string>) => void;
}) {
  const toggle = (key: string) =>
    onKeys(new Set(keys.has(key) ? [...keys].filter((otherKey) => otherKey !== key) : [...keys, key]));
  if (alike.length === 1) return <p className="mt-3 font-semibold">{sentence(alike[0].message)}</p>;
  const isAll = keys.size === alike.length;
  return (
    <fieldset className="mt-3">
      <legend className="flex w-full items-baseline gap-3 text-[13px]">
        <span className="flex-1">
          {keys.size} of {alike.length} of this kind
        </span>
        <Button small onClick={() => onKeys(new Set(isAll ? [] : alike.map((finding) => finding.key)))}>
          {isAll ? 'None' : 'All of them'}
        </Button>
      </legend>
      <ul className="scroll mt-1 max-h-[190px] overflow-y-auto rounded-md border border-rule text-[13px]">
        {alike.map((finding) => (
          <li key={finding.key} className="border-b border-rule last:border-b-0">
            <label className="flex gap-2.5 px-2.5 py-1.5">
              <input
                type="checkbox"
                checked={keys.has(finding.key)}
                onChange={() => toggle(finding.key)}
                className="mt-1 accent-[var(--leaf)]"
              />
              <span className="min-w-0 [overflow-wrap:anywhere]">{sentence(finding.message)}</span>
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}

function HowLong({
  until,
  onUntil,
  day,
  onDay,
  revision,
  onRevision,
  head,
}: {
  until: Until;
  onUntil: (until: Until) => void;
  day: string;
  onDay: (day: string) => void;
  revision: number;
  onRevision: (revision: number) => void;
  head: number;
}) {
  const small = 'rounded-md border border-rule bg-paper px-2 py-1 text-[13px]';
  return (
    <div className="mt-3 flex items-end gap-2 text-[13px]">
      <label>
        How long
        <select
          value={until}
          onChange={(event) => onUntil(event.target.value as Until)}
          className={`${small} mt-1 block h-8`}
        >
          <option value="always">as long as it does not grow</option>
          <option value="day">until a day</option>
          <option value="revision">until a revision</option>
        </select>
      </label>
      {until === 'day' && (
        <label>
          Its last day
          <input
            type="date"
            value={day}
            min={today()}
            onChange={(event) => onDay(event.target.value)}
            className={`${small} mt-1 block h-8`}
          />
        </label>
      )}
      {until === 'revision' && (
        <label>
          Its last revision
          <input
            type="number"
            value={revision}
            min={head}
            onChange={(event) => onRevision(Math.max(head, Math.round(Number(event.target.value))))}
            className={`${small} mt-1 block h-8 w-24 text-right`}
          />
        </label>
      )}
    </div>
  );
}
