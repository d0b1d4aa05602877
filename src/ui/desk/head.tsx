'use client';

import clsx from 'clsx';
import { ChevronDown, Keyboard, Loader2, Moon, Redo2, Search, Undo2, X } from 'lucide-react';
import Link from 'next/link';
import { DropdownMenu } from 'radix-ui';
import { countGravity } from '@/core/contracts/finding';
import { Button } from '../kit/button';
import { Mark } from '../kit/gravity';
import { WorkSign } from '../jobs/sign';
import { IconButton } from '../kit/icon-button';
import { goToRoom } from '../state/choose';
import { headOf, redoTarget, undoTarget, isTried } from '../state/document';
import { setBrief } from '../state/steps';
import { useBriefs } from '../state/briefs';
import { setDesk, useDesk } from '../state/store';
import { redo, toggleDrawer, undo } from './actions';
import { showNewest } from '../state/elsewhere';
import { togglePaper } from './paper';

/** The head of the desk: what lies on it, for whom, how it stands, and the way back. */
export function Head() {
  return (
    <>
      <header className="flex h-[52px] shrink-0 items-center gap-3 border-b border-rule bg-sheet px-4 max-[1000px]:h-auto max-[1000px]:min-h-[52px] max-[1000px]:flex-wrap max-[1000px]:py-1.5">
        <Link
          href="/"
          aria-label="Back to the shelf"
          title="Back to the shelf"
          className="grid h-8 w-8 shrink-0 place-items-center rounded-[7px] hover:bg-wash"
        >
          {/* eslint-disable-next-line @next/next/no-img-element */}
          <img src="/bough.svg" alt="" width={22} height={22} />
        </Link>
        <Subject />
        <span className="flex-1" />
        <WorkSign />
        <BriefMenu />
        <Verdict />
        <WayBack />
        <HouseButtons />
        <Button kind="leaf" onClick={() => goToRoom('docket')}>
          Docket
        </Button>
      </header>
      <Elsewhere />
      <Message />
    </>
  );
}

function Subject() {
  const record = useDesk((state) => state.record);
  const busy = useDesk((state) => state.busy);
  const head = headOf(record);
  return (
    <>
      <h1 className="title max-w-[260px] shrink-0 truncate text-[20px]" title={record?.name}>
        {record?.name ?? '…'}
      </h1>
      {head && (
        <button
          type="button"
          onClick={() => toggleDrawer('ledger')}
          className="min-w-0 truncate rounded px-1 text-soft hover:text-ink"
          title="Open the ledger of revisions"
        >
          revision {head.number}, “{head.label}”
        </button>
      )}
      {busy && (
        <span role="status" className="flex shrink-0 items-center gap-1.5 text-[13px] text-leaf">
          <Loader2 size={14} className="animate-spin" aria-hidden />
          {busy}
        </span>
      )}
    </>
  );
}

function BriefMenu() {
  const brief = useDesk((state) => state.brief);
  const briefs = useBriefs();
  const at = useDesk((state) => state.record?.id);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button
          type="button"
          className="flex shrink-0 items-center gap-1.5 rounded-[7px] px-2 py-1 hover:bg-wash"
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
          className="z-30 max-h-[80vh] w-[330px] overflow-y-auto rounded-lg border border-rule bg-sheet p-1 shadow-lg"
        >
          {briefs.map((otherBrief) => (
            <DropdownMenu.Item
              key={otherBrief.id}
              onSelect={() => void setBrief(otherBrief)}
              className="cursor-pointer rounded-md px-3 py-2 outline-none data-[highlighted]:bg-wash"
            >
              <span className="font-semibold">
                {otherBrief.id === brief.id ? '✓ ' : ''}
                {otherBrief.title}
              </span>
              <br />
              <span className="text-[12.5px] text-soft">{otherBrief.about}</span>
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-rule" />
          <DropdownMenu.Item
            onSelect={() => setDesk({ dialog: 'briefs' })}
            className="cursor-pointer rounded-md px-3 py-2 outline-none data-[highlighted]:bg-wash"
          >
            Hold it against several, side by side …
          </DropdownMenu.Item>
          <DropdownMenu.Item asChild>
            <a
              href={`/briefs/${brief.id}${at ? `?with=${at}` : ''}`}
              className="block rounded-md px-3 py-2 outline-none data-[highlighted]:bg-wash"
            >
              Look at this brief, or make one of your own …
            </a>
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** How it stands under the brief. */
function Verdict() {
  const findings = useDesk((state) => state.findings);
  const isMoved = useDesk((state) => state.brief.trials === null || isTried(state));
  if (!findings) return null;
  const { stops, worth } = countGravity(findings);
  const line = 'flex shrink-0 items-center gap-1.5 font-semibold whitespace-nowrap';
  if (stops > 0)
    return (
      <span className={`${line} text-stops`}>
        <Mark gravity="stops" />
        {stops} {stops === 1 ? 'stops' : 'stop'} hand-off
      </span>
    );
  if (worth > 0)
    return (
      <span className={`${line} text-worth`}>
        <Mark gravity="worth" />
        {worth} worth fixing
      </span>
    );
  if (!isMoved)
    return (
      <button type="button" onClick={() => goToRoom('trials')} className={`${line} text-soft underline`}>
        not tried in motion
      </button>
    );
  return <span className={`${line} text-fine`}>✓ ready</span>;
}

function WayBack() {
  const canUndo = useDesk((state) => undoTarget(state.record) !== null);
  const canRedo = useDesk((state) => redoTarget(state.record) !== null);
  const busy = useDesk((state) => state.busy !== null);
  const draft = useDesk((state) => state.draft);
  const ownWay = useDesk((state) => state.ownWay);
  return (
    <>
      <Button
        disabled={busy || !(ownWay?.canUndo || canUndo || (draft?.steps ?? 0) > 0)}
        onClick={undo}
        title="Undo what was changed here last, or else the last step (U)"
      >
        <Undo2 size={14} />
        Undo
      </Button>
      <Button
        disabled={busy || !(ownWay?.canRedo || canRedo || draft?.canRedo)}
        onClick={redo}
        title="Do the undone step again (Shift U)"
      >
        <Redo2 size={14} />
        Redo
      </Button>
    </>
  );
}

function HouseButtons() {
  return (
    <>
      <IconButton
        label="Search everything"
        title="Search (/)"
        size="large"
        onClick={() => setDesk({ dialog: 'palette' })}
      >
        <Search size={16} />
      </IconButton>
      <IconButton
        label="Keyboard sheet"
        title="Keyboard (?)"
        size="large"
        onClick={() => setDesk({ dialog: 'keys' })}
      >
        <Keyboard size={16} />
      </IconButton>
      <IconButton label="Day or night sheet" size="large" onClick={togglePaper}>
        <Moon size={15} />
      </IconButton>
    </>
  );
}

/** A newer revision was made in another window. */
function Elsewhere() {
  const elsewhere = useDesk((state) => state.elsewhere);
  const number = useDesk(
    (state) => state.record?.revisions.find((revision) => revision.id === state.revision)?.number,
  );
  const hasDraft = useDesk((state) => (state.draft?.steps ?? 0) > 0);
  return (
    <div aria-live="polite">
      {elsewhere && (
        <div className="flex items-center gap-3 border-b border-rule bg-wash px-5 py-1.5 text-[13px]">
          <p className="min-w-0 flex-1">
            Another window has gone on: the character stands at revision {elsewhere.number}, here you see{' '}
            {number}.{hasDraft && ' What your hand has moved here is not kept and stays with this one.'}
          </p>
          <Button small onClick={() => void showNewest()}>
            Show revision {elsewhere.number}
          </Button>
        </div>
      )}
    </div>
  );
}

/** What was done, or what went wrong, in one sentence. */
function Message() {
  const error = useDesk((state) => state.error);
  const said = useDesk((state) => state.said);
  const hasRecord = useDesk((state) => state.record !== null);
  const isShown = (error || said) && hasRecord;
  return (
    <div aria-live="polite">
      {isShown && (
        <div
          className={clsx(
            'flex items-start gap-3 border-b border-rule bg-sheet px-5 py-2 text-[13px]',
            error ? 'text-stops' : 'text-leaf',
          )}
        >
          <p className="min-w-0 flex-1 [overflow-wrap:anywhere]">{error ?? said}</p>
          <button
            type="button"
            aria-label="Close this message"
            onClick={() => setDesk({ error: null, said: null })}
          >
            <X size={15} />
          </button>
        </div>
      )}
    </div>
  );
}
