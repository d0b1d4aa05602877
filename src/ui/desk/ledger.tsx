'use client';

import { useState } from 'react';
import type { Revision } from '@/routes/characters';
import { FileButton } from '../kit/file-button';
import { useDesk } from '../state/store';
import { bringWaiversIn } from '../state/waivers';
import { CopyDialog, WordsDialog } from './revision-dialogs';
import { DeliveryDialog } from './delivery';
import { LedgerWaivers } from './ledger-waivers';
import { LEAF, RevisionLeaf } from './revision-leaf';

const GAP = 16;
const ROW = LEAF.height + 10;

interface Place {
  readonly x: number;
  readonly y: number;
}

/**
 * Each revision on a twig of its own line: the first child goes on where its parent lies, every other one
 * branches off below.
 */
function rowsOf(revisions: readonly Revision[]): Map<string, number> {
  const row = new Map<string, number>();
  const taken = new Set<string>();
  let rows = 0;
  for (const revision of revisions) {
    const parent = revision.parent ? row.get(revision.parent) : undefined;
    const goesOn = revision.parent && parent !== undefined && !taken.has(revision.parent);
    if (goesOn) taken.add(revision.parent ?? '');
    row.set(revision.id, goesOn ? parent : rows++);
  }
  return row;
}

/**
 * The line of revisions with its branches; labels, notes, pictures; going back, comparing, saving under a new
 * name, a new delivery.
 */
export function Ledger() {
  const record = useDesk((state) => state.record);
  const [writing, setWriting] = useState<Revision | null>(null);
  const [copying, setCopying] = useState<Revision | null>(null);
  if (!record) return null;
  const { revisions } = record;
  const row = rowsOf(revisions);
  const places = new Map<string, Place>(
    revisions.map((revision, i) => [
      revision.id,
      { x: i * (LEAF.width + GAP), y: (row.get(revision.id) ?? 0) * ROW },
    ]),
  );
  const size = {
    width: revisions.length * (LEAF.width + GAP),
    height: (Math.max(...row.values()) + 1) * ROW,
  };
  return (
    <div>
      <div className="flex items-center gap-2 px-4 pb-2">
        <DeliveryDialog record={record} />
        <FileButton
          small
          label="File of waivers"
          accept=".json,application/json"
          onFile={(file) => void bringWaiversIn(file)}
        >
          Waivers from a file …
        </FileButton>
        <span className="text-[12.5px] text-soft">
          A step on an older revision branches off from it; nothing is ever overwritten.
        </span>
      </div>
      <LedgerWaivers record={record} />
      <div className="scroll max-h-[292px] overflow-auto px-4 pb-3">
        <ol className="relative" style={size}>
          <Twigs revisions={revisions} places={places} />
          {revisions.map((revision) => (
            <RevisionLeaf
              key={revision.id}
              revision={revision}
              isHead={revision.id === record.head}
              head={record.head}
              place={places.get(revision.id) ?? { x: 0, y: 0 }}
              onWrite={() => setWriting(revision)}
              onCopy={() => setCopying(revision)}
            />
          ))}
        </ol>
      </div>
      {writing && <WordsDialog key={writing.id} revision={writing} onClose={() => setWriting(null)} />}
      {copying && (
        <CopyDialog key={copying.id} revision={copying} record={record} onClose={() => setCopying(null)} />
      )}
    </div>
  );
}

/** The drawn twigs between revisions. */
function Twigs({
  revisions,
  places,
}: {
  revisions: readonly Revision[];
  places: ReadonlyMap<string, Place>;
}) {
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden="true">
      {revisions.map((revision) => {
        const from = revision.parent ? places.get(revision.parent) : undefined;
        const to = places.get(revision.id);
        if (!from || !to) return null;
        return (
          <path
            key={revision.id}
            d={twigPath(from, to)}
            fill="none"
            stroke="var(--bark)"
            strokeWidth="2.5"
            strokeLinecap="round"
          />
        );
      })}
    </svg>
  );
}

/** Straight on along a line; down and round where it branches off. */
function twigPath(from: Place, to: Place): string {
  const half = LEAF.height / 2;
  const x = from.x + LEAF.width;
  const y = to.y + half;
  if (from.y === to.y) return `M${x} ${from.y + half}L${to.x} ${y}`;
  return `M${x - 24} ${from.y + LEAF.height}C${x - 24} ${y} ${x - 10} ${y} ${to.x} ${y}`;
}
