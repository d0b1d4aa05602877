'use client';

import Link from 'next/link';
import { useRef, useState } from 'react';
import { SKELETONS } from '@/core/anatomy/skeletons';
import { skeletonWanted } from '@/core/anatomy/skeletons/wanted';
import { inUnit, unitSign } from '@/core/contracts/units';
import { addsTooMuch } from '@/core/rooms/crosswalk/price';
import type { ShelfEntry } from '@/routes/characters';
import { remapStep } from '@/routes/steps';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { PaperDialog } from '../kit/dialog';
import { ProgressBar } from '../kit/progress';

/** What came of moving one character. */
interface Row {
  readonly entry: ShelfEntry;
  readonly answer?: Awaited<ReturnType<typeof move>>;
  /** Why it was not moved. */
  readonly error?: string;
}

/** Every character onto the skeleton that its own brief wants. */
const AS_BRIEFED = 'as-briefed';

/** Moves one character's weights with what is saved for its skeleton, or what is suggested. */
async function move(entry: ShelfEntry, asked: string, weights: 'example' | 'rules') {
  const wanted = entry.wants && skeletonWanted(entry.wants);
  const skeleton = asked === AS_BRIEFED ? wanted : SKELETONS.find((s) => s.id === asked);
  if (!skeleton)
    throw new Error('Its brief wants a skeleton that the house does not know; choose one in the brief.');
  const { id: target, title } = skeleton;
  return call(remapStep, {
    id: entry.id,
    base: entry.head ?? '',
    limit: entry.wants?.limits.influences ?? 4,
    how: { mode: 'target', lengths: 'kept', weights },
    target: { id: target, title },
  });
}

/** Moves several characters of the shelf onto one skeleton, one after the other, and tells what came of each. */
export function MoveSeveral({
  entries,
  onClose,
  onMoved,
}: {
  entries: readonly ShelfEntry[];
  onClose: () => void;
  onMoved: () => Promise<void>;
}) {
  const movable = entries.filter((e) => e.head && e.bones !== 0);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [target, setTarget] = useState(SKELETONS[0].id);
  const [weights, setWeights] = useState<'example' | 'rules'>('example');
  const [rows, setRows] = useState<readonly Row[] | null>(null);
  const [at, setAt] = useState<ShelfEntry | null>(null);
  const isOn = useRef(true);
  const list = movable.filter((e) => chosen.has(e.id));
  const run = async () => {
    isOn.current = true;
    const done: Row[] = [];
    setRows([]);
    for (const entry of list) {
      if (!isOn.current) break;
      setAt(entry);
      try {
        done.push({ entry, answer: await move(entry, target, weights) });
      } catch (error) {
        done.push({ entry, error: messageOf(error) });
      }
      setRows([...done]);
    }
    setAt(null);
    await onMoved();
  };
  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    setChosen(next);
  };
  return (
    <PaperDialog
      title="Move several onto one skeleton"
      about="Each with the crosswalk that is saved for its skeleton, or one nearly like it; else with what is suggested. Every move is a step of its own, and can be undone."
      width={860}
      onClose={() => {
        isOn.current = false;
        onClose();
      }}
    >
      {rows === null ? (
        <>
          <div className="mt-3 flex flex-wrap items-center gap-3 text-[13px]">
            <label className="flex items-center gap-2">
              onto
              <select
                aria-label="Skeleton to move to"
                value={target}
                onChange={(e) => setTarget(e.target.value)}
                className="h-8 rounded-[7px] border border-rule bg-sheet px-2 font-semibold"
              >
                <option value={AS_BRIEFED}>what each one’s brief wants</option>
                {SKELETONS.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.title}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex items-center gap-2">
              weights
              <select
                aria-label="Where the weights come from"
                value={weights}
                onChange={(e) => setWeights(e.target.value as 'example' | 'rules')}
                className="h-8 rounded-[7px] border border-rule bg-sheet px-2 font-semibold"
              >
                <option value="example">by example</option>
                <option value="rules">by the rules alone</option>
              </select>
            </label>
            <Button
              small
              kind="quiet"
              onClick={() =>
                setChosen(new Set(list.length === movable.length ? [] : movable.map((e) => e.id)))
              }
            >
              {list.length === movable.length ? 'None' : 'All'}
            </Button>
          </div>
          <Choose movable={movable} chosen={chosen} onToggle={toggle} />
        </>
      ) : (
        <Results rows={rows} total={list.length} at={at} />
      )}
      <div className="mt-4 flex justify-end gap-2">
        {rows === null && (
          <Button kind="leaf" disabled={list.length === 0} onClick={() => void run()}>
            Move {list.length === 1 ? 'one' : list.length}
          </Button>
        )}
        {at && (
          <Button
            onClick={() => {
              isOn.current = false;
            }}
          >
            Stop after this one
          </Button>
        )}
        {rows !== null && !at && <Button onClick={onClose}>Close</Button>}
      </div>
    </PaperDialog>
  );
}

function Choose({
  movable,
  chosen,
  onToggle,
}: {
  movable: readonly ShelfEntry[];
  chosen: ReadonlySet<string>;
  onToggle: (id: string) => void;
}) {
  return (
    <ul className="mt-2 max-h-[40vh] overflow-y-auto" aria-label="Characters">
      {movable.map((e) => (
        <li key={e.id} className="border-b border-rule">
          <label className="flex items-center gap-2.5 py-1.5">
            <input type="checkbox" checked={chosen.has(e.id)} onChange={() => onToggle(e.id)} />
            <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{e.name}</span>
            <span className="text-[13px] text-soft">{e.wants?.title}</span>
          </label>
        </li>
      ))}
    </ul>
  );
}

const HEADS = [
  'Character',
  'Crosswalk',
  'Paired',
  'Look at',
  'Farthest',
  'Mean',
  'Skeleton costs',
  'Adds',
  'Stops',
];

/** The columns that are red where they are bad. */
const ADDS = 5;
const STOPS = 6;

function Results({ rows, total, at }: { rows: readonly Row[]; total: number; at: ShelfEntry | null }) {
  return (
    <div className="mt-3">
      {at && (
        <div role="status" className="mb-2 text-[13px] text-soft">
          moving {at.name} …
          <ProgressBar share={rows.length / Math.max(1, total)} label="Characters moved" />
        </div>
      )}
      <table className="w-full text-[13px]">
        <caption className="caption-bottom pt-1.5 text-left text-soft">
          What the skeleton costs and what the move adds are means over all points and poses; stops are
          counted under each one’s brief, before → after.
        </caption>
        <thead>
          <tr className="border-b border-ink text-left text-soft">
            {HEADS.map((h, i) => (
              <th key={h} className={`py-1 pr-2 font-medium ${i > 1 ? 'text-right' : ''}`}>
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <ResultRow key={r.entry.id} row={r} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function ResultRow({ row: { entry, answer, error } }: { row: Row }) {
  const name = (
    <Link href={`/c/${entry.id}?room=crosswalk`} className="font-semibold text-leaf underline">
      {entry.name}
    </Link>
  );
  if (!answer || answer.effects.kind !== 'remapped')
    return (
      <tr className="border-b border-rule align-top">
        <td className="py-1.5 pr-2">{name}</td>
        <td colSpan={HEADS.length - 1} className="py-1.5 text-stops">
          {error ?? 'It was not moved.'}
        </td>
      </tr>
    );
  const { walk, effects, counts } = answer;
  const before = entry.counts?.stops;
  const { deviation, price = deviation } = effects;
  const brief = entry.wants;
  const unit = brief?.unit === 'in' ? 'in' : 'mm';
  const length = (m: number) => `${Number(inUnit(m, unit).toFixed(2))} ${unitSign(unit)}`;
  const isBad = brief ? addsTooMuch(price, deviation, brief.proofTolerance) : false;
  const cells = [
    `${walk.paired} of ${walk.bones}`,
    String(walk.unsure),
    length(deviation.max),
    length(deviation.rms),
    length(price.rms),
    length(deviation.rms - price.rms),
    `${before ?? '—'} → ${counts.stops}`,
  ];
  const isRed = (i: number) =>
    (i === ADDS && isBad) || (i === STOPS && before !== undefined && counts.stops > before);
  return (
    <tr className="border-b border-rule align-top">
      <td className="py-1.5 pr-2">{name}</td>
      <td className="py-1.5 pr-2 text-soft">
        {walk.from === 'suggested' ? 'suggested' : `as for ${walk.from}`}
      </td>
      {cells.map((c, i) => (
        <td
          key={HEADS[i + 2]}
          className={`mono whitespace-nowrap py-1.5 pr-2 text-right ${isRed(i) ? 'text-stops' : ''}`}
        >
          {c}
        </td>
      ))}
    </tr>
  );
}
