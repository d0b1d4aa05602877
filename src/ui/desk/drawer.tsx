'use client';

import clsx from 'clsx';
import { X } from 'lucide-react';
import { IconButton } from '../kit/icon-button';
import type { DrawerDefinition } from '../parts/room';
import { roomById } from '../rooms/list';
import { setDesk, useDesk } from '../state/store';
import { toggleDrawer } from './actions';
import { BonesTable } from './bones-table';
import { Ledger } from './ledger';

const OF_EVERY_ROOM: readonly DrawerDefinition[] = [
  { id: 'ledger', title: 'Ledger', Panel: Ledger },
  { id: 'bones', title: 'Bones', Panel: BonesTable },
];

/** The drawer below the stage: the ledger of revisions, the table of bones, or a table of the room. */
export function Drawer() {
  const wanted = useDesk((state) => state.drawer);
  const room = useDesk((state) => state.room);
  const tabs = [...OF_EVERY_ROOM, ...(roomById(room).drawers ?? [])];
  // What another room had open is closed here.
  const open = tabs.find(({ id }) => id === wanted);
  const drawer = open?.id ?? null;
  return (
    <section aria-label="Ledger and tables" className="shrink-0 border-t border-rule bg-sheet">
      <div className="flex items-center px-2">
        {tabs.map(({ id, title }) => (
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
            {title}
          </button>
        ))}
        <span className="flex-1" />
        {drawer && (
          <IconButton label="Close the drawer" onClick={() => setDesk({ drawer: null })}>
            <X size={15} />
          </IconButton>
        )}
      </div>
      {open && <open.Panel />}
    </section>
  );
}
