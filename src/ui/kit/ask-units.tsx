'use client';

import clsx from 'clsx';
import { useState } from 'react';
import { type Brief } from '@/core/house/brief';
import { inUnit } from '@/core/contracts/units';
import { UNITS } from '@/core/contracts/units';
import type { Surveyed } from './api';
import { Button } from './button';

const AXES = ['x', 'y', 'z'] as const;

/** Asks for the unit and the up axis of files that do not say them; under every choice the height that would come of it. */
export function AskUnits({
  survey,
  brief,
  onAnswer,
  onCancel,
}: {
  survey: Surveyed;
  brief: Brief;
  onAnswer: (fields: { unit: string; up: string }) => void;
  onCancel: () => void;
}) {
  // As read, the second extent is the one along the axis that was taken to be up; the others follow round.
  const along = (up: 'x' | 'y' | 'z') =>
    survey.size[(AXES.indexOf(up) - AXES.indexOf(survey.upAxis) + 4) % 3];
  const target = brief.height?.target ?? 1.76;
  const height = (metres: number, up: 'x' | 'y' | 'z') => (along(up) / survey.unitMetres) * metres;
  const nearest = UNITS.reduce((b, u) =>
    Math.abs(Math.log(height(u.metres, survey.upAxis) / target)) <
    Math.abs(Math.log(height(b.metres, survey.upAxis) / target))
      ? u
      : b,
  );
  const [unit, setUnit] = useState(survey.stated.unit ? survey.unitMetres : nearest.metres);
  const [up, setUp] = useState<'x' | 'y' | 'z'>(survey.upAxis);
  const text = (m: number) => `${Number(inUnit(m, brief.unit).toPrecision(4))} ${brief.unit}`;
  const choice = (on: boolean) =>
    clsx(
      'rounded-lg border px-2.5 py-1.5 text-left text-[13px] transition-colors',
      on ? 'border-damson bg-damson-wash' : 'border-rule bg-sheet hover:bg-wash',
    );
  return (
    <div className="mt-2" role="group" aria-label="Unit and axes">
      <p className="text-[13px]">
        {survey.format} does not say{' '}
        {!survey.stated.unit && !survey.stated.upAxis
          ? 'its unit nor which way is up'
          : !survey.stated.unit
            ? 'its unit'
            : 'which way is up'}
        . Under each choice, how tall it would stand; the brief wants {text(target)}.
      </p>
      {!survey.stated.unit && (
        <div role="radiogroup" aria-label="Unit of the file" className="mt-2 grid grid-cols-3 gap-1.5">
          {UNITS.map((u) => (
            <button
              key={u.short}
              type="button"
              role="radio"
              aria-checked={unit === u.metres}
              onClick={() => setUnit(u.metres)}
              className={choice(unit === u.metres)}
            >
              <span className="block font-semibold">{u.word}</span>
              <span className="mono text-soft">{text(height(u.metres, up))}</span>
            </button>
          ))}
        </div>
      )}
      {!survey.stated.upAxis && (
        <div role="radiogroup" aria-label="Axis that points up" className="mt-1.5 grid grid-cols-3 gap-1.5">
          {AXES.map((a) => (
            <button
              key={a}
              type="button"
              role="radio"
              aria-checked={up === a}
              onClick={() => setUp(a)}
              className={choice(up === a)}
            >
              <span className="block font-semibold">{a} is up</span>
              <span className="mono text-soft">{text(height(unit, a))}</span>
            </button>
          ))}
        </div>
      )}
      <div className="mt-2.5 flex gap-2">
        <Button small kind="leaf" onClick={() => onAnswer({ unit: String(unit), up })}>
          Take it in like this
        </Button>
        <Button small onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </div>
  );
}
