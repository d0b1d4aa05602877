import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';

/** A sheet of paper over the page, with a title, a sentence and a way to close it. */
export function PaperDialog({
  title,
  about,
  width = 480,
  onClose,
  children,
}: {
  title: string;
  about: ReactNode;
  width?: number;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-30 bg-ink/25" />
        <Dialog.Content
          style={{ width }}
          className="fixed left-1/2 top-1/2 z-40 max-h-[86vh] -translate-x-1/2 -translate-y-1/2 overflow-y-auto rounded-xl border border-rule bg-sheet p-6"
        >
          <div className="flex items-start justify-between gap-4">
            <Dialog.Title className="title text-[22px]">{title}</Dialog.Title>
            <Dialog.Close aria-label="Close" className="text-soft hover:text-ink">
              <X size={18} />
            </Dialog.Close>
          </div>
          <Dialog.Description className="text-[13px] text-soft">{about}</Dialog.Description>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
