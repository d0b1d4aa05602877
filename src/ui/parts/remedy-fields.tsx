'use client';

import clsx from 'clsx';
import { useId, useMemo } from 'react';
import { type Field, fieldsOf, isAsked, listReferredTo } from '@/core/contracts/params';
import { UNITS, inUnit, unitSign } from '@/core/contracts/units';
import type { AnyObjectSchema } from 'yup';
import type { Brief } from '@/core/house/brief';
import { candidatesOf } from '@/core/house/by-hand';
import { bodyHeight, skeletonHeight } from '@/core/rooms/placement/survey';
import { SchemaForm, useEntry, useFormTools } from '../kit/form/form';
import { ChipsInput, FieldError, FieldInput, NumberInput } from '../kit/form/inputs';
import { useDesk } from '../state/store';

type Values = Readonly<Record<string, unknown>>;

const row = 'mt-2 flex items-center justify-between gap-3 text-[13px]';

/** Digits that a number of a remedy is shown to. */
const DIGITS = 8;

/** Whether a remedy asks for anything that a form can show. */
export const asksSomething = (params: AnyObjectSchema, values: Values): boolean =>
  fieldsOf(params).some((field) => isAsked(field, values) && !NOT_ASKED.has(field.kind));

/** Kinds of fields that are given by what is chosen, or that no form can ask for. */
const NOT_ASKED: ReadonlySet<Field['kind']> = new Set(['other', 'ref', 'elements']);

const NO_REFS: readonly string[] = [];

/** Whether a form shows a field: a reference where somebody has to give it, else whatever can be typed or chosen. */
const isShown = ({ kind, isList, quantity }: Field): boolean =>
  quantity === 'fileUnit' || kind === 'ref' || (!isList && !NOT_ASKED.has(kind));

/** What a remedy asks for, made from the metadata of its parameters. */
export function RemedyFields({
  params,
  values,
  brief,
  askedRefs = NO_REFS,
  onChange,
  onWrong,
}: {
  params: AnyObjectSchema;
  values: Values;
  brief: Brief;
  /** References that are asked for as well, by name: nobody has given them. */
  askedRefs?: readonly string[];
  onChange: (name: string, value: unknown) => void;
  /** Told whenever a field begins or ceases to hold what cannot be taken. */
  onWrong?: (isWrong: boolean) => void;
}) {
  const fields = useMemo(() => fieldsOf(params).filter(isShown), [params]);
  const asked = fields.filter((field) => isAsked(field, values) || askedRefs.includes(field.name));
  const names = asked.map((field) => field.name);
  // Only what is asked is in the form: points by the thousand are not looked at with every letter.
  const schema = params.pick(names);
  const shown = Object.fromEntries(names.map((name) => [name, values[name]]));
  return (
    <SchemaForm schema={schema} values={shown} unit={brief.unit} onTake={onChange} onWrong={onWrong}>
      {asked.map((field) => (
        <RemedyField key={field.name} field={field} brief={brief} />
      ))}
    </SchemaForm>
  );
}

function RemedyField({ field, brief }: { field: Field; brief: Brief }) {
  const { name, kind, label } = field;
  if (field.quantity === 'fileUnit') return <UnitField field={field} brief={brief} />;
  if (kind === 'ref') return <RefField field={field} />;
  if (kind === 'choice')
    return (
      <div role="group" aria-label={label} className={clsx(row, 'flex-wrap')}>
        <span>{label}</span>
        <ChipsInput name={name} field={field} />
      </div>
    );
  if (kind === 'flag')
    return (
      <label className="mt-2 flex items-center gap-2 text-[13px]">
        <FieldInput name={name} field={field} />
        {label}
      </label>
    );
  return (
    <>
      <label className={row}>
        <span className={kind === 'number' ? '' : 'text-soft'}>{label}</span>
        <FieldInput name={name} field={field} digits={DIGITS} />
      </label>
      <FieldError name={name} field={field} />
    </>
  );
}

/** One of the bones, meshes, nodes or skins of the character, by name. */
function RefField({ field }: { field: Field }) {
  const { value, enter } = useEntry(field.name);
  const character = useDesk((state) => state.character);
  const nodes = useMemo(
    () => (character && field.ref ? candidatesOf(character, field.ref) : []),
    [character, field.ref],
  );
  const list = character && field.ref ? listReferredTo(character, field.ref) : null;
  const nameOf = (index: number) => list?.[index].name || `${field.ref} ${index}`;
  return (
    <label className={row}>
      <span className="text-soft">{field.label}</span>
      <select
        value={typeof value === 'number' ? value : ''}
        onChange={(event) => enter(event.target.value === '' ? undefined : Number(event.target.value))}
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

/** The choice of a unit that has no name. */
const OTHER = 'another';

/** A unit without a name, as so many metres. */
const IN_METRES = { label: 'One of it', kind: 'number', choices: {} } as const;

/** Units to read a file in, each with the height that comes of it; any other as so many metres. */
function UnitField({ field, brief }: { field: Field; brief: Brief }) {
  const id = useId();
  const { value, enter } = useEntry(field.name);
  const { onTake } = useFormTools();
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
          onChange={(event) => {
            // Which one is not said yet: the preview says so until it is.
            if (event.target.value === OTHER) onTake(field.name, undefined);
            else enter(Number(event.target.value));
          }}
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
        <>
          <div className={row}>
            <label htmlFor={id}>One of it is</label>
            <span className="flex items-center gap-1.5">
              <NumberInput id={id} name={field.name} field={IN_METRES} digits={DIGITS} />
              <span className="mono w-7 text-soft">m</span>
            </span>
          </div>
          <FieldError name={field.name} field={IN_METRES} />
        </>
      )}
    </>
  );
}
