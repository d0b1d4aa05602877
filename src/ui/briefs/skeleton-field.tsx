'use client';

import { useId, useState } from 'react';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { SKELETONS } from '@/core/anatomy/skeletons';
import { OWN_SKELETON, type OwnSkeleton, ownSkeletonOf } from '@/core/anatomy/skeletons/wanted';
import { readCharacter } from '@/core/formats';
import type { FormField } from '@/core/house/brief-form';
import { type ShelfEntry, listCharacters } from '@/routes/characters';
import { call, fetchCharacter, messageOf } from '../kit/api';
import { FileButton } from '../kit/file-button';
import { changeAt, useTable } from './draft';
import { Question } from './question';

const INPUT = 'h-7 min-w-0 rounded-md border border-rule bg-sheet px-1 disabled:opacity-60';

/** The skeleton that the game wants: one of the house's, of a character of the shelf, or out of a file. */
export function SkeletonField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const id = useId();
  const chosen = useTable((table) => table.draft?.skeleton);
  const own = useTable((table) => table.draft?.ownSkeleton ?? null);
  const [state, setState] = useState<string | null>(null);
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
    <Question
      id={id}
      label={field.label}
      hint={<span role={state ? 'status' : undefined}>{state ?? field.hint}</span>}
      beside={chosen === OWN_SKELETON && own && `${own.bones.length} bones`}
    >
      <div className="flex flex-wrap items-center gap-2">
        <select
          id={id}
          value={chosen}
          disabled={isLocked}
          onChange={(event) => changeAt('skeleton', event.target.value)}
          className={INPUT}
        >
          {SKELETONS.map((skeleton) => (
            <option key={skeleton.id} value={skeleton.id}>
              {skeleton.title}
            </option>
          ))}
          {own && <option value={OWN_SKELETON}>{own.title}, of this brief</option>}
        </select>
        {!isLocked && (
          <>
            <ShelfChoice onChoose={(entry) => void fromShelf(entry)} onError={setState} />
            <FileButton small label="File of the skeleton" onFile={(file) => void fromFile(file)}>
              Out of a file …
            </FileButton>
          </>
        )}
      </div>
    </Question>
  );
}

/** Characters of the shelf that have bones; fetched when they are asked for. */
function ShelfChoice({
  onChoose,
  onError,
}: {
  onChoose: (entry: ShelfEntry) => void;
  onError: (message: string) => void;
}) {
  const [shelf, setShelf] = useState<readonly ShelfEntry[] | null>(null);
  const load = async () => {
    try {
      const { characters } = await call(listCharacters, {});
      setShelf(characters.filter((character) => character.head && character.bones !== 0));
    } catch (error) {
      onError(messageOf(error));
    }
  };
  return (
    <select
      aria-label="Take the skeleton of a character"
      value=""
      onFocus={() => void load()}
      onChange={(event) => {
        const entry = shelf?.find((character) => character.id === event.target.value);
        if (entry) onChoose(entry);
      }}
      className={INPUT}
    >
      <option value="">that of a character …</option>
      {shelf?.map((character) => (
        <option key={character.id} value={character.id}>
          {character.name}
        </option>
      ))}
    </select>
  );
}
