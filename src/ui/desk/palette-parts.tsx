'use client';

import clsx from 'clsx';
import { Command } from 'cmdk';
import type { ReactNode } from 'react';
import { setDesk } from '../state/store';

const close = () => setDesk({ dialog: null });

/** A heading of the search with what it gathers. */
export function PaletteGroup({ heading, children }: { heading: string; children: ReactNode }) {
  return (
    <Command.Group
      heading={heading}
      className={clsx(
        '[&_[cmdk-group-heading]]:px-3 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1',
        '[&_[cmdk-group-heading]]:text-[12px] [&_[cmdk-group-heading]]:text-soft',
      )}
    >
      {children}
    </Command.Group>
  );
}

/** One thing that can be gone to or done; picking it closes the search. */
export function PaletteItem({
  value,
  keywords,
  onPick,
  className = '',
  children,
}: {
  value: string;
  /** Other words that it is found by. */
  keywords?: string[];
  onPick: () => void;
  className?: string;
  children: ReactNode;
}) {
  const pick = () => {
    close();
    onPick();
  };
  return (
    <Command.Item
      value={value}
      keywords={keywords}
      onSelect={pick}
      className={clsx(
        'flex cursor-pointer items-center gap-2.5 rounded-md px-3 py-1.5',
        'data-[selected=true]:bg-damson-wash',
        className,
      )}
    >
      {children}
    </Command.Item>
  );
}
