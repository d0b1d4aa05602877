'use client';

import Link from 'next/link';
import clsx from 'clsx';
import { Plus } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { BRIEFS } from '@/core/house/briefs';
import { useBriefs } from '../state/briefs';
import { removeCharacter } from '@/routes/characters';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { forgetLook } from '../state/kept-look';
import { type ShelfFigure, fetchShelf, watchShelf, withChanged } from '../state/shelf';
import { WorkSign } from '../jobs/sign';
import { Arrivals } from './arrival';
import { Card } from './card';
import { MoveSeveral } from './move-several';
import { TryInMotion } from './try-in-motion';
import { useArrivals } from './use-arrivals';

interface Failure {
  readonly text: string;
  /** Of fetching the shelf: it is over when that succeeds. Another one stays until it is tried again. */
  readonly isOfFetching: boolean;
  again(): void;
}

/** The characters in the house, and taking one out of it. */
function useEntries() {
  const [entries, setEntries] = useState<readonly ShelfFigure[] | null>(null);
  const [failure, setFailure] = useState<Failure | null>(null);
  // One after the other, so that what was asked for first never comes last.
  const last = useRef(Promise.resolve());
  const load = useCallback(function loadAll(): Promise<void> {
    last.current = last.current.then(async () => {
      try {
        setEntries(await fetchShelf());
        setFailure((now) => (now?.isOfFetching ? null : now));
      } catch (error) {
        setFailure({ text: messageOf(error), isOfFetching: true, again: () => void loadAll() });
      }
    });
    return last.current;
  }, []);
  const remove = useCallback(
    async function removeEntry(entry: ShelfFigure) {
      try {
        await call(removeCharacter, { id: entry.id });
        setFailure(null);
        forgetLook(entry.id);
        await load();
      } catch (error) {
        const text = `“${entry.name}” was not removed. ${messageOf(error)}`;
        setFailure({ text, isOfFetching: false, again: () => void removeEntry(entry) });
      }
    },
    [load],
  );
  useEffect(() => {
    void load();
    return watchShelf((news) => {
      if (news === 'all') return void load();
      const { changed, gone } = news;
      last.current = last.current.then(async () => {
        try {
          const figures = changed.length > 0 ? await fetchShelf(changed) : [];
          setEntries((shelf) => shelf && withChanged(shelf, figures, gone));
        } catch {
          // What it is will be told by fetching all of it.
          void load();
        }
      });
    });
  }, [load]);
  return { entries, failure, load, remove };
}

/** The shelf: the characters with their pictures, and the place to bring in more. */
export function Shelf() {
  const [brief, setBrief] = useState(BRIEFS[0].id);
  const briefs = useBriefs();
  const [isMoving, setMoving] = useState(false);
  const { entries, failure, load, remove } = useEntries();
  const { arrivals, take, send, putAway } = useArrivals(brief, load);
  const drop = useDropzone({ onDrop: (files) => void take(files), noClick: true, noKeyboard: true });
  return (
    <div {...drop.getRootProps({ className: 'min-h-full' })}>
      <ShelfHead
        brief={brief}
        onBrief={setBrief}
        onOpen={drop.open}
        onMove={entries?.some((entry) => entry.head && entry.bones !== 0) ? () => setMoving(true) : undefined}
      />
      {isMoving && entries && <MoveSeveral entries={entries} onClose={() => setMoving(false)} />}
      <input {...drop.getInputProps({ 'aria-label': 'Files of a character' })} />
      <main className="mx-auto max-w-[1180px] px-6 pb-16 pt-8">
        <h1 className="title text-[30px]">Characters</h1>
        <p className="mt-1 max-w-[62ch] text-soft">
          Drop glTF, COLLADA, OBJ or BVH here, with the buffers, materials and pictures that belong to them;
          files dropped together become one character. Each is measured against its brief as it arrives.
        </p>
        {entries && <TryInMotion entries={entries} onFound={load} />}
        {failure && (
          <p role="alert" className="mt-4 rounded-lg border border-stops/40 bg-sheet px-4 py-3 text-stops">
            {failure.text}{' '}
            <button type="button" className="underline" onClick={failure.again}>
              Try again
            </button>
          </p>
        )}
        <Arrivals
          arrivals={arrivals}
          brief={briefs.find((otherBrief) => otherBrief.id === brief) ?? BRIEFS[0]}
          onAnswer={(arrival, answer) => void send(arrival, answer)}
          onClose={putAway}
          onChanged={load}
        />
        <ul className="mt-6 grid grid-cols-[repeat(auto-fill,minmax(256px,1fr))] gap-5">
          {entries?.map((entry) => (
            <Card key={entry.id} entry={entry} onRemove={() => void remove(entry)} />
          ))}
          <li>
            <DropHere onOpen={drop.open} />
          </li>
        </ul>
        {entries === null && !failure && <p className="mt-8 text-soft">Fetching the shelf …</p>}
      </main>
      {drop.isDragActive && (
        <div className="fixed inset-0 z-20 grid place-items-center border-4 border-leaf bg-paper/85">
          <p className="title text-[28px]">Let go to bring it in</p>
        </div>
      )}
    </div>
  );
}

function ShelfHead({
  brief,
  onBrief,
  onOpen,
  onMove,
}: {
  brief: string;
  onBrief: (brief: string) => void;
  onOpen: () => void;
  /** Absent where there is nobody to move. */
  onMove?: () => void;
}) {
  const briefs = useBriefs();
  return (
    <header className="flex h-[52px] items-center gap-4 border-b border-rule bg-sheet px-6">
      {/* eslint-disable-next-line @next/next/no-img-element */}
      <img src="/bough.svg" alt="" width={22} height={22} />
      <span className="title text-[19px]">Young Bough</span>
      <span className="text-soft">the shelf</span>
      <span className="flex-1" />
      <WorkSign />
      <label className="flex items-center gap-2 text-soft">
        new ones for
        <select
          value={brief}
          onChange={(event) => onBrief(event.target.value)}
          className="h-8 rounded-[7px] border border-rule bg-sheet px-2 font-semibold text-ink"
        >
          {briefs.map((brief) => (
            <option key={brief.id} value={brief.id}>
              {brief.title}
            </option>
          ))}
        </select>
      </label>
      <Link href="/briefs" className="rounded px-1 text-soft underline hover:text-ink">
        Briefs
      </Link>
      <Link href="/dockets" className="rounded px-1 text-soft underline hover:text-ink">
        Dockets
      </Link>
      <Link href="/work" className="rounded px-1 text-soft underline hover:text-ink">
        At work
      </Link>
      <Button disabled={!onMove} onClick={onMove}>
        Move several …
      </Button>
      <Button kind="leaf" onClick={onOpen}>
        <Plus size={15} />
        Bring in a character
      </Button>
    </header>
  );
}

function DropHere({ onOpen }: { onOpen: () => void }) {
  return (
    <button
      type="button"
      onClick={onOpen}
      className={clsx(
        'flex h-full min-h-[340px] w-full flex-col items-center justify-center gap-2',
        'rounded-xl border-2 border-dashed border-rule text-soft',
        'transition-colors hover:border-leaf hover:text-ink',
      )}
    >
      <Plus size={26} strokeWidth={1.6} />
      <span className="font-semibold">Drop files anywhere</span>
      <span className="text-[12.5px]">or choose them here</span>
    </button>
  );
}
