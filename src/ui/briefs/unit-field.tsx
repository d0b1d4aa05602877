'use client';

import { useEffect, useId, useState } from 'react';
import { LENGTH_UNITS, type LengthUnit, ownPerMetre, ownUnit } from '@/core/contracts/units';
import type { FormField } from '@/core/house/brief-form';
import { changeAt, useTable } from './draft';
import { Question } from './question';

const INPUT = 'h-7 min-w-0 rounded-md border border-rule bg-sheet px-1 disabled:opacity-60';

const OWN = 'own';

/** The unit that lengths are shown in: one of the trade, or the game's own with how many make a metre. */
export function UnitField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const id = useId();
  const unit = useTable((table) => table.draft?.unit ?? 'm');
  const per = ownPerMetre(unit);
  const choose = (next: string) => changeAt(field.path, next === OWN ? ownUnit(100) : next);
  return (
    <Question id={id} label={field.label} hint={field.hint}>
      <div className="flex flex-wrap items-center gap-2">
        <select
          id={id}
          value={per === null ? unit : OWN}
          disabled={isLocked}
          onChange={(event) => choose(event.target.value)}
          className={INPUT}
        >
          {LENGTH_UNITS.map((unit) => (
            <option key={unit}>{unit}</option>
          ))}
          <option value={OWN}>the game’s own</option>
        </select>
        {per !== null && (
          <PerMetre per={per} isLocked={isLocked} onChange={(unit) => changeAt(field.path, unit)} />
        )}
      </div>
    </Question>
  );
}

/** How many units of the game's own make a metre; taken when one leaves the field or presses Enter. */
function PerMetre({
  per,
  isLocked,
  onChange,
}: {
  per: number;
  isLocked: boolean;
  onChange: (unit: LengthUnit) => void;
}) {
  const [text, setText] = useState(String(per));
  const [isOff, setOff] = useState(false);
  useEffect(() => {
    setText(String(per));
    setOff(false);
  }, [per]);
  const take = () => {
    const unit = ownUnit(Number(text.replace(',', '.')));
    setOff(unit === null);
    if (unit) onChange(unit);
  };
  return (
    <span className="flex flex-wrap items-center gap-1.5">
      <input
        aria-label="Units to the metre"
        value={text}
        disabled={isLocked}
        inputMode="decimal"
        aria-invalid={isOff}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => event.key === 'Enter' && take()}
        className={`mono w-24 px-2 text-right ${INPUT} ${isOff ? 'border-stops' : ''}`}
      />
      <span className="text-soft">u to the metre</span>
      {isOff && (
        <span role="alert" className="text-[12.5px] text-stops">
          a number above 0 and below 1 000 000
        </span>
      )}
    </span>
  );
}
