'use client';

import type { Brief } from '@/core/house/brief';
import {
  LETTERS,
  type NamingParts as Parts,
  SEPARATORS,
  examplesOf,
  partsOf,
  patternOf,
  wordsOf,
} from '@/core/rooms/skeleton/naming';
import { changeAt, useTable } from './draft';

const LETTER_WORDS: Record<Parts['letters'], string> = {
  small: 'small letters',
  capital: 'Words With Capitals',
  any: 'any letters',
};

const SEPARATOR_WORDS: Record<Parts['separator'], string> = {
  _: 'joined by _',
  '-': 'joined by -',
  '.': 'joined by .',
  ' ': 'joined by spaces',
  '': 'not joined by anything',
};

const PLAIN: Parts = { letters: 'small', separator: '_', numbers: true, prefix: '' };

/** The convention of names put together from parts; the pattern and the words follow. */
export function NamingPartsField({ isLocked }: { isLocked: boolean }) {
  const naming = useTable((table) => table.draft?.naming);
  if (!naming) return null;
  const known = partsOf(naming.pattern);
  const parts = known ?? PLAIN;
  const put = (change: Partial<Parts>) => {
    const next = { ...parts, ...change };
    changeAt('naming', {
      ...naming,
      pattern: patternOf(next),
      words: wordsOf(next),
    } satisfies Brief['naming']);
  };
  const box = 'h-7 rounded-md border border-rule bg-sheet px-1 disabled:opacity-60';
  return (
    <div className="my-1 rounded-lg bg-wash px-3 py-2" role="group" aria-label="Names built from parts">
      <div className="flex flex-wrap items-center gap-2">
        <select
          aria-label="Letters"
          value={known ? parts.letters : ''}
          disabled={isLocked}
          onChange={(event) => put({ letters: event.target.value as Parts['letters'] })}
          className={box}
        >
          {!known && <option value="">written by hand</option>}
          {LETTERS.map((letter) => (
            <option key={letter} value={letter}>
              {LETTER_WORDS[letter]}
            </option>
          ))}
        </select>
        <select
          aria-label="Between words"
          value={parts.separator}
          disabled={isLocked}
          onChange={(event) => put({ separator: event.target.value as Parts['separator'] })}
          className={box}
        >
          {SEPARATORS.map((separator) => (
            <option key={separator} value={separator}>
              {SEPARATOR_WORDS[separator]}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5 text-soft">
          <input
            type="checkbox"
            checked={parts.numbers}
            disabled={isLocked}
            onChange={(event) => put({ numbers: event.target.checked })}
          />
          with numbers
        </label>
        <label className="flex items-center gap-1.5 text-soft">
          beginning with
          <input
            value={parts.prefix}
            disabled={isLocked}
            placeholder="nothing"
            onChange={(event) => put({ prefix: event.target.value })}
            className={`mono w-24 px-2 ${box}`}
          />
        </label>
      </div>
      <p className="mt-1 text-[12.5px] text-soft">
        {known ? (
          <>
            such as <span className="mono text-ink">{examplesOf(parts, naming.sides).join(', ')}</span>
          </>
        ) : (
          'The pattern below was written by hand; a choice here replaces it.'
        )}
      </p>
    </div>
  );
}
