'use client';

import { useWindowVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import Link from 'next/link';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { DocketEntry } from '@/routes/dockets';
import { Button } from '../kit/button';
import { FindField } from '../kit/find-field';
import { FileButton } from '../kit/file-button';
import { ago, bytesText } from '../kit/format';
import { Tally } from '../kit/gravity';
import { DocketLinks } from '../parts/docket-links';
import { useDockets, watchDockets } from '../state/dockets';
import { HandOverSeveral } from './hand-over-several';
import { HouseKey } from './house-key';

/** Everything that was ever handed over, and the place to hold a file against it. */
export function Dockets() {
  const { of, entries, error } = useDockets();
  const [held, setHeld] = useState<Held | null>(null);
  const [isHanding, setHanding] = useState(false);
  useEffect(() => watchDockets(null), []);
  const all = of === null ? entries : null;
  return (
    <div className="min-h-screen min-w-[1100px]">
      <header className="flex h-[52px] items-center gap-4 border-b border-rule bg-sheet px-6">
        {/* eslint-disable-next-line @next/next/no-img-element */}
        <img src="/bough.svg" alt="" width={22} height={22} />
        <h1 className="title text-[19px]">Dockets</h1>
        <span className="text-soft">what was handed over; none of them ever changes</span>
        <span className="flex-1" />
        <HouseKey />
        <Link href="/" className="rounded px-1 text-soft underline hover:text-ink">
          The shelf
        </Link>
        <HoldFile onHeld={setHeld} />
        <Button kind="leaf" onClick={() => setHanding(true)}>
          Hand over several …
        </Button>
      </header>
      <main className="mx-auto max-w-[1180px] px-6 pb-16 pt-6">
        {error && (
          <p role="alert" className="mb-4 text-stops">
            {error}
          </p>
        )}
        {held && <HeldAgainst held={held} entries={all ?? []} />}
        {all?.length === 0 && <WhatADocketIs />}
        {all && all.length > 0 && <DocketTable entries={all} held={held} />}
      </main>
      {isHanding && <HandOverSeveral onClose={() => setHanding(false)} />}
    </div>
  );
}

/** What lies in every docket. */
const CONTENTS: readonly (readonly [string, string])[] = [
  ['The file', 'as the game takes it, byte for byte as it was sealed'],
  ['A report', 'that a lead can read: what was measured, what was accepted, what each step changed'],
  ['The crosswalk', 'by which the weights were moved, so that the next one can be moved alike'],
  ['The waivers', 'what was accepted, by whom and why'],
  ['A signature', 'over the sums of all of it: whether a file is that very one can be told years later'],
];

/** The sheet before anything was handed over. */
const WhatADocketIs = () => (
  <section className="max-w-[64ch]">
    <h2 className="title mb-2 text-[19px]">Nothing was handed over yet</h2>
    <p className="text-soft">
      A docket is what leaves the house. It is sealed once and never changes; a correction is another docket.
      In it lie:
    </p>
    <dl className="my-4">
      {CONTENTS.map(([what, why]) => (
        <div key={what} className="grid grid-cols-[130px_minmax(0,1fr)] border-t border-rule py-1.5">
          <dt className="font-semibold">{what}</dt>
          <dd className="text-soft">{why}</dd>
        </div>
      ))}
    </dl>
    <p className="text-soft">
      To make one, open a character of{' '}
      <Link href="/" className="font-semibold text-leaf underline">
        the shelf
      </Link>
      , go to its room Docket and seal it; or hand over several at once by the button above.
    </p>
  </section>
);

/** A file that is held against the dockets. */
interface Held {
  readonly name: string;
  readonly sha256: string;
}

function HoldFile({ onHeld }: { onHeld: (held: Held) => void }) {
  const take = async (file: File) => {
    const sum = await crypto.subtle.digest('SHA-256', await file.arrayBuffer());
    const sha256 = Array.from(new Uint8Array(sum), (b) => b.toString(16).padStart(2, '0')).join('');
    onHeld({ name: file.name, sha256 });
  };
  return (
    <FileButton label="File to hold against the dockets" onFile={(file) => void take(file)}>
      Is this file one of them? …
    </FileButton>
  );
}

function HeldAgainst({ held, entries }: { held: Held; entries: readonly DocketEntry[] }) {
  const found = entries.filter((entry) => entry.sha256 === held.sha256);
  const [first] = found;
  return (
    <p
      role="status"
      className={clsx(
        'mb-4 rounded-lg border bg-sheet px-4 py-3',
        first ? 'border-leaf/40 text-fine' : 'border-stops/40 text-stops',
      )}
    >
      {first ? (
        <>
          ✓ “{held.name}” is byte for byte what {first.by} handed over of {first.name}, revision{' '}
          {first.revision}, {ago(first.at)}.
        </>
      ) : (
        <>
          “{held.name}” is none of these, byte for byte. Take the docket out that it should be, and{' '}
          <span className="mono">bough verify FILE --docket D.json</span> says where it differs.
        </>
      )}
    </p>
  );
}

/** Rows differ in height with what they hold; about this much, pixels. */
const ROW = 86;

/** What stands in the columns, and how wide they are, pixels; the others share what is left. */
const COLUMNS: readonly (readonly [word: string, width?: number])[] = [
  ['', 68],
  ['Character', 148],
  ['For', 148],
  ['How it stood', 240],
  ['By'],
  ['File'],
  ['Take out', 190],
];

/** Dockets by what one remembers of them; only those rows stand in the page that can be seen. */
function DocketTable({ entries, held }: { entries: readonly DocketEntry[]; held: Held | null }) {
  const [find, setFind] = useState('');
  const rows = useMemo(() => entries.filter((entry) => isFound(entry, find)), [entries, find]);
  const box = useRef<HTMLTableElement>(null);
  const virtual = useWindowVirtualizer({
    count: rows.length,
    estimateSize: () => ROW,
    getItemKey: (i) => rows[i].id,
    overscan: 6,
    scrollMargin: box.current?.offsetTop ?? 0,
  });
  const shown = virtual.getVirtualItems();
  const { scrollMargin } = virtual.options;
  const above = (shown[0]?.start ?? scrollMargin) - scrollMargin;
  const below = virtual.getTotalSize() + scrollMargin - (shown.at(-1)?.end ?? scrollMargin);
  return (
    <>
      <p className="mb-3 flex items-center gap-3 text-[13px] text-soft">
        <FindField
          label="Find a docket"
          hint="find by character, file, brief, name or words …"
          value={find}
          onChange={setFind}
          className="h-8 w-[340px]"
        />
        <span role="status">{tallyText(rows, entries.length)}</span>
      </p>
      <table ref={box} className="w-full table-fixed text-[13.5px]" aria-rowcount={rows.length + 1}>
        <thead>
          <tr className="text-left text-[12.5px] text-soft">
            {COLUMNS.map(([word, width]) => (
              <th
                key={word}
                scope="col"
                style={{ width }}
                className="border-b border-rule px-2 pb-1.5 font-normal"
              >
                {word || <span className="sr-only">Picture</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <Gap height={above} />
          {shown.map((item) => (
            <DocketRow
              key={item.key}
              docket={rows[item.index]}
              index={item.index}
              isHeld={rows[item.index].sha256 === held?.sha256}
              measure={virtual.measureElement}
            />
          ))}
          <Gap height={below} />
        </tbody>
      </table>
      {rows.length === 0 && <p className="mt-4 text-soft">None of them holds all of these words.</p>}
    </>
  );
}

const isFound = ({ name, fileName, brief, briefTitle, by, note }: DocketEntry, find: string) => {
  const text = [name, fileName, brief, briefTitle, by, note].join('\n').toLowerCase();
  return find
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
};

/** How many there are, and what their files hold together; a file that was handed over twice is kept once. */
function tallyText(rows: readonly DocketEntry[], all: number): string {
  const files = new Map(rows.map((row) => [row.sha256, row.fileBytes]));
  const bytes = [...files.values()].reduce((a, b) => a + b, 0);
  const count = rows.length === all ? `${all}` : `${rows.length} of ${all}`;
  return `${count} ${all === 1 ? 'docket' : 'dockets'} · files of ${bytesText(bytes)}`;
}

/** Room for rows that are not in the page. */
const Gap = ({ height }: { height: number }) =>
  height > 0 ? <tr aria-hidden="true" style={{ height }} /> : null;

function DocketRow({
  docket: oneDocket,
  index,
  isHeld,
  measure,
}: {
  docket: DocketEntry;
  index: number;
  isHeld: boolean;
  measure: (row: HTMLTableRowElement | null) => void;
}) {
  const cell = 'border-b border-rule px-2 py-2.5 align-top';
  return (
    <tr ref={measure} data-index={index} aria-rowindex={index + 2} className={isHeld ? 'bg-wash' : undefined}>
      <td className={cell}>
        {/* eslint-disable-next-line @next/next/no-img-element */}
        <img src={`/api/blobs/${oneDocket.picture}`} alt="" className="h-[64px] w-auto" />
      </td>
      <td className={cell}>
        <span className="title text-[16px] [overflow-wrap:anywhere]">{oneDocket.name}</span>
        <br />
        <span className="text-soft">revision {oneDocket.revision}</span>
      </td>
      <td className={cell}>
        {oneDocket.briefTitle}
        <br />
        <span className="mono text-[12px] text-soft">{oneDocket.brief}</span>
      </td>
      <td className={`${cell} text-[13px]`}>
        <Tally counts={oneDocket.counts} empty="nothing open" />
        <span className="block text-soft">
          {[
            oneDocket.waived > 0 && `${oneDocket.waived} waived`,
            oneDocket.leftOut > 0 && `${oneDocket.leftOut} left out`,
          ]
            .filter(Boolean)
            .join(' · ')}
        </span>
      </td>
      <td className={`${cell} [overflow-wrap:anywhere]`}>
        {oneDocket.by}
        <span className="block text-soft" title={new Date(oneDocket.at).toLocaleString()}>
          {ago(oneDocket.at)}
        </span>
        {oneDocket.note && <span className="block max-w-[200px] text-soft">{oneDocket.note}</span>}
      </td>
      <td className={cell}>
        <span className="mono block text-[12px] [overflow-wrap:anywhere]">{oneDocket.fileName}</span>
        <span className="mono block text-[12px] text-soft" title={`sha-256 ${oneDocket.sha256}`}>
          {bytesText(oneDocket.fileBytes)} · {oneDocket.sha256.slice(0, 8)}…
        </span>
      </td>
      <td className={cell}>
        <DocketLinks docket={oneDocket} />
      </td>
    </tr>
  );
}
