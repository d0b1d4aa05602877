'use client';

import { useEffect, useRef } from 'react';
import type { Character } from '@/core/character/model';
import { fineUnit, inUnit } from '@/core/contracts/units';
import { Ramp } from '../kit/ramp';
import { changeLook } from '../state/choose';
import { hover } from '../state/pointer';
import { showAllParts } from '../state/parts';
import { backToRest } from '../state/pose';
import { type StandingPose, isAtRest } from '../state/posed';
import { desk, useDesk } from '../state/store';
import type { Hit } from '../stage/view';
import { readHit } from './reading';

const HINT = 'point to read; click a twig to choose its bone';

/** The line below the stage: what is under the pointer, what is hidden, what is shown alone. */
export function ReadOut() {
  return (
    <div className="relative shrink-0 border-t border-rule bg-sheet/95">
      <WeightsKey />
      <p
        className="flex h-8 items-center gap-4 overflow-hidden px-4 whitespace-nowrap"
        data-testid="read-out"
      >
        <UnderThePointer />
        <Left />
      </p>
    </div>
  );
}

/** It follows the pointer, so it is written past React. */
function UnderThePointer() {
  const line = useRef<HTMLSpanElement>(null);
  const character = useDesk((state) => state.character);
  const bone = useDesk((state) => state.bone);
  const revision = useDesk((state) => state.revision);
  useEffect(() => {
    const write = (hit: Hit | null) => {
      if (line.current) writeLine(line.current, hit);
    };
    write(null);
    return hover.listen(write);
  }, [character, bone, revision]);
  return <span ref={line} className="flex min-w-0 items-center gap-4 overflow-hidden" />;
}

function writeLine(line: HTMLElement, hit: Hit | null): void {
  const { character, bone, brief } = desk();
  const isThere = character && hit && hit.node < character.nodes.length;
  const chosen = character && bone >= 0 ? [character.nodes[bone].name] : [];
  const parts = isThere ? readHit(character, hit, brief.unit) : chosen;
  const lead = !isThere && chosen.length > 0 ? 'chosen' : 'here';
  const words = parts.length > 0 ? parts : [HINT];
  const piece = (text: string, style: string) => {
    const span = document.createElement('span');
    span.className = style;
    span.textContent = text;
    return span;
  };
  const quiet = 'text-[12.5px] text-soft';
  line.replaceChildren(
    piece(lead, quiet),
    ...words.map((word) => piece(word, parts.length > 0 ? 'mono' : quiet)),
  );
}

/** How the figure stands, in words; null at rest. */
function posedText(pose: StandingPose, character: Character | null): string | null {
  if (isAtRest(pose)) return null;
  const count = pose.turns.size;
  const turned = count > 0 && `${count} ${count === 1 ? 'bone' : 'bones'} turned`;
  const from = pose.moment?.from;
  const by =
    pose.moment &&
    (from ? `by a motion of ${from.name}` : `by ${character?.clips[pose.moment.clip]?.name || 'a clip'}`);
  return [by ? `posed ${by}` : 'posed', turned].filter(Boolean).join(', ');
}

/** What is not seen at the moment, and how it is seen again. */
function Left() {
  const hidden = useDesk((state) => state.hidden);
  const isolated = useDesk((state) => state.isolated);
  const hiddenParts = useDesk((state) => state.hiddenPolygons.size > 0);
  const stacked = useDesk((state) => state.stacked);
  const posed = useDesk((state) => posedText(state.pose, state.character));
  return (
    <span className="ml-auto flex shrink-0 gap-4 text-[12.5px] text-damson">
      {stacked && (
        <span data-testid="stacked">
          {stacked.nth} of {stacked.of} behind one another: press again for the next
        </span>
      )}
      {hidden.size > 0 && (
        <button
          type="button"
          className="font-semibold underline"
          onClick={() => changeLook({ hidden: new Set() })}
        >
          {hidden.size} hidden: show all
        </button>
      )}
      {hiddenParts && (
        <button type="button" className="font-semibold underline" onClick={showAllParts}>
          parts hidden: show all
        </button>
      )}
      {isolated && <span>isolated: press I to see all</span>}
      {posed && (
        <button type="button" className="font-semibold underline" onClick={backToRest}>
          {posed}: back to rest
        </button>
      )}
    </span>
  );
}

/** The scale of the picture of numbers that the surface shows. */
function WeightsKey() {
  const surface = useDesk((state) => state.surface);
  const heat = useDesk((state) => state.heat);
  const { unit } = useDesk((state) => state.brief);
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  if (heat)
    return (
      <div className="absolute bottom-[40px] right-4 w-[220px] text-[12px] text-soft">
        <p className="mb-1">
          {heat.ticks ? '' : `${fineUnit(unit)} `}
          {heat.title}
        </p>
        <Ramp
          ticks={
            heat.ticks ??
            [0, 0.25, 0.5, 0.75, 1].map((share) =>
              String(Number(inUnit(share * heat.most, fineUnit(unit)).toPrecision(2))),
            )
          }
        />
      </div>
    );
  if (surface !== 'weights' || name === undefined) return null;
  return (
    <div className="absolute bottom-[40px] right-4 w-[220px] text-[12px] text-soft">
      <p className="mb-1">
        weight of <span className="mono text-ink">{name}</span>
      </p>
      <Ramp ticks={['0', '.25', '.5', '.75', '1']} />
    </div>
  );
}
