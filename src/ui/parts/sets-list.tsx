'use client';

import clsx from 'clsx';
import type { Character, ElementSet } from '@/core/character/model';
import { countsOfSet } from '@/core/character/sets';
import { Eye, EyeOff, Minus, Plus } from 'lucide-react';
import { countOf } from '../kit/format';
import { IconButton } from '../kit/icon-button';
import { changeLook, chooseSet, toggleSet } from '../state/choose';
import { withNodes } from '../state/look';
import { applyRemedy } from '../state/steps';
import { desk, useDesk } from '../state/store';

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
            <HideButton set={set} />
            <MemberButton character={character} index={i} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Puts the chosen bones into a set at a press, or takes them out where it holds all of them. */
function MemberButton({ character, index }: { character: Character; index: number }) {
  const bone = useDesk((state) => state.bone);
  const picked = useDesk((state) => state.picked);
  const busy = useDesk((state) => state.busy);
  const last = useDesk((state) => state.lastChosen);
  const bones = last === 'picked' ? [...picked.bones] : [bone].filter((node) => node >= 0);
  if (bones.length === 0) return null;
  const set = character.sets[index];
  const isOut = bones.every((node) => set.bones.includes(node));
  const what = bones.length === 1 ? `“${character.nodes[bones[0]]?.name}”` : countOf(bones.length, 'bone');
  const label = isOut ? `Take ${what} out of “${set.name}”` : `Put ${what} into “${set.name}”`;
  return (
    <IconButton
      label={label}
      disabled={!!busy}
      onClick={() => void applyRemedy('set-members', { bones, set: index, way: isOut ? 'out' : 'in' }, label)}
    >
      {isOut ? <Minus size={14} aria-hidden="true" /> : <Plus size={14} aria-hidden="true" />}
    </IconButton>
  );
}

/** Hides the bones of a set on the stage, or shows them again. */
function HideButton({ set: { name, bones } }: { set: ElementSet }) {
  const isHidden = useDesk((state) => bones.length > 0 && bones.every((bone) => state.hidden.has(bone)));
  if (bones.length === 0) return null;
  return (
    <IconButton
      label={`${isHidden ? 'Show' : 'Hide'} the bones of “${name}”`}
      aria-pressed={isHidden}
      onClick={() => changeLook({ hidden: withNodes(desk().hidden, bones, !isHidden) })}
    >
      {isHidden ? (
        <EyeOff size={14} aria-hidden="true" className="text-damson" />
      ) : (
        <Eye size={14} aria-hidden="true" />
      )}
    </IconButton>
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
