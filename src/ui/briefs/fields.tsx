'use client';

import { type ReactNode, useEffect, useId, useState } from 'react';
import { Plus, X } from 'lucide-react';
import { type FormField, valueAt } from '@/core/house/brief-form';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { Button } from '../kit/button';
import { FieldError, FieldInput } from '../kit/form/inputs';
import { changeAt, useTable } from './draft';
import { NamingPartsField } from './naming-parts';
import { Question } from './question';
import { SkeletonField } from './skeleton-field';
import { UnitField } from './unit-field';
import { valueWords } from './words';

/** One question of the form: its value, what it does, and what the character beside it measures. */
export function FieldRow({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const value = useTable((table) => (table.draft ? valueAt(table.draft, field.path) : undefined));
  if (field.kind === 'list' && field.isTable) return <TableField field={field} isLocked={isLocked} />;
  if (field.kind === 'list') return <ListField field={field} isLocked={isLocked} />;
  if (field.kind === 'names') return <NamesField field={field} isLocked={isLocked} />;
  if (field.path === 'skeleton') return <SkeletonField field={field} isLocked={isLocked} />;
  if (field.path === 'unit') return <UnitField field={field} isLocked={isLocked} />;
  if (field.kind === 'group') return <GroupField field={field} isLocked={isLocked} />;
  return (
    <SingleField
      name={field.path}
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

/** The items of a list, and what puts one in a place, one more behind the last, or takes one out (null). */
function useItems(path: string): [object[], (at: number, item: object | null) => void] {
  const value = useTable((table) => (table.draft ? (valueAt(table.draft, path) as object[]) : []));
  const put = (at: number, item: object | null) => {
    const others = value.filter((_, i) => i !== at);
    changeAt(path, item ? [...value.slice(0, at), item, ...value.slice(at + 1)] : others);
  };
  return [value, put];
}

/** Short things of one kind: a row each. */
function TableField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const { path } = field;
  const [value, put] = useItems(path);
  const last = value.at(-1);
  return (
    <fieldset className="py-1">
      <legend className="sr-only">{field.label}</legend>
      <div className="flex items-center gap-3">
        <span className="font-semibold">{field.label}</span>
        <Button small disabled={isLocked} onClick={() => put(value.length, last ?? field.fresh ?? {})}>
          <Plus size={13} /> Add a row
        </Button>
      </div>
      {field.hint && <p className="mt-0.5 text-[12.5px] leading-snug text-soft">{field.hint}</p>}
      {value.length > 0 && (
        <table className="mt-1 text-[12.5px]">
          <thead>
            <tr className="text-left text-soft">
              {field.fields.map(({ path: name, label }) => (
                <th key={name} scope="col" className="pr-2 font-normal">
                  {label}
                </th>
              ))}
              <td aria-hidden="true" />
            </tr>
          </thead>
          <tbody>
            {value.map((item, at) => (
              <tr key={at}>
                {field.fields.map((cell) => {
                  const take = (next: unknown) => put(at, { ...item, [cell.path]: next });
                  const name = `${path}.${at}.${cell.path}`;
                  return (
                    <td key={cell.path} className="py-0.5 pr-2 align-top">
                      <label className="sr-only" htmlFor={`${name}-cell`}>
                        {cell.label}, row {at + 1} of {field.label}
                      </label>
                      <FieldInput
                        id={`${name}-cell`}
                        name={name}
                        field={cell}
                        className={cell.kind === 'number' ? 'h-7 w-20' : 'h-7 max-w-[150px]'}
                        onTake={take}
                      />
                      <FieldError name={name} field={cell} />
                    </td>
                  );
                })}
                <td>
                  <Button
                    small
                    kind="quiet"
                    disabled={isLocked}
                    aria-label={`Remove row ${at + 1} of ${field.label}`}
                    onClick={() => put(at, null)}
                  >
                    <X size={13} />
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </fieldset>
  );
}

/** Things of one kind, each with the same questions. */
function ListField({ field, isLocked }: { field: FormField; isLocked: boolean }) {
  const { path } = field;
  const [value, put] = useItems(path);
  return (
    <fieldset>
      <legend className="sr-only">{field.label}</legend>
      <div className="flex items-center gap-3">
        <span className="font-semibold">{field.label}</span>
        <Button small disabled={isLocked} onClick={() => put(value.length, field.fresh ?? {})}>
          <Plus size={13} /> Add one
        </Button>
      </div>
      {value.map((item, at) => (
        <div key={at} className="relative mt-1 border-l-2 border-rule pl-3">
          {field.fields.map((field) => (
            <SingleField
              key={field.path}
              name={`${path}.${at}.${field.path}`}
              field={field}
              value={valueAt(item, field.path)}
              isLocked={isLocked}
              onChange={(next) => put(at, { ...item, [field.path]: next })}
              onTake={(next) => put(at, { ...item, [field.path]: next })}
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
  name,
  field,
  value,
  isLocked,
  onChange,
  onTake,
  measured,
}: {
  /** Where its value stands in the brief, names joined by dots. */
  name: string;
  field: FormField;
  value: unknown;
  isLocked: boolean;
  onChange: (next: unknown) => void;
  /** Called in place of the form's own. */
  onTake?: (next: unknown) => void;
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
          <FieldInput id={id} name={name} field={field} className={boxOf(field)} onTake={onTake} />
        )}
      </div>
      {(isAsked || !field.isNullable) && <FieldError name={name} field={field} />}
      {isAsked && field.quantity === 'pattern' && <PatternProblem text={String(value)} />}
    </Question>
  );
}

const beginWith = (field: FormField) => (field.kind === 'number' ? 0.01 : '^$');

function boxOf({ kind, quantity }: FormField): string {
  if (kind === 'number') return 'h-7 w-28';
  if (kind === 'choice') return 'h-7';
  return quantity === 'pattern' ? 'mono h-7 w-full' : 'h-7 w-full';
}

/** Why a pattern is none, as it is typed; nothing where it is one. */
function PatternProblem({ text }: { text: string }) {
  const [why, setWhy] = useState<string | null>(null);
  useEffect(() => {
    let isOpen = true;
    void import('@/core/contracts/pattern').then(({ whyNot }) => isOpen && setWhy(whyNot(text)));
    return () => {
      isOpen = false;
    };
  }, [text]);
  return (
    why && (
      <span role="alert" className="text-[12.5px] text-stops">
        This pattern {why}.
      </span>
    )
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
