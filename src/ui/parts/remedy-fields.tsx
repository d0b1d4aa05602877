'use client';

import { useMemo } from 'react';
import { type Field, fieldsOf, isAsked } from '@/core/contracts/params';
import { UNITS, inUnit, unitSign } from '@/core/contracts/units';
import type { AnyObjectSchema } from 'yup';
import type { Brief } from '@/core/house/brief';
import { candidatesOf } from '@/core/house/by-hand';
import { bodyHeight, skeletonHeight } from '@/core/rooms/placement/survey';
import { Chip } from '../kit/button';
import { useDesk } from '../state/store';

type Values = Readonly<Record<string, unknown>>;

interface FieldProps {
  field: Field;
  value: unknown;
  brief: Brief;
  onChange: (value: unknown) => void;
}

const row = 'mt-2 flex items-center justify-between gap-3 text-[13px]';

/** Whether a remedy asks for anything that a form can show. */
export const asksSomething = (params: AnyObjectSchema, values: Values): boolean =>
  fieldsOf(params).some((field) => isAsked(field, values) && !NOT_ASKED.has(field.kind));

/** Kinds of fields that are given by what is chosen, or that no form can ask for. */
const NOT_ASKED: ReadonlySet<Field['kind']> = new Set(['other', 'ref', 'elements']);

const NO_REFS: readonly string[] = [];

/** What a remedy asks for, made from the metadata of its parameters. */
export function RemedyFields({
  params,
  values,
  brief,
  askedRefs = NO_REFS,
  onChange,
}: {
  params: AnyObjectSchema;
  values: Values;
  brief: Brief;
  /** References that are asked for as well, by name: nobody has given them. */
  askedRefs?: readonly string[];
  onChange: (name: string, value: unknown) => void;
}) {
  const fields = useMemo(() => fieldsOf(params), [params]);
  const asked = fields.filter((field) => isAsked(field, values) || askedRefs.includes(field.name));
  return asked.map((field) => {
    const props = {
      field,
      value: values[field.name],
      brief,
      onChange: (value: unknown) => onChange(field.name, value),
    };
    if (field.quantity === 'fileUnit') return <UnitField key={field.name} {...props} />;
    if (field.kind === 'ref') return <RefField key={field.name} {...props} />;
    if (field.isList) return null;
    if (field.kind === 'colour') return <ColourField key={field.name} {...props} />;
    if (field.kind === 'flag') return <FlagField key={field.name} {...props} />;
    if (field.kind === 'choice') return <ChoiceField key={field.name} {...props} />;
    if (field.kind === 'text') return <TextField key={field.name} {...props} />;
    return field.kind === 'number' ? <NumberField key={field.name} {...props} /> : null;
  });
}

/** One of the bones, meshes, nodes or skins of the character, by name. */
function RefField({ field, value, onChange }: FieldProps) {
  const character = useDesk((state) => state.character);
  const nodes = useMemo(
    () => (character && field.ref ? candidatesOf(character, field.ref) : []),
    [character, field.ref],
  );
  const listOf = { skin: character?.skins, set: character?.sets };
  const list = field.ref === 'skin' || field.ref === 'set' ? listOf[field.ref] : character?.nodes;
  const nameOf = (index: number) => list?.[index].name || `${field.ref} ${index}`;
  return (
    <label className={row}>
      <span className="text-soft">{field.label}</span>
      <select
        value={typeof value === 'number' ? value : ''}
        onChange={(event) => onChange(event.target.value === '' ? undefined : Number(event.target.value))}
        className="mono h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2"
      >
        <option value="" disabled>
          choose …
        </option>
        {field.least < 0 && <option value={-1}>none</option>}
        {nodes.map((index) => (
          <option key={index} value={index}>
            {nameOf(index)}
          </option>
        ))}
      </select>
    </label>
  );
}

function ColourField({ field, value, onChange }: FieldProps) {
  return (
    <label className={row}>
      <span className="text-soft">{field.label}</span>
      <input
        type="color"
        value={typeof value === 'string' ? value : '#888888'}
        onChange={(event) => onChange(event.target.value)}
        className="h-7 w-14 rounded-md border border-rule bg-sheet px-1"
      />
    </label>
  );
}

function FlagField({ field, value, onChange }: FieldProps) {
  return (
    <label className="mt-2 flex items-center gap-2 text-[13px]">
      <input type="checkbox" checked={value === true} onChange={(event) => onChange(event.target.checked)} />
      {field.label}
    </label>
  );
}

function TextField({ field, value, onChange }: FieldProps) {
  return (
    <label className={row}>
      <span className="text-soft">{field.label}</span>
      <input
        value={typeof value === 'string' ? value : ''}
        maxLength={200}
        spellCheck={false}
        onChange={(event) => onChange(event.target.value)}
        className="mono h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2"
      />
    </label>
  );
}

function ChoiceField({ field, value, onChange }: FieldProps) {
  return (
    <div role="group" aria-label={field.label} className={row}>
      <span>{field.label}</span>
      <span className="flex gap-1">
        {Object.entries(field.choices).map(([choice, word]) => (
          <Chip key={choice} on={value === choice} onClick={() => onChange(choice)}>
            {word}
          </Chip>
        ))}
      </span>
    </div>
  );
}

/** A number; a length is shown and taken in the brief's unit. */
function NumberField({ field, value, brief, onChange }: FieldProps) {
  const isLength = field.quantity === 'length';
  const per = isLength ? inUnit(1, brief.unit) : 1;
  const unit = unitOf(field, brief);
  return (
    <label className={row}>
      {field.label}
      <span className="flex items-center gap-1.5">
        <input
          type="number"
          step="any"
          value={typeof value === 'number' ? Number((value * per).toPrecision(8)) : ''}
          onChange={(event) =>
            onChange(event.target.value === '' ? undefined : Number(event.target.value) / per)
          }
          className="mono h-7 w-28 rounded-md border border-rule bg-sheet px-2 text-right"
        />
        {unit && <span className="mono w-7 text-soft">{unit}</span>}
      </span>
    </label>
  );
}

function unitOf({ quantity }: Field, brief: Brief): string {
  if (quantity === 'length') return unitSign(brief.unit);
  return quantity === 'angle' ? '°' : '';
}

/** The choice of a unit that has no name. */
const OTHER = 'another';

/** Units to read a file in, each with the height that comes of it; any other as so many metres. */
function UnitField({ field, value, brief, onChange }: FieldProps) {
  const character = useDesk((state) => state.character);
  const height = character ? (bodyHeight(character) ?? skeletonHeight(character)) : null;
  const isOther = !UNITS.some((unit) => unit.metres === value);
  const tall = (metres: number) => {
    if (!height || !character) return '';
    const read = (height / character.source.unitMetres) * metres;
    return ` → ${Number(inUnit(read, brief.unit).toPrecision(4))} ${unitSign(brief.unit)} tall`;
  };
  return (
    <>
      <label className={row}>
        {field.label}
        <select
          value={isOther ? OTHER : String(value)}
          onChange={(event) =>
            onChange(event.target.value === OTHER ? undefined : Number(event.target.value))
          }
          className="h-7 rounded-md border border-rule bg-sheet px-2"
        >
          {UNITS.map((unit) => (
            <option key={unit.short} value={unit.metres}>
              {unit.word}
              {tall(unit.metres)}
            </option>
          ))}
          <option value={OTHER}>another{typeof value === 'number' && isOther ? tall(value) : ''}</option>
        </select>
      </label>
      {isOther && (
        <label className={row}>
          One of it is
          <span className="flex items-center gap-1.5">
            <input
              type="number"
              step="any"
              min={0}
              value={typeof value === 'number' ? Number(value.toPrecision(8)) : ''}
              onChange={(event) =>
                onChange(event.target.value === '' ? undefined : Number(event.target.value))
              }
              className="mono h-7 w-28 rounded-md border border-rule bg-sheet px-2 text-right"
            />
            <span className="mono w-7 text-soft">m</span>
          </span>
        </label>
      )}
    </>
  );
}
