'use client';

import { PaperDialog } from '../kit/dialog';
import { setDesk, useDesk } from '../state/store';
import { keysOf } from './keys';

export function KeySheet() {
  const isOpen = useDesk((state) => state.dialog === 'keys');
  const room = useDesk((state) => state.room);
  if (!isOpen) return null;
  return (
    <PaperDialog
      title="Keyboard"
      about="Tab walks through everything; Enter and Space press what has the focus, arrows walk through lists."
      width={760}
      onClose={() => setDesk({ dialog: null })}
    >
      <div className="mt-4 columns-2 gap-8">
        {keysOf(room).map((group) => (
          <section key={group.group} className="mb-5 break-inside-avoid">
            <h3 className="title text-[16px]">{group.group}</h3>
            <dl>
              {group.list.map((key) => (
                <div
                  key={key.keys + key.does}
                  className="flex items-baseline justify-between gap-4 border-b border-rule py-1"
                >
                  <dd>{key.does}</dd>
                  <dt className="mono rounded border border-rule bg-paper px-1.5 whitespace-nowrap">
                    {key.keys}
                  </dt>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </PaperDialog>
  );
}
