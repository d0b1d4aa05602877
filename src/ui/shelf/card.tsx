'use client';

import clsx from 'clsx';
import { Trash2 } from 'lucide-react';
import Link from 'next/link';
import { AlertDialog } from 'radix-ui';
import { Button } from '../kit/button';
import { PAPER, PAPER_VEIL } from '../kit/dialog';
import { ago } from '../kit/format';
import { Tally } from '../kit/gravity';
import type { ShelfFigure } from '../state/shelf';
import { isUntried } from './try-in-motion';

/** One character on the shelf. */
export function Card({ entry, onRemove }: { entry: ShelfFigure; onRemove: () => void }) {
  return (
    <li className="group relative overflow-hidden [content-visibility:auto] [contain-intrinsic-size:auto_372px] rounded-xl border border-rule bg-sheet transition-shadow hover:shadow-[0_6px_22px_rgba(34,48,43,0.10)]">
      <Link href={`/c/${entry.id}`} className="block rounded-xl" aria-label={`Open ${entry.name}`}>
        <div className="grid h-[232px] place-items-center bg-paper">
          {entry.picture && (
            // eslint-disable-next-line @next/next/no-img-element
            <img
              src={`/api/blobs/${entry.picture}`}
              alt={`${entry.name} at rest`}
              loading="lazy"
              className="h-[222px] w-auto"
            />
          )}
        </div>
        <div className="border-t border-rule px-4 py-3">
          <h2 className="title text-[18px] leading-tight [overflow-wrap:anywhere]">{entry.name}</h2>
          <p className="text-[12.5px] text-soft">for {entry.wants?.title ?? entry.brief}</p>
          <p className="mt-2 text-[12.5px] font-semibold">
            <Tally counts={entry.counts} empty={isUntried(entry) ? 'nothing open at rest' : 'clean'} />
            {isUntried(entry) && <span className="block font-normal text-soft">not tried in motion</span>}
            {entry.waived > 0 && (
              <span className="ml-3 inline-block whitespace-nowrap font-normal text-soft">
                {entry.waived} waived
              </span>
            )}
          </p>
          <p className="mt-2 text-[12.5px] text-soft">
            revision {entry.number}, “{entry.label}” · {ago(entry.updatedAt)}
          </p>
        </div>
      </Link>
      <RemoveButton name={entry.name} onRemove={onRemove} />
    </li>
  );
}

function RemoveButton({ name, onRemove }: { name: string; onRemove: () => void }) {
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger asChild>
        <button
          type="button"
          aria-label={`Remove ${name}`}
          className={clsx(
            'absolute right-2 top-2 grid h-8 w-8 place-items-center rounded-full border border-transparent',
            'text-soft opacity-0 transition-opacity focus-visible:opacity-100 group-hover:opacity-100',
            'hover:border-rule hover:bg-sheet hover:text-stops',
          )}
        >
          <Trash2 size={15} />
        </button>
      </AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className={PAPER_VEIL} />
        <AlertDialog.Content className={`${PAPER} top-1/2 w-[420px] -translate-y-1/2 p-6`}>
          <AlertDialog.Title className="title text-[20px]">Remove “{name}”?</AlertDialog.Title>
          <AlertDialog.Description className="mt-2 text-soft">
            All of its revisions go with it. Files that you have downloaded stay where they are.
          </AlertDialog.Description>
          <div className="mt-5 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>Keep it</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button className="!border-stops !text-stops" onClick={onRemove}>
                Remove
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
