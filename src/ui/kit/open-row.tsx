import clsx from 'clsx';
import type { ReactNode } from 'react';

/** A row of a table that opens: its head is pressed, and what it holds stands below it over the whole width. */
export function OpenRow({
  label,
  cells,
  columns,
  isOpen,
  onOpen,
  children,
}: {
  label: ReactNode;
  /** The cells behind the head. */
  cells: ReactNode;
  /** How many there are with the head. */
  columns: number;
  isOpen: boolean;
  onOpen: () => void;
  children: ReactNode;
}) {
  return (
    <>
      <tr className={clsx('border-b border-rule/60', isOpen && 'bg-wash')}>
        <th scope="row" className="py-1 text-left font-normal">
          <button
            type="button"
            aria-expanded={isOpen}
            onClick={onOpen}
            className="text-left [overflow-wrap:anywhere] hover:underline"
          >
            {label}
          </button>
        </th>
        {cells}
      </tr>
      {isOpen && (
        <tr className="border-b border-rule">
          <td colSpan={columns} className="pb-3 pt-1.5">
            {children}
          </td>
        </tr>
      )}
    </>
  );
}
