'use client';

import { type ReactNode, useEffect, useId, useState } from 'react';
import { Plus, X } from 'lucide-react';
import { type LengthUnit, lengthFrom } from '@/core/contracts/units';
import { type FormField, valueAt } from '@/core/house/brief-form';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { Button } from '../kit/button';
import { changeAt, useTable } from './draft';
import { NamingPartsField } from './naming-parts';
import { Question } from './question';
import { SkeletonField } from './skeleton-field';
import { UnitField } from './unit-field';
import { numberWords, perStored, unitWords, valueWords } from './words';

const INPUT = 'h-7 min-w-0 rounded-md border border-rule bg-sheet px-2 disabled:opacity-60';

/** One question of the form: its value, what it does, and what the character beside it measures. */
export function FieldRow({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const value = useTable((table) => (table.draft ? valueAt(table.draft, field.path) : undefined));
  if (field.kind === 'list') return <ListField field={field} isLocked={isLocked} />;
  if (field.kind === 'names') return <NamesField field={field} isLocked={isLocked} />;
  if (field.path === 'skeleton') return <SkeletonField field={field} isLocked={isLocked} />;
  if (field.path === 'unit') return <UnitField field={field} isLocked={isLocked} />;
  if (field.kind === 'group') return <GroupField field={field} isLocked={isLocked} />;
  return (
    <SingleField
      field={field}
      value={value}
      isLocked={isLocked}
      onChange={(next) => changeAt(field.path, next)}
      measured={<Measured field={field} />}
    />
  );
}

/** Several questions under one heading, which may not be asked at all. */
function GroupField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const value = useTable((table) => (table.draft ? valueAt(table.draft, field.path) : undefined));
  const isAsked = value !== null && value !== undefined;
  return (
    <fieldset className="border-t border-rule/70 pt-1.5 first:border-t-0">
      <legend className="sr-only">{field.label}</legend>
      <div className="flex items-center gap-3">
        <span className="font-semibold">{field.label}</span>
        {field.isNullable && (
          <Asked
            label={field.label}
            isAsked={isAsked}
            isLocked={isLocked}
            onChange={(on) =>
              changeAt(field.path, on ? (valueAt(PLAIN_FIGURE, field.path) ?? beginOf(field)) : null)
            }
          />
        )}
        {field.hint && <span className="text-[12.5px] text-soft">{field.hint}</span>}
      </div>
      {isAsked && field.path === 'naming' && <NamingPartsField isLocked={isLocked} />}
      {isAsked &&
        field.fields.map((field) => <FieldRow key={field.path} field={field} isLocked={isLocked} />)}
    </fieldset>
  );
}

/** Something to begin with, where the plain figure has nothing either. */
const beginOf = (field: FormField): object =>
  Object.fromEntries(
    field.fields.map((field) => [field.path.split('.').at(-1) ?? '', field.kind === 'number' ? 1 : 'a']),
  );

function Asked({
  label,
  isAsked,
  isLocked,
  onChange,
}: {
  label: string;
  isAsked: boolean;
  isLocked: boolean;
  onChange: (on: boolean) => void;
}) {
  return (
    <label className="flex items-center gap-1.5 text-[12.5px] text-soft">
      <input
        type="checkbox"
        checked={isAsked}
        disabled={isLocked}
        onChange={(event) => onChange(event.target.checked)}
        aria-label={`${label}: asked`}
      />
      {isAsked ? 'asked' : 'not asked'}
    </label>
  );
}

/** Names one by one, a line each. */
function NamesField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const value = useTable((table) => (table.draft ? valueAt(table.draft, field.path) : undefined)) as
    string[] | undefined;
  const id = useId();
  const [text, setText] = useState<string | null>(null);
  const names = value ?? [];
  const take = (typed: string) => {
    setText(typed);
    const all = typed.split('\n').map((word) => word.trim());
    changeAt(field.path, [...new Set(all.filter(Boolean))]);
  };
  return (
    <Question
      id={id}
      label={field.label}
      hint={field.hint}
      beside={names.length > 0 && `${names.length} ${names.length === 1 ? 'name' : 'names'}`}
    >
      <textarea
        id={id}
        value={text ?? names.join('\n')}
        disabled={isLocked}
        rows={Math.min(6, Math.max(1, names.length + 1))}
        onChange={(event) => take(event.target.value)}
        onBlur={() => setText(null)}
        placeholder="a name a line"
        spellCheck={false}
        className="mono w-full rounded-md border border-rule bg-sheet px-2 py-1 text-[12.5px] disabled:opacity-60"
      />
    </Question>
  );
}

/** Things of one kind, each with the same questions. */
function ListField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const value = useTable((table) => (table.draft ? (valueAt(table.draft, field.path) as object[]) : []));
  const put = (at: number, item: object | null) =>
    changeAt(
      field.path,
      item ? value.map((x, i) => (i === at ? item : x)) : value.filter((_, i) => i !== at),
    );
  return (
    <fieldset>
      <legend className="sr-only">{field.label}</legend>
      <div className="flex items-center gap-3">
        <span className="font-semibold">{field.label}</span>
        <Button
          small
          disabled={isLocked}
          onClick={() =>
            changeAt(field.path, [
              ...value,
              { pattern: 'name', title: 'a prop', height: 0.3, tolerance: 0.01 },
            ])
          }
        >
          <Plus size={13} /> Add one
        </Button>
      </div>
      {value.map((item, at) => (
        <div key={at} className="relative mt-1 border-l-2 border-rule pl-3">
          {field.fields.map((field) => (
            <SingleField
              key={field.path}
              field={field}
              value={valueAt(item, field.path)}
              isLocked={isLocked}
              onChange={(next) => put(at, { ...item, [field.path]: next })}
            />
          ))}
          <Button
            small
            kind="quiet"
            disabled={isLocked}
            className="absolute right-0 top-0"
            aria-label={`Remove ${String(valueAt(item, 'title'))}`}
            onClick={() => put(at, null)}
          >
            <X size={13} />
          </Button>
        </div>
      ))}
    </fieldset>
  );
}

function SingleField({
  field,
  value,
  isLocked,
  onChange,
  measured,
}: {
  field: FormField;
  value: unknown;
  isLocked: boolean;
  onChange: (next: unknown) => void;
  measured?: ReactNode;
}) {
  const isAsked = value !== null && value !== undefined;
  const id = useId();
  return (
    <Question id={id} label={field.label} hint={field.hint} beside={measured}>
      <div className="flex items-center gap-2">
        {field.isNullable && (
          <Asked
            label={field.label}
            isAsked={isAsked}
            isLocked={isLocked}
            onChange={(on) => onChange(on ? (valueAt(PLAIN_FIGURE, field.path) ?? beginWith(field)) : null)}
          />
        )}
        {(isAsked || !field.isNullable) && (
          <Input id={id} field={field} value={value} isLocked={isLocked} onChange={onChange} />
        )}
      </div>
    </Question>
  );
}

const beginWith = (field: FormField) => (field.kind === 'number' ? 0.01 : '^$');

interface InputProps {
  readonly id: string;
  readonly field: FormField;
  readonly value: unknown;
  readonly isLocked: boolean;
  readonly onChange: (next: unknown) => void;
}

function Input(props: InputProps) {
  const { id, field, value, isLocked, onChange } = props;
  if (field.kind === 'number') return <NumberInput {...props} />;
  const { choices } = field;
  if (Object.keys(choices).length === 0) return <TextInput {...props} />;
  return (
    <select
      id={id}
      value={String(value)}
      disabled={isLocked}
      onChange={(event) => onChange(event.target.value)}
      className={`${INPUT} px-1`}
    >
      {Object.entries(choices).map(([word, text]) => (
        <option key={word} value={word}>
          {text}
        </option>
      ))}
    </select>
  );
}

/** What is wrong with what was typed. */
const Wrong = ({ children }: { children: ReactNode }) => (
  <span role="alert" className="text-[12.5px] text-stops">
    {children}
  </span>
);

/** What somebody typed as the number that is stored; null where it is none. */
function readNumber(text: string, field: FormField, unit: LengthUnit): number | null {
  if (field.quantity === 'length') return lengthFrom(text, unit);
  const value = Number(text.replace(',', '.').replace(/[%°×]/g, ''));
  if (text.trim() === '' || !Number.isFinite(value)) return null;
  if (field.isWhole && !Number.isInteger(value)) return null;
  return value / perStored(field, unit);
}

/** A number with its unit; a length in any unit that there is. It is taken when one leaves it or presses Enter. */
function NumberInput({ id, field, value, isLocked, onChange }: InputProps) {
  const unit = useTable((table) => table.draft?.unit ?? 'm');
  const shown = typeof value === 'number' ? numberWords(field, value, unit) : '';
  const [text, setText] = useState(shown);
  const [isOff, setOff] = useState(false);
  useEffect(() => {
    setText(shown);
    setOff(false);
  }, [shown]);
  const take = () => {
    if (text === shown) return;
    const next = readNumber(text, field, unit);
    if (next === null || next < 0) return setOff(true);
    setOff(false);
    onChange(next);
  };
  return (
    <span className="flex flex-wrap items-center gap-1.5">
      <input
        id={id}
        value={text}
        disabled={isLocked}
        inputMode="decimal"
        aria-invalid={isOff}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => event.key === 'Enter' && take()}
        className={`mono w-28 text-right ${INPUT} ${isOff ? 'border-stops' : ''}`}
      />
      <span className="mono text-soft">{unitWords(field, unit).trim()}</span>
      {isOff && (
        <Wrong>
          {field.quantity === 'length' ? 'a length, as 1.76 m, 176 cm or 5 ft 9 in' : 'a number, 0 or more'}
        </Wrong>
      )}
    </span>
  );
}

/** Words or a pattern; a pattern is looked at as it is typed. */
function TextInput({ id, field, value, isLocked, onChange }: InputProps) {
  const text = String(value ?? '');
  const [why, setWhy] = useState<string | null>(null);
  const isPattern = field.quantity === 'pattern';
  useEffect(() => {
    if (!isPattern) return;
    let isOpen = true;
    void import('@/core/contracts/pattern').then(({ whyNot }) => isOpen && setWhy(whyNot(text)));
    return () => {
      isOpen = false;
    };
  }, [isPattern, text]);
  return (
    <span className="min-w-0 flex-1">
      <input
        id={id}
        value={text}
        disabled={isLocked}
        spellCheck={!isPattern}
        aria-invalid={why !== null}
        onChange={(event) => onChange(event.target.value)}
        className={`w-full ${isPattern ? 'mono' : ''} ${INPUT} ${why ? 'border-stops' : ''}`}
      />
      {why && <Wrong>This pattern {why}.</Wrong>}
    </span>
  );
}

/** What the character beside the brief measures for a setting. */
function Measured({ field }: { field: FormField }) {
  const value = useTable((table) => table.standing?.measured[field.path]);
  const unit = useTable((table) => table.draft?.unit ?? 'm');
  if (value === undefined || value === null) return null;
  const words = valueWords(field, value, unit);
  return (
    <span className="text-soft">
      measured{' '}
      <span className="mono text-ink [overflow-wrap:anywhere]" title={words}>
        {words.length > 44 ? `${words.slice(0, 20)}…${words.slice(-20)}` : words}
      </span>
    </span>
  );
}
