'use client';

import type { Column } from '@tanstack/react-table';
import clsx from 'clsx';
import { ArrowDown, ArrowUp } from 'lucide-react';

const WORDS = { asc: 'least first', desc: 'most first' } as const;

/** How a column is sorted, for the cell of its head: as screen readers are told it. */
export const ariaSort = <Row,>(column: Column<Row>): 'ascending' | 'descending' | undefined => {
  const sorted = column.getIsSorted();
  if (!sorted) return undefined;
  return sorted === 'asc' ? 'ascending' : 'descending';
};

/** The head of a column that sorts by it: one way, the other, and as it was. */
export function SortHead<Row>({
  column,
  words,
  className,
}: {
  column: Column<Row>;
  words: string;
  className?: string;
}) {
  const sorted = column.getIsSorted();
  const Arrow = sorted === 'asc' ? ArrowUp : ArrowDown;
  return (
    <button
      type="button"
      onClick={column.getToggleSortingHandler()}
      title={sorted ? `Sorted by this, ${WORDS[sorted]}` : 'Sort by this'}
      className={clsx(
        'inline-flex items-center gap-1 whitespace-nowrap rounded',
        sorted ? 'font-semibold text-ink' : 'text-soft hover:text-ink',
        className,
      )}
    >
      {words}
      {sorted && <Arrow size={12} aria-hidden="true" />}
    </button>
  );
}
