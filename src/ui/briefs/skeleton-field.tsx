'use client';

import { useId, useRef, useState } from 'react';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { SKELETONS } from '@/core/anatomy/skeletons';
import { type OwnSkeleton, ownSkeletonOf } from '@/core/anatomy/skeletons/wanted';
import { OWN_SKELETON } from '@/core/contracts/brief';
import { readCharacter } from '@/core/formats';
import type { FormField } from '@/core/house/brief-form';
import { type ShelfEntry, listCharacters } from '@/routes/characters';
import { call, fetchCharacter, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { changeAt, useTable } from './draft';

const INPUT = 'h-7 min-w-0 rounded-md border border-rule bg-sheet px-1 disabled:opacity-60';

/** The skeleton that the game wants: one of the house's, of a character of the shelf, or out of a file. */
export function SkeletonField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const id = useId();
  const chosen = useTable((s) => s.draft?.skeleton);
  const own = useTable((s) => s.draft?.ownSkeleton ?? null);
  const [shelf, setShelf] = useState<readonly ShelfEntry[] | null>(null);
  const [state, setState] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const take = (skeleton: OwnSkeleton) => {
    if (skeleton.bones.length === 0) {
      setState(`“${skeleton.title}” holds no bones; choose another.`);
      return;
    }
    changeAt('ownSkeleton', skeleton);
    changeAt('skeleton', OWN_SKELETON);
    setState(null);
  };
  const bring = async (title: string, work: () => Promise<OwnSkeleton>) => {
    setState('looking …');
    try {
      take(await work());
    } catch (error) {
      setState(`“${title}” was not taken. ${messageOf(error)}`);
    }
  };
  const fromShelf = (entry: ShelfEntry) =>
    bring(entry.name, async () => {
      const { character } = await fetchCharacter(entry.head ?? '');
      return ownSkeletonOf(skeletonOf(character), entry.name);
    });
  const fromFile = (file: File) =>
    bring(file.name, async () => {
      const bytes = new Uint8Array(await file.arrayBuffer());
      const skeleton = skeletonOf(readCharacter([{ name: file.name, bytes }]));
      return ownSkeletonOf(skeleton, file.name.replace(/\.[^.]*$/, ''));
    });
  return (
    <div className="grid grid-cols-[150px_minmax(0,1fr)_150px] items-start gap-x-3 py-1">
      <label htmlFor={id} className="pt-1 text-soft">
        {field.label}
      </label>
      <div>
        <div className="flex flex-wrap items-center gap-2">
          <select
            id={id}
            value={chosen}
            disabled={isLocked}
            onChange={(e) => changeAt('skeleton', e.target.value)}
            className={INPUT}
          >
            {SKELETONS.map((s) => (
              <option key={s.id} value={s.id}>
                {s.title}
              </option>
            ))}
            {own && <option value={OWN_SKELETON}>{own.title}, of this brief</option>}
          </select>
          {!isLocked && (
            <>
              <select
                aria-label="Take the skeleton of a character"
                value=""
                onFocus={() => void load(setShelf, setState)}
                onMouseDown={() => void load(setShelf, setState)}
                onChange={(e) => {
                  const entry = shelf?.find((c) => c.id === e.target.value);
                  if (entry) void fromShelf(entry);
                }}
                className={INPUT}
              >
                <option value="">that of a character …</option>
                {shelf?.map((c) => (
                  <option key={c.id} value={c.id}>
                    {c.name}
                  </option>
                ))}
              </select>
              <input
                ref={input}
                type="file"
                aria-label="File of the skeleton"
                className="hidden"
                onChange={(e) => {
                  const [file] = e.target.files ?? [];
                  if (file) void fromFile(file);
                  e.target.value = '';
                }}
              />
              <Button small onClick={() => input.current?.click()}>
                Out of a file …
              </Button>
            </>
          )}
        </div>
        <p role={state ? 'status' : undefined} className="mt-0.5 text-[12.5px] leading-snug text-soft">
          {state ?? field.hint}
        </p>
      </div>
      <div className="pt-1 text-right text-[12.5px] text-soft">
        {chosen === OWN_SKELETON && own && `${own.bones.length} bones`}
      </div>
    </div>
  );
}

async function load(
  setShelf: (shelf: readonly ShelfEntry[]) => void,
  setState: (state: string) => void,
): Promise<void> {
  try {
    const { characters } = await call(listCharacters, {});
    setShelf(characters.filter((c) => c.head && c.bones !== 0));
  } catch (error) {
    setState(messageOf(error));
  }
}
