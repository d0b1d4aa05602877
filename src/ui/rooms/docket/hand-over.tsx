'use client';

import clsx from 'clsx';
import Link from 'next/link';
import { useEffect, useMemo, useRef, useState } from 'react';
import { type Item, type ItemKind, itemsOf, withNeeds } from '@/core/rooms/docket/items';
import { Button } from '../../kit/button';
import { WholeFormats } from '../../parts/whole-formats';
import { ago, bytesText } from '../../kit/format';
import { Tally } from '../../kit/gravity';
import { UnderWay } from '../../kit/progress';
import { DocketLinks } from '../../parts/docket-links';
import { handOver, useDockets, watchDockets } from '../../state/dockets';
import { useReceiverAsked } from '../../state/receiver';
import { useDesk } from '../../state/store';
import { keepName, keptName } from '../../state/waivers';

const KINDS: readonly (readonly [ItemKind, string])[] = [
  ['mesh', 'Meshes'],
  ['prop', 'Props and rigid parts'],
  ['skeleton', 'Skeletons'],
  ['clip', 'Clips'],
  ['camera', 'Cameras'],
  ['light', 'Lights'],
];

const NOTHING: readonly Item[] = [];

const field = 'mt-1 w-full rounded-md border border-rule bg-paper px-2.5 py-1.5 text-[13.5px]';

/** What goes out, chosen thing by thing; by whom; and the sealing. */
export function HandOverPanel() {
  const character = useDesk((state) => state.character);
  const revision = useDesk((state) => state.revision);
  const items = useMemo(() => (character ? itemsOf(character) : NOTHING), [character]);
  return <HandOverForm key={revision} items={items} />;
}

function HandOverForm({ items }: { items: readonly Item[] }) {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [format, setFormat] = useState('glb');
  const [by, setBy] = useState(keptName);
  const [note, setNote] = useState('');
  const [isAsked, setAsked] = useState(true);
  const receiver = useReceiverAsked();
  const handing = useDockets((dockets) => dockets.handing);
  const busy = useDesk((state) => state.busy !== null);
  const chosen = useMemo(
    () => withNeeds(items, new Set(items.filter((item) => !left.has(item.id)).map((item) => item.id))),
    [items, left],
  );
  const stops = useDesk(
    (state) => state.findings?.filter((finding) => finding.gravity === 'stops').length ?? 0,
  );
  const [isMeant, setMeant] = useState(false);
  const missing = whatIsMissing({
    isAudited: useDesk((state) => state.findings !== null),
    hasChosen: chosen.size > 0,
    hasName: by.trim() !== '',
    isAgreed: stops === 0 || isMeant,
  });
  const isReady = missing === '' && !handing && !busy;
  const send = () => {
    keepName(by.trim());
    void handOver({
      items: chosen.size === items.length ? null : [...chosen],
      format,
      by: by.trim(),
      note: note.trim(),
      ...(isAsked && { receiver }),
    });
  };
  return (
    <form
      aria-label="Hand over"
      tabIndex={-1}
      className="outline-none rounded-lg border border-rule px-3.5 py-3 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        if (!isReady) return;
        // The button goes while it is handed over; the focus stays here until the docket is sealed.
        event.currentTarget.focus();
        send();
      }}
    >
      <h3 className="mb-1 text-[14px] font-semibold">Hand over</h3>
      <p className="text-soft">
        The file is written, read back and audited once more; all of it is sealed into a docket.
      </p>
      <ItemTree items={items} chosen={chosen} left={left} onLeft={setLeft} />
      <label className="mt-2.5 block">
        Format
        <select
          value={format}
          onChange={(event) => setFormat(event.target.value)}
          className={clsx(field, 'h-8')}
        >
          <WholeFormats />
        </select>
      </label>
      <label className="mt-2.5 block">
        By, kept in this browser
        <input value={by} maxLength={200} onChange={(event) => setBy(event.target.value)} className={field} />
      </label>
      <label className="mt-2.5 block">
        Note
        <input
          value={note}
          maxLength={2000}
          onChange={(event) => setNote(event.target.value)}
          className={field}
        />
      </label>
      <label className="mt-2.5 flex items-center gap-2">
        <input
          type="checkbox"
          checked={isAsked}
          onChange={(event) => setAsked(event.target.checked)}
          className="accent-[var(--leaf)]"
        />
        say how the receiver below holds it
      </label>
      {stops > 0 && (
        <label className="mt-2.5 flex items-start gap-2 text-stops">
          <input
            type="checkbox"
            checked={isMeant}
            onChange={(event) => setMeant(event.target.checked)}
            className="mt-1 accent-[var(--leaf)]"
          />
          <span>
            {stops === 1 ? 'One finding stops' : `${stops} findings stop`} hand-off; seal it all the same, and
            say so in docket and report
          </span>
        </label>
      )}
      {handing ? (
        <UnderWay
          stage={handing.stage}
          share={handing.share}
          label="Handed over so far"
          onCancel={() => handing.cancel.abort()}
          className="mt-3"
        />
      ) : (
        <Button kind="leaf" type="submit" className="mt-3 w-full" disabled={!isReady}>
          Seal and hand over
        </Button>
      )}
      {missing !== '' && !handing && <p className="mt-1.5 text-soft">{missing}</p>}
    </form>
  );
}

/** Why nothing can be sealed yet, as a sentence; '' where it can. */
function whatIsMissing(of: {
  isAudited: boolean;
  hasChosen: boolean;
  hasName: boolean;
  isAgreed: boolean;
}): string {
  if (!of.isAudited) return 'It is still being audited.';
  if (!of.hasChosen) return 'Choose something that goes out.';
  if (!of.hasName) return 'Say by whom it is handed over.';
  return of.isAgreed ? '' : 'Mend what stops it, or say that it is meant so.';
}

/** Everything that can go out, with a box and its size; what something else needs goes along with it. */
function ItemTree({
  items,
  chosen,
  left,
  onLeft,
}: {
  items: readonly Item[];
  chosen: ReadonlySet<string>;
  left: ReadonlySet<string>;
  onLeft: (left: ReadonlySet<string>) => void;
}) {
  const set = (ids: readonly string[], isOut: boolean) => {
    const next = new Set(left);
    for (const id of ids)
      if (isOut) next.delete(id);
      else next.add(id);
    onLeft(next);
  };
  const size = (some: readonly Item[]) => bytesText(some.reduce((sum, item) => sum + item.bytes, 0));
  const out = items.filter((item) => chosen.has(item.id));
  return (
    <fieldset className="mt-2.5 rounded-md border border-rule">
      <legend className="sr-only">What goes out</legend>
      <div className="scroll max-h-[236px] overflow-y-auto px-2.5 py-1.5">
        {KINDS.map(([kind, title]) => {
          const of = items.filter((item) => item.kind === kind);
          if (of.length === 0) return null;
          const isAll = of.every((item) => chosen.has(item.id));
          const ids = of.map((item) => item.id);
          return (
            <div key={kind} className="py-0.5">
              <label className="flex items-center gap-2 font-semibold">
                <Box
                  isOn={isAll}
                  isPart={!isAll && of.some((item) => chosen.has(item.id))}
                  onChange={(isOut) => set(ids, isOut)}
                />
                <span className="flex-1">
                  {title} <span className="font-normal text-soft">{of.length}</span>
                </span>
                <span className="mono font-normal text-soft">{size(of)}</span>
              </label>
              <ul className="pl-5">
                {of.map((item) => (
                  <ItemRow
                    key={item.id}
                    item={item}
                    isOn={chosen.has(item.id)}
                    isNeeded={chosen.has(item.id) && left.has(item.id)}
                    onChange={(isOut) => set([item.id], isOut)}
                  />
                ))}
              </ul>
            </div>
          );
        })}
      </div>
      <p className="flex border-t border-rule px-2.5 py-1.5 text-soft">
        <span className="flex-1">
          {out.length === items.length ? 'everything goes out' : `${items.length - out.length} left out`}
        </span>
        <span className="mono">{size(out)}</span>
      </p>
    </fieldset>
  );
}

function Box({
  isOn,
  isPart = false,
  onChange,
}: {
  isOn: boolean;
  isPart?: boolean;
  onChange: (isOn: boolean) => void;
}) {
  return (
    <input
      type="checkbox"
      checked={isOn}
      ref={(box) => {
        if (box) box.indeterminate = isPart;
      }}
      onChange={(event) => onChange(event.target.checked)}
      className="accent-[var(--leaf)]"
    />
  );
}

function ItemRow({
  item,
  isOn,
  isNeeded,
  onChange,
}: {
  item: Item;
  isOn: boolean;
  isNeeded: boolean;
  onChange: (isOn: boolean) => void;
}) {
  return (
    <li>
      <label className="flex items-baseline gap-2" title={item.about}>
        <Box isOn={isOn} onChange={onChange} />
        <span className={clsx('min-w-0 flex-1 [overflow-wrap:anywhere]', !isOn && 'text-soft line-through')}>
          {item.name}
          {isNeeded && <span className="text-soft"> goes along, something else needs it</span>}
        </span>
        <span className="mono shrink-0 text-soft">{bytesText(item.bytes)}</span>
      </label>
    </li>
  );
}

/** What was handed over of this character before, the newest first. */
export function HandedBefore() {
  const id = useDesk((state) => state.record?.id ?? null);
  const { of, entries, error, sealed } = useDockets();
  useEffect(() => (id ? watchDockets(id) : undefined), [id]);
  const mine = of === id ? entries : null;
  const outcome = useRef<HTMLDivElement>(null);
  const hasOutcome = sealed !== null || error !== null;
  useEffect(() => {
    const form = document.activeElement?.closest('form');
    if (hasOutcome && form?.getAttribute('aria-label') === 'Hand over') outcome.current?.focus();
  }, [hasOutcome]);
  return (
    <section aria-label="Handed over before" className="text-[13px]">
      <div ref={outcome} tabIndex={-1} className="outline-none">
        {error && (
          <p role="alert" className="mb-2 text-stops">
            {error}
          </p>
        )}
        {sealed && (
          <p role="status" className="mb-2 font-semibold text-fine">
            Handed over, and sealed.
          </p>
        )}
      </div>
      <div className="flex items-baseline gap-3">
        <h3 className="title flex-1 text-[17px]">Dockets</h3>
        <Link href="/dockets" className="text-soft underline hover:text-ink">
          All of the house
        </Link>
      </div>
      {mine?.length === 0 && <p className="text-soft">Nothing was handed over yet.</p>}
      <ul>
        {mine?.map((oneDocket) => (
          <li
            key={oneDocket.id}
            className={clsx('border-b border-rule py-2', oneDocket.id === sealed && 'bg-wash')}
          >
            <p>
              Revision {oneDocket.revision} for {oneDocket.briefTitle}, by {oneDocket.by}, {ago(oneDocket.at)}
            </p>
            <p>
              <Tally counts={oneDocket.counts} empty="nothing open" />
              {oneDocket.waived > 0 && <span className="ml-2 text-soft">{oneDocket.waived} waived</span>}
              {oneDocket.leftOut > 0 && <span className="ml-2 text-soft">{oneDocket.leftOut} left out</span>}
            </p>
            <DocketLinks docket={oneDocket} />
          </li>
        ))}
      </ul>
    </section>
  );
}
