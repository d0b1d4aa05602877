'use client';

import { DropdownMenu } from 'radix-ui';
import { ChevronDown, Keyboard, Loader2, Moon, Redo2, Search, Undo2, X } from 'lucide-react';
import Link from 'next/link';
import { BRIEFS } from '@/core/house/briefs';
import { countGravity } from '@/core/contracts/finding';
import { Button } from '../kit/button';
import { Mark } from '../kit/gravity';
import { headOf, moveTo, redoTarget, setBrief, setRoom, undoTarget, useDesk } from './store';

/** Day or night at once: colours that glided there one by one would for a moment be neither, and hard to read. */
export function toggleSheet(): void {
  const root = document.documentElement;
  const night = root.dataset.sheet !== 'night';
  root.dataset.turning = '';
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      delete root.dataset.turning;
    }),
  );
  if (night) root.dataset.sheet = 'night';
  else delete root.dataset.sheet;
  try {
    localStorage.setItem('sheet', night ? 'night' : 'day');
  } catch {
    /* a private window keeps it for this page only */
  }
}

export function Head() {
  const { sheet, findings, brief, busy, error, said } = useDesk();
  const counts = findings ? countGravity(findings) : null;
  const head = headOf(sheet);
  const icon = 'grid h-8 w-8 place-items-center rounded-[7px] text-soft hover:bg-wash hover:text-ink';
  return (
    <>
      <header className="flex h-[52px] shrink-0 items-center gap-3 border-b border-rule bg-sheet px-4">
        <Link
          href="/"
          aria-label="Back to the shelf"
          title="Back to the shelf"
          className="grid h-8 w-8 place-items-center rounded-[7px] hover:bg-wash"
        >
          {/* eslint-disable-next-line @next/next/no-img-element */}
          <img src="/bough.svg" alt="" width={22} height={22} />
        </Link>
        <h1 className="title max-w-[260px] truncate text-[20px]" title={sheet?.name}>
          {sheet?.name ?? '…'}
        </h1>
        {head && (
          <button
            type="button"
            onClick={() => useDesk.setState((s) => ({ drawer: s.drawer === 'ledger' ? null : 'ledger' }))}
            className="truncate rounded px-1 text-soft hover:text-ink"
            title="Open the ledger of revisions"
          >
            revision {head.number}, “{head.label}”
          </button>
        )}
        {busy && (
          <span role="status" className="flex items-center gap-1.5 text-[13px] text-leaf">
            <Loader2 size={14} className="animate-spin" aria-hidden />
            {busy}
          </span>
        )}
        <span className="flex-1" />
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <button
              type="button"
              className="flex items-center gap-1.5 rounded-[7px] px-2 py-1 hover:bg-wash"
              aria-label={`Brief: ${brief.title}. Change it`}
            >
              <span className="text-soft">for</span>
              <span className="font-semibold">{brief.title}</span>
              <ChevronDown size={14} className="text-soft" />
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              align="end"
              className="z-30 w-[330px] rounded-lg border border-rule bg-sheet p-1 shadow-lg"
            >
              {BRIEFS.map((b) => (
                <DropdownMenu.Item
                  key={b.id}
                  onSelect={() => void setBrief(b.id)}
                  className="cursor-pointer rounded-md px-3 py-2 outline-none data-[highlighted]:bg-wash"
                >
                  <span className="font-semibold">
                    {b.id === brief.id ? '✓ ' : ''}
                    {b.title}
                  </span>
                  <br />
                  <span className="text-[12.5px] text-soft">{b.about}</span>
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        {counts &&
          (counts.stops > 0 ? (
            <span className="flex items-center gap-1.5 font-semibold text-stops">
              <Mark gravity="stops" />
              {counts.stops} {counts.stops === 1 ? 'stops' : 'stop'} hand-off
            </span>
          ) : counts.worth > 0 ? (
            <span className="flex items-center gap-1.5 font-semibold text-worth">
              <Mark gravity="worth" />
              {counts.worth} worth fixing
            </span>
          ) : (
            <span className="font-semibold text-fine">✓ ready</span>
          ))}
        <Button
          disabled={!undoTarget(sheet) || !!busy}
          onClick={() => void moveTo(undoTarget(sheet), 'Undone')}
          title="Undo the last step (U)"
        >
          <Undo2 size={14} />
          Undo
        </Button>
        <Button
          disabled={!redoTarget(sheet) || !!busy}
          onClick={() => void moveTo(redoTarget(sheet), 'Done again')}
          title="Do the undone step again (Shift U)"
        >
          <Redo2 size={14} />
          Redo
        </Button>
        <button
          type="button"
          className={icon}
          aria-label="Search everything"
          title="Search (/)"
          onClick={() => useDesk.setState({ sheetOpen: 'palette' })}
        >
          <Search size={16} />
        </button>
        <button
          type="button"
          className={icon}
          aria-label="Keyboard sheet"
          title="Keyboard (?)"
          onClick={() => useDesk.setState({ sheetOpen: 'keys' })}
        >
          <Keyboard size={16} />
        </button>
        <button
          type="button"
          className={icon}
          aria-label="Day or night sheet"
          title="Day or night sheet"
          onClick={toggleSheet}
        >
          <Moon size={15} />
        </button>
        <Button kind="leaf" onClick={() => setRoom('docket')}>
          Docket
        </Button>
      </header>
      <div aria-live="polite">
        {(error || said) && sheet && (
          <div
            className={`flex items-start gap-3 border-b border-rule px-5 py-2 text-[13px] ${error ? 'bg-sheet text-stops' : 'bg-sheet text-leaf'}`}
          >
            <p className="flex-1">{error ?? said}</p>
            <button
              type="button"
              aria-label="Close this message"
              onClick={() => useDesk.setState({ error: null, said: null })}
            >
              <X size={15} />
            </button>
          </div>
        )}
      </div>
    </>
  );
}
