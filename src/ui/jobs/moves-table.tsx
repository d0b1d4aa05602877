'use client';

import {
  type SortingState,
  createColumnHelper,
  getCoreRowModel,
  getSortedRowModel,
  useReactTable,
} from '@tanstack/react-table';
import clsx from 'clsx';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { fineUnit, inUnit, unitSign } from '@/core/contracts/units';
import { addsTooMuch } from '@/core/rooms/crosswalk/deviation-floor';
import type { JobTold, MoveAnswer } from '@/routes/jobs';
import { SortHead, ariaSort } from '../kit/sort-head';
import { stateWords } from './words';

/** What a move came to, once it is done. */
interface Moved {
  readonly answer: MoveAnswer;
  readonly effects: Extract<MoveAnswer['effects'], { kind: 'remapped' }>;
}

interface Row {
  readonly part: JobTold;
  /** Null for what waits, is at work or came to nothing. */
  readonly moved: Moved | null;
}

function rowOf(part: JobTold): Row {
  const answer = part.answer as MoveAnswer | null;
  return { part, moved: answer?.effects.kind === 'remapped' ? { answer, effects: answer.effects } : null };
}

/** A number of a move, and how it is shown. */
interface Figure {
  readonly id: string;
  readonly head: string;
  /** What it is sorted by. */
  readonly value: (moved: Moved) => number;
  /** What is shown; a length in the brief's unit where nothing is said. */
  readonly text?: (moved: Moved) => string;
  readonly isRed?: (moved: Moved) => boolean;
}

const floorOf = ({ effects }: Moved) => effects.price ?? effects.deviation;

const FIGURES: readonly Figure[] = [
  {
    id: 'paired',
    head: 'Paired',
    value: ({ answer }) => answer.walk.paired / Math.max(1, answer.walk.bones),
    text: ({ answer }) => `${answer.walk.paired} of ${answer.walk.bones}`,
  },
  {
    id: 'unsure',
    head: 'Look at',
    value: ({ answer }) => answer.walk.unsure,
    text: ({ answer }) => String(answer.walk.unsure),
  },
  { id: 'farthest', head: 'Farthest', value: ({ effects }) => effects.deviation.max },
  { id: 'mean', head: 'Mean', value: ({ effects }) => effects.deviation.rms },
  { id: 'floor', head: 'Skeleton costs', value: (moved) => floorOf(moved).rms },
  {
    id: 'adds',
    head: 'Adds',
    value: (moved) => moved.effects.deviation.rms - floorOf(moved).rms,
    isRed: (moved) => addsTooMuch(floorOf(moved), moved.effects.deviation, moved.answer.proofTolerance),
  },
  {
    id: 'stops',
    head: 'Stops',
    value: ({ answer }) => answer.counts.stops,
    text: ({ answer }) => `${answer.before?.stops ?? '—'} → ${answer.counts.stops}`,
    isRed: ({ answer }) => answer.before !== null && answer.counts.stops > answer.before.stops,
  },
];

const column = createColumnHelper<Row>();

/** What is not done has no figures and stands last, however the rest is sorted. */
const COLUMNS = [
  column.accessor(({ part }) => part.title, { id: 'character', sortingFn: 'alphanumeric' }),
  column.accessor(({ moved }) => moved?.answer.walk.from, { id: 'crosswalk', sortUndefined: 'last' }),
  ...FIGURES.map(({ id, value }) =>
    column.accessor(({ moved }) => (moved ? value(moved) : undefined), {
      id,
      sortUndefined: 'last',
      sortDescFirst: true,
    }),
  ),
];

const HEADS = ['Character', 'Crosswalk', ...FIGURES.map(({ head }) => head)];

/**
 * What came of moving characters, one a row: those that wait and are at work as well. Sorted by any figure, so that what is
 * worst comes first.
 */
export function MovesTable({ parts }: { parts: readonly JobTold[] }) {
  const [sorting, setSorting] = useState<SortingState>([]);
  const data = useMemo(() => parts.map(rowOf), [parts]);
  const table = useReactTable({
    data,
    columns: COLUMNS,
    state: { sorting },
    onSortingChange: setSorting,
    getRowId: ({ part }) => part.id,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full text-[13px]">
        <caption className="caption-bottom pt-1.5 text-left text-soft">
          What the skeleton costs and what the move adds are means over all points and poses; stops are
          counted under each one’s brief, before → after.
        </caption>
        <thead>
          <tr className="border-b border-ink text-left">
            {table.getAllLeafColumns().map((column, i) => (
              <th
                key={column.id}
                aria-sort={ariaSort(column)}
                className={clsx('py-1 pr-2 font-medium', i > 1 && 'text-right')}
              >
                <SortHead column={column} words={HEADS[i]} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.getRowModel().rows.map(({ id, original }) => (
            <MoveRow key={id} {...original} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function MoveRow({ part, moved }: Row) {
  // What became of one that was removed since is told all the same.
  const name = part.character ? (
    <Link href={`/c/${part.character}?room=crosswalk`} className="font-semibold text-leaf underline">
      {part.title}
    </Link>
  ) : (
    part.title
  );
  if (!moved) {
    const isBad = part.state === 'refused' || part.state === 'set aside';
    return (
      <tr className="border-b border-rule align-top">
        <td className="py-1.5 pr-2">{name}</td>
        <td colSpan={HEADS.length - 1} className={`py-1.5 ${isBad ? 'text-stops' : 'text-soft'}`}>
          {part.message ?? stateWords(part)}
        </td>
      </tr>
    );
  }
  const { walk, unit } = moved.answer;
  return (
    <tr className="border-b border-rule align-top">
      <td className="py-1.5 pr-2">{name}</td>
      <td className="py-1.5 pr-2 text-soft">
        {walk.from === 'suggested' ? 'suggested' : `as for ${walk.from}`}
      </td>
      {FIGURES.map(({ id, value, text, isRed }) => (
        <td
          key={id}
          className={clsx('mono whitespace-nowrap py-1.5 pr-2 text-right', isRed?.(moved) && 'text-stops')}
        >
          {text ? text(moved) : lengthIn(value(moved), unit)}
        </td>
      ))}
    </tr>
  );
}

function lengthIn(metres: number, shown: MoveAnswer['unit']): string {
  const unit = fineUnit(shown);
  return `${Number(inUnit(metres, unit).toFixed(2))} ${unitSign(unit)}`;
}
