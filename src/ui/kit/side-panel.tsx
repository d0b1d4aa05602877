import clsx from 'clsx';
import type { ReactNode } from 'react';

/** The column at the right of the stage: the notebook, or what stands in its place. */
export function SidePanel({
  label,
  className,
  children,
}: {
  label: string;
  className?: string;
  children: ReactNode;
}) {
  return (
    <aside
      aria-label={label}
      className={clsx(
        'scroll flex w-[384px] shrink-0 flex-col',
        'overflow-y-auto overflow-x-hidden border-l border-rule bg-sheet',
        // Below the stage where there is no room beside it.
        'max-[1000px]:w-full max-[1000px]:overflow-visible max-[1000px]:border-l-0 max-[1000px]:border-t',
        className,
      )}
    >
      {children}
    </aside>
  );
}
