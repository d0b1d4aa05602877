'use client';

import clsx from 'clsx';
import { useState } from 'react';
import { UNITS, inUnit, unitSign } from '@/core/contracts/units';
import type { Brief } from '@/core/house/brief';
import type { Survey } from '@/routes/arrivals';
import { Button } from './button';

const AXES = ['x', 'y', 'z'] as const;

type Axis = (typeof AXES)[number];

/** What is said of files that do not say it themselves; empty for what they do. */
export interface UnitAnswer {
  readonly unit: string;
  readonly up: string;
}

/**
 * Height that files would stand, metres. As read, the second extent is the one along the axis that was taken
 * to be up; the others follow round.
 */
function heightAs(survey: Survey, metres: number, up: Axis): number {
  const along = survey.size[(AXES.indexOf(up) - AXES.indexOf(survey.upAxis) + 4) % 3];
  return (along / survey.unitMetres) * metres;
}

/** The largest extent that files would have, metres. */
const largestAs = ({ size, unitMetres }: Survey, metres: number): number =>
  (Math.max(...size) / unitMetres) * metres;

/** The unit that brings a length nearest to what is wanted. */
function nearestUnit(lengthAs: (metres: number) => number, wanted: number): number {
  const off = (metres: number) => Math.abs(Math.log(lengthAs(metres) / wanted));
  return UNITS.reduce((best, unit) => (off(unit.metres) < off(best.metres) ? unit : best)).metres;
}

/** The body that files are added to. */
export interface BodyBeside {
  /** Metres. */
  readonly height: number;
  /** The unit of its own file, metres. */
  readonly unitMetres: number;
}

/** A part of a figure is as large as this at most, and usually about so large, as a share of the figure's height. */
const LARGEST_PART = 1.2;
const USUAL_PART = 0.25;

/** A part is no smaller than this, as a share of the figure's height. */
const SMALLEST_PART = 0.003;

/** The unit of the body where a part would have a fitting size in it; else the one that fits best. */
function unitBeside(survey: Survey, { height, unitMetres }: BodyBeside): number {
  const share = largestAs(survey, unitMetres) / height;
  if (share >= SMALLEST_PART && share <= LARGEST_PART) return unitMetres;
  return nearestUnit((metres) => largestAs(survey, metres), USUAL_PART * height);
}

function missingText({ stated }: Survey): string {
  if (!stated.unit && !stated.upAxis) return 'its unit nor which way is up';
  return stated.unit ? 'which way is up' : 'its unit';
}

/**
 * Asks for the unit and the up axis of files that do not say them; under every choice the height that would
 * come of it, or of a part that comes to a figure how large it would be beside that.
 */
export function AskUnits({
  survey,
  brief,
  beside = null,
  onAnswer,
  onCancel,
}: {
  survey: Survey;
  brief: Brief;
  /** The figure that a part comes to; null where the files are a figure of their own. */
  beside?: BodyBeside | null;
  onAnswer: (answer: UnitAnswer) => void;
  onCancel: () => void;
}) {
  const target = brief.height?.target ?? 1.76;
  const [unit, setUnit] = useState(() => {
    if (survey.stated.unit) return survey.unitMetres;
    if (beside) return unitBeside(survey, beside);
    return nearestUnit((metres) => heightAs(survey, metres, survey.upAxis), target);
  });
  const [up, setUp] = useState<Axis>(survey.upAxis);
  const [factor, setFactor] = useState(1);
  const metres = unit * factor;
  const text = (metres: number) =>
    `${Number(inUnit(metres, brief.unit).toPrecision(4))} ${unitSign(brief.unit)}`;
  const units = UNITS.map((unit) => ({
    value: unit.metres,
    word: unit.word,
    tall: text(beside ? largestAs(survey, unit.metres) : heightAs(survey, unit.metres, up)),
  }));
  const axes = AXES.map((axis) => ({
    value: axis,
    word: `${axis} is up`,
    tall: text(heightAs(survey, metres, axis)),
  }));
  return (
    <div className="mt-2" role="group" aria-label="Unit and axes">
      <p className="text-[13px]">
        {survey.format} does not say {missingText(survey)}.{' '}
        {beside
          ? `Under each choice, how large it would be; the figure that it comes to is ${text(beside.height)} tall.`
          : `Under each choice, how tall it would stand; the brief wants ${text(target)}.`}
      </p>
      {!survey.stated.unit && (
        <>
          <Choices label="Unit of the file" choices={units} value={unit} onChoose={setUnit} />
          <FactorField
            factor={factor}
            size={text(beside ? largestAs(survey, metres) : heightAs(survey, metres, up))}
            fits={beside ? null : { factor: target / heightAs(survey, unit, up), wanted: text(target) }}
            onChange={setFactor}
          />
        </>
      )}
      {!survey.stated.upAxis && (
        <Choices label="Axis that points up" choices={axes} value={up} onChoose={setUp} />
      )}
      <div className="mt-2.5 flex gap-2">
        <Button
          small
          kind="leaf"
          disabled={!(metres > 0)}
          onClick={() => onAnswer({ unit: String(metres), up })}
        >
          Take it in like this
        </Button>
        <Button small onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </div>
  );
}

/** Files of which no unit is right, captures most of all: so many times the unit, or whatever fits the height. */
function FactorField({
  factor,
  size,
  fits,
  onChange,
}: {
  factor: number;
  /** How large it comes out, with its unit. */
  size: string;
  /** The factor that brings it to the height that is wanted; null where none is. */
  fits: { readonly factor: number; readonly wanted: string } | null;
  onChange: (factor: number) => void;
}) {
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-2 gap-y-1 text-[13px]">
      <label className="flex items-center gap-1.5">
        times
        <input
          type="number"
          step="any"
          min={0}
          value={Number.isFinite(factor) ? factor : ''}
          onChange={(event) => onChange(event.target.value === '' ? NaN : Number(event.target.value))}
          className="mono h-7 w-28 rounded-md border border-rule bg-sheet px-2 text-right"
        />
      </label>
      <span className="mono text-soft">{factor > 0 ? `→ ${size}` : 'a number above 0'}</span>
      {fits && Number.isFinite(fits.factor) && fits.factor > 0 && (
        <Button small onClick={() => onChange(Number(fits.factor.toPrecision(6)))}>
          So that it stands {fits.wanted}
        </Button>
      )}
    </div>
  );
}

function Choices<T extends string | number>({
  label,
  choices,
  value,
  onChoose,
}: {
  label: string;
  choices: readonly { readonly value: T; readonly word: string; readonly tall: string }[];
  value: T;
  onChoose: (value: T) => void;
}) {
  return (
    <div role="radiogroup" aria-label={label} className="mt-2 grid grid-cols-3 gap-1.5">
      {choices.map((choice) => (
        <button
          key={choice.value}
          type="button"
          role="radio"
          aria-checked={choice.value === value}
          onClick={() => onChoose(choice.value)}
          className={clsx(
            'rounded-lg border px-2.5 py-1.5 text-left text-[13px] transition-colors',
            choice.value === value ? 'border-damson bg-damson-wash' : 'border-rule bg-sheet hover:bg-wash',
          )}
        >
          <span className="block font-semibold">{choice.word}</span>
          <span className="mono text-soft">{choice.tall}</span>
        </button>
      ))}
    </div>
  );
}
