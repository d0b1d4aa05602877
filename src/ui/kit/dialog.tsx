import { X } from 'lucide-react';
import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';

/** Where a sheet of paper over the page lies, and how it looks; `PAPER_VEIL` dims what is under it. */
export const PAPER = 'fixed left-1/2 z-40 -translate-x-1/2 rounded-xl border border-rule bg-sheet';
export const PAPER_VEIL = 'fixed inset-0 z-30 bg-ink/25';

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
        <Dialog.Overlay className={PAPER_VEIL} />
        <Dialog.Content
          style={{ width }}
          className={`${PAPER} top-1/2 max-h-[86vh] -translate-y-1/2 overflow-y-auto p-6`}
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
