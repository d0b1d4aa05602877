'use client';

import clsx from 'clsx';
import { X } from 'lucide-react';
import { IconButton } from '../kit/icon-button';
import { setDesk, useDesk } from '../state/store';
import { toggleDrawer } from './actions';
import { BonesTable } from './bones-table';
import { Ledger } from './ledger';

const TABS = [
  ['ledger', 'Ledger'],
  ['bones', 'Bones'],
] as const;

/** The drawer below the stage: the ledger of revisions, or the table of bones. */
export function Drawer() {
  const drawer = useDesk((state) => state.drawer);
  return (
    <section aria-label="Ledger and tables" className="shrink-0 border-t border-rule bg-sheet">
      <div className="flex items-center px-2">
        {TABS.map(([id, word]) => (
          <button
            key={id}
            type="button"
            aria-expanded={drawer === id}
            onClick={() => toggleDrawer(id)}
            className={clsx(
              'h-8 px-3 text-[13px] font-semibold',
              drawer === id ? 'text-damson' : 'text-soft hover:text-ink',
            )}
          >
            {word}
          </button>
        ))}
        <span className="flex-1" />
        {drawer && (
          <IconButton label="Close the drawer" onClick={() => setDesk({ drawer: null })}>
            <X size={15} />
          </IconButton>
        )}
      </div>
      {drawer === 'ledger' && <Ledger />}
      {drawer === 'bones' && <BonesTable />}
    </section>
  );
}
