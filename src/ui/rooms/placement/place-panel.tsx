'use client';

import { useState } from 'react';
import { restPlace } from '@/core/character/hierarchy';
import { Button, Chip } from '../../kit/button';
import { PlaceFields } from '../../parts/place-fields';
import { beginGesture } from '../../state/draft';
import { desk, useDesk } from '../../state/store';
import { choosePart, partIn, usePlaceSettings } from './place-settings';
import { isLoose, putPart, standOfPart, turnPart } from './place-tool';

const AXES = ['x', 'y', 'z'] as const;

/** A quarter of a turn, degrees. */
const QUARTER = 90;

/** The part that is placed: its place and turn in numbers, quarter turns, the way into a hand. */
export function PlacePanel() {
  const character = useDesk((state) => state.character);
  const named = usePlaceSettings((settings) => settings.part);
  const unit = useDesk((state) => state.brief.unit);
  // Where it stands follows from the draft.
  useDesk((state) => state.draft);
  if (!character) return null;
  const loose = character.nodes.flatMap((node, i) =>
    isLoose(character, i) ? [{ node: i, name: node.name }] : [],
  );
  if (loose.length === 0)
    return <p className="text-[13px] text-soft">Nothing hangs loose here: every mesh is bound to bones.</p>;
  const part = partIn(character, named);
  const stand = standOfPart(part);
  return (
    <div className="text-[13px]">
      <select
        aria-label="Part"
        value={stand ? part : ''}
        onChange={(event) => choosePart(character, Number(event.target.value))}
        className="mono mb-2 h-7 w-full rounded-md border border-rule bg-paper px-1.5"
      >
        <option value="" disabled>
          drag a part, or choose it here
        </option>
        {loose.map((part) => (
          <option key={part.node} value={part.node}>
            {part.name || `node ${part.node}`}
          </option>
        ))}
      </select>
      {stand && (
        <>
          <PlaceFields
            place={stand.place}
            unit={unit}
            onPlace={(to) => {
              beginGesture();
              putPart(part, to);
            }}
          />
          <Turns part={part} />
          <ToBone part={part} />
        </>
      )}
    </div>
  );
}

function Turns({ part }: { part: number }) {
  const own = usePlaceSettings((settings) => settings.ownAxes);
  const [degrees, setDegrees] = useState(QUARTER);
  const turn = (axis: number, by: number) => {
    beginGesture();
    turnPart(part, axis as 0 | 1 | 2, by, own);
  };
  return (
    <>
      <div className="mt-2 flex items-center gap-1" role="group" aria-label="Axes to turn about">
        <Chip on={!own} onClick={() => usePlaceSettings.setState({ ownAxes: false })}>
          World’s axes
        </Chip>
        <Chip on={own} onClick={() => usePlaceSettings.setState({ ownAxes: true })}>
          Its own
        </Chip>
      </div>
      <div className="mt-2 flex items-center gap-1.5 whitespace-nowrap">
        <label className="flex items-center gap-1">
          turn
          <input
            type="number"
            aria-label="Turn by, degrees"
            value={degrees}
            onChange={(event) => setDegrees(Number(event.target.value))}
            className="mono h-7 w-[52px] rounded-md border border-rule bg-paper px-1.5 text-right"
          />
          ° about
        </label>
        {AXES.map((axis, k) => (
          <Button
            key={axis}
            small
            className="flex-1 !px-0"
            aria-label={`about ${axis}`}
            title={`Turn about ${axis}`}
            onClick={() => turn(k, degrees)}
          >
            {axis}
          </Button>
        ))}
      </div>
    </>
  );
}

/** Into the hand, onto the back: to the joint of the chosen bone. */
function ToBone({ part }: { part: number }) {
  const bone = useDesk((state) => state.bone);
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  if (name === undefined) return null;
  const go = () => {
    const { character } = desk();
    if (!character) return;
    beginGesture();
    putPart(part, restPlace(character.nodes, bone));
  };
  return (
    <Button small className="mt-2 max-w-full" onClick={go}>
      <span className="truncate">To the joint of {name}</span>
    </Button>
  );
}
