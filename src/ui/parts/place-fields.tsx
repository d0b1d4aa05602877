'use client';

import { useState } from 'react';
import { type LengthUnit, inUnit, unitSign } from '@/core/contracts/units';

const AXES = ['x', 'y', 'z'] as const;

/** A world place as three numbers in the brief's unit; each is taken when one leaves it or presses Enter. */
export function PlaceFields({
  place,
  unit,
  onPlace,
}: {
  place: readonly number[];
  unit: LengthUnit;
  onPlace: (place: number[]) => void;
}) {
  return (
    <div className="flex gap-1.5" role="group" aria-label={`Place in the world, ${unitSign(unit)}`}>
      {AXES.map((axis, k) => (
        <PlaceField
          // Another place is another number to begin from.
          key={`${axis} ${place[k]}`}
          axis={axis}
          metres={place[k]}
          unit={unit}
          onMetres={(metres) => onPlace(place.map((x, i) => (i === k ? metres : x)))}
        />
      ))}
    </div>
  );
}

function PlaceField({
  axis,
  metres,
  unit,
  onMetres,
}: {
  axis: string;
  metres: number;
  unit: LengthUnit;
  onMetres: (metres: number) => void;
}) {
  const per = inUnit(1, unit);
  const shown = String(Number((metres * per).toFixed(4)));
  const [text, setText] = useState(shown);
  const take = () => {
    const typed = Number(text);
    if (text.trim() === '' || !Number.isFinite(typed)) setText(shown);
    else if (text !== shown) onMetres(typed / per);
  };
  return (
    <label className="flex min-w-0 flex-1 items-center gap-1 text-[12.5px]">
      {axis}
      <input
        aria-label={`${axis}, ${unitSign(unit)}`}
        value={text}
        inputMode="decimal"
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') take();
          if (event.key === 'Escape') setText(shown);
        }}
        className="mono h-7 w-full min-w-0 rounded-md border border-rule bg-paper px-1.5 text-right"
      />
    </label>
  );
}
