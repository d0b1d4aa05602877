'use client';

import clsx from 'clsx';
import type { Character } from '@/core/character/model';
import { countsOfSet } from '@/core/character/sets';
import { countOf } from '../kit/format';
import { chooseSet, toggleSet } from '../state/choose';
import { useDesk } from '../state/store';

/** The sets of a character: a press on a name chooses what it holds, one on its colour shows it on the stage. */
export function SetsList({ character }: { character: Character }) {
  const chosen = useDesk((state) => state.chosenSet);
  const shown = useDesk((state) => state.shownSets);
  if (character.sets.length === 0) return null;
  return (
    <section aria-labelledby="sets-title" className="mt-3">
      <h3 id="sets-title" className="title text-[15px]">
        Sets
      </h3>
      <ul className="mt-1">
        {character.sets.map((set, i) => (
          <li key={i} className="flex items-center gap-2 border-t border-rule">
            <button
              type="button"
              role="switch"
              aria-checked={shown.has(set.name)}
              aria-label={`Show “${set.name}” in its colour`}
              title={shown.has(set.name) ? 'shown on the stage' : 'show on the stage'}
              onClick={() => toggleSet(set.name)}
              className="h-[18px] w-[18px] shrink-0 rounded-full border-2"
              style={{
                borderColor: set.tint ?? '#888888',
                background: shown.has(set.name) ? (set.tint ?? '#888888') : 'transparent',
              }}
            />
            <button
              type="button"
              onClick={() => chooseSet(set.name)}
              className={clsx(
                'flex min-w-0 flex-1 items-baseline gap-2 py-1.5 text-left',
                chosen === set.name && 'text-damson',
              )}
            >
              <span
                className={clsx(
                  'min-w-0 flex-1 [overflow-wrap:anywhere]',
                  chosen === set.name && 'font-semibold',
                )}
              >
                {set.name}
              </span>
              <span className="shrink-0 text-[12.5px] text-soft">{heldText(character, i)}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function heldText(character: Character, set: number): string {
  const { bones, points, polygons } = countsOfSet(character, character.sets[set]);
  const words = [
    bones > 0 && countOf(bones, 'bone'),
    points > 0 && countOf(points, 'point'),
    polygons > 0 && countOf(polygons, 'polygon'),
  ];
  return words.filter(Boolean).join(', ') || 'holds nothing';
}
