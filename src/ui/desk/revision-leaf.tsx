'use client';

import clsx from 'clsx';
import { Copy, GitCompare, Pencil } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { effectsText } from '@/core/contracts/effects-words';
import { stepsLeft } from '@/core/contracts/step';
import type { Revision } from '@/routes/characters';
import { Button } from '../kit/button';
import { ago } from '../kit/format';
import { Mark } from '../kit/gravity';
import { IconButton } from '../kit/icon-button';
import { compareRevisions } from '../state/compare';
import { moveTo } from '../state/steps';
import { useDesk } from '../state/store';

/** Size of a revision in the ledger, pixels. */
export const LEAF = { width: 250, height: 128 } as const;

/** One revision in the ledger: its picture, its words, what was open on it, and what one can do with it. */
export function RevisionLeaf({
  revision: row,
  isHead,
  head,
  place,
  onWrite,
  onCopy,
}: {
  revision: Revision;
  isHead: boolean;
  head: string;
  place: { readonly x: number; readonly y: number };
  onWrite: () => void;
  onCopy: () => void;
}) {
  // Where one stands is in sight, however long the line has become.
  const item = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (isHead) item.current?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [isHead]);
  return (
    <li
      ref={item}
      className={clsx(
        'absolute flex gap-2.5 overflow-hidden rounded-lg border p-2',
        isHead ? 'border-damson bg-damson-wash' : 'border-rule bg-sheet',
      )}
      style={{ left: place.x, top: place.y, ...LEAF }}
    >
      {/* eslint-disable-next-line @next/next/no-img-element */}
      {row.picture && <img src={`/api/blobs/${row.picture}`} alt="" className="h-[84px] w-auto self-start" />}
      <div className="flex min-w-0 flex-1 flex-col text-[12.5px]">
        <div className="flex items-center font-semibold">
          <span className="flex-1">
            Revision {row.number}
            {isHead && <span className="ml-1.5 text-damson">here</span>}
          </span>
          <IconButton
            label={`Label and note of revision ${row.number}`}
            title="Label, note, and all that it touched"
            onClick={onWrite}
          >
            <Pencil size={12} />
          </IconButton>
          <IconButton
            label={`Save revision ${row.number} under a new name`}
            title="Save under a new name"
            onClick={onCopy}
          >
            <Copy size={12} />
          </IconButton>
        </div>
        <LeafWords revision={row} />
        {!isHead && <LeafButtons revision={row} head={head} />}
      </div>
    </li>
  );
}

function LeafWords({ revision: result }: { revision: Revision }) {
  const unit = useDesk((state) => state.brief.unit);
  const rows = result.step.kind === 'delivery' ? result.step.rows : undefined;
  const lost = rows?.filter((row) => row.outcome === 'does not fit' || row.outcome === 'in part').length ?? 0;
  const rowsText = rows
    ?.map((row) => `${row.label}: ${row.outcome}${row.why ? ` (${row.why})` : ''}`)
    .join('\n');
  return (
    <>
      <p
        className="line-clamp-2 leading-snug break-words"
        title={effectsText(result.effects, unit) || result.label}
      >
        {result.label}
      </p>
      {result.note && (
        <p className="truncate text-damson" title={result.note}>
          {result.note}
        </p>
      )}
      {rows && (
        <p className={lost + stepsLeft(result.step) > 0 ? 'text-worth' : 'text-soft'} title={rowsText}>
          {stepsLeft(result.step) > 0
            ? `broken off after ${rows.length} of ${rows.length + stepsLeft(result.step)} steps`
            : `${rows.length} steps done again`}
          {lost > 0 ? `, ${lost} no longer fit` : ''}
        </p>
      )}
      <p className="flex items-center gap-2.5 text-soft">
        {ago(result.createdAt)}
        {result.counts && <Marks counts={result.counts} />}
      </p>
    </>
  );
}

function LeafButtons({ revision: row, head }: { revision: Revision; head: string }) {
  const busy = useDesk((state) => state.busy !== null);
  const isCompared = useDesk((state) => state.compared?.a === row.id);
  return (
    <span className="mt-auto flex gap-1">
      <Button small className="!h-6 !px-2" disabled={busy} onClick={() => void moveTo(row.id, 'Gone back')}>
        Go here
      </Button>
      <Button
        small
        className="!h-6 !px-2"
        aria-pressed={isCompared}
        title="Lay this revision beside the one you are on"
        onClick={() => void compareRevisions(row.id, head)}
      >
        <GitCompare size={12} />
        Compare
      </Button>
    </span>
  );
}

/** What was open on a revision, in marks and figures. */
function Marks({ counts }: { counts: NonNullable<Revision['counts']> }) {
  if (counts.stops + counts.worth === 0) return <span className="font-semibold text-fine">✓ clean</span>;
  return (['stops', 'worth'] as const)
    .filter((gravity) => counts[gravity] > 0)
    .map((oneGravity) => (
      <span
        key={oneGravity}
        className={clsx(
          'inline-flex items-center gap-1 font-semibold',
          oneGravity === 'stops' ? 'text-stops' : 'text-worth',
        )}
      >
        <Mark gravity={oneGravity} size={9} />
        {counts[oneGravity]}
      </span>
    ));
}
