'use client';

import { Dialog } from 'radix-ui';
import { X } from 'lucide-react';
import { KEYS } from './keys';
import { useDesk } from './store';

export function KeySheet() {
  const open = useDesk((s) => s.sheetOpen === 'keys');
  return (
    <Dialog.Root open={open} onOpenChange={(o) => useDesk.setState({ sheetOpen: o ? 'keys' : null })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/25" />
        <Dialog.Content className="fixed left-1/2 top-1/2 z-40 max-h-[86vh] w-[760px] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-xl border border-rule bg-sheet p-7">
          <div className="flex items-start justify-between">
            <Dialog.Title className="title text-[24px]">Keyboard</Dialog.Title>
            <Dialog.Close aria-label="Close" className="text-soft hover:text-ink">
              <X size={18} />
            </Dialog.Close>
          </div>
          <Dialog.Description className="text-soft">
            Tab walks through everything; Enter and Space press what has the focus.
          </Dialog.Description>
          <div className="mt-4 columns-2 gap-8">
            {KEYS.map((g) => (
              <section key={g.group} className="mb-5 break-inside-avoid">
                <h3 className="title text-[16px]">{g.group}</h3>
                <dl>
                  {g.list.map((k) => (
                    <div
                      key={k.keys + k.does}
                      className="flex items-baseline justify-between gap-4 border-b border-rule py-1"
                    >
                      <dd>{k.does}</dd>
                      <dt className="mono rounded border border-rule bg-paper px-1.5">{k.keys}</dt>
                    </div>
                  ))}
                </dl>
              </section>
            ))}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
