'use client';

/** One input for each kind of value, made from what the schema's metadata says of it. */
import clsx from 'clsx';
import { type KeyboardEvent, useEffect, useState } from 'react';
import { useFormContext, useFormState } from 'react-hook-form';
import { Chip } from '../button';
import { type Entry, useEntry, useFormTools } from './form';
import { type NumberKind, numberWords, readNumber, signOf, stepped } from './numbers';
import { sentenceOf } from './sentence';

/** What an input has to know of its value; fields of parameters and those of briefs both say it. */
export interface InputField extends NumberKind {
  readonly label: string;
  readonly kind: string;
  readonly choices: Readonly<Record<string, string>>;
  /** It may be null, and then this is said in place of a number. */
  readonly none?: string;
}

interface InputProps {
  readonly name: string;
  readonly field: InputField;
  readonly id?: string;
  /** Width and type of the box. */
  readonly className?: string;
  /** Digits that a number is shown to. */
  readonly digits?: number;
  readonly onTake?: (value: unknown) => void;
}

const BOX = 'min-w-0 rounded-md border bg-sheet px-2 text-ink disabled:opacity-60';

const boxOf = ({ isWrong }: Entry, className: string) =>
  clsx(BOX, isWrong ? 'border-stops' : 'border-rule', className);

/** The input of a value of any kind; nothing for a kind that is not typed. What is wrong stands in {@link FieldError}. */
export function FieldInput(props: InputProps) {
  const { kind, choices } = props.field;
  if (kind === 'number') return <NumberInput {...props} />;
  if (kind === 'flag') return <FlagInput {...props} />;
  if (kind === 'colour') return <ColourInput {...props} />;
  if (kind === 'choice' || (kind === 'text' && Object.keys(choices).length > 0))
    return <ListInput {...props} />;
  return kind === 'text' ? <TextInput {...props} /> : null;
}

/** A number with its unit; a length in any unit that there is. Arrows go on by its second digit. */
export function NumberInput({ name, field, id, className = 'h-7 w-28', digits, onTake }: InputProps) {
  const entry = useEntry(name, onTake);
  const { unit, isLocked } = useFormTools();
  const errorId = useErrorId(name);
  /** What is being typed; null while nothing is. */
  const [typed, setTyped] = useState<string | null>(null);
  const { value } = entry;
  const isNumber = typeof value === 'number' && Number.isFinite(value);
  const shown = isNumber ? numberWords(field, value, unit, digits) : '';
  const read = (text: string) => {
    if (text.trim() !== '') return readNumber(text, field, unit);
    return field.none === undefined ? undefined : null;
  };
  // What came from elsewhere counts before what is typed.
  const isElsewhere = typed !== null && isNumber && !Object.is(read(typed), value);
  useEffect(() => {
    if (isElsewhere) setTyped(null);
  }, [isElsewhere]);
  const done = () => {
    if (!entry.isWrong) setTyped(null);
  };
  const onKey = (event: KeyboardEvent) => {
    if (event.key === 'Enter') done();
    const steps = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!steps || !isNumber) return;
    event.preventDefault();
    setTyped(null);
    entry.enter(stepped(value, field, unit, event.shiftKey ? steps * 10 : steps));
  };
  const sign = signOf(field, unit);
  return (
    <span className="flex items-center gap-1.5">
      <input
        id={id}
        value={typed ?? shown}
        disabled={isLocked}
        inputMode="decimal"
        placeholder={field.none}
        aria-invalid={entry.isWrong}
        aria-describedby={entry.isWrong ? errorId : undefined}
        onChange={(event) => {
          setTyped(event.target.value);
          entry.enter(read(event.target.value));
        }}
        onBlur={done}
        onKeyDown={onKey}
        className={boxOf(entry, `mono text-right ${className}`)}
      />
      {sign && <span className="mono min-w-7 text-soft">{sign}</span>}
    </span>
  );
}

function TextInput({ name, field, id, className = 'mono h-7 flex-1', onTake }: InputProps) {
  const entry = useEntry(name, onTake);
  const { isLocked } = useFormTools();
  const errorId = useErrorId(name);
  return (
    <input
      id={id}
      value={typeof entry.value === 'string' ? entry.value : ''}
      disabled={isLocked}
      maxLength={1000}
      spellCheck={field.quantity !== 'pattern'}
      aria-invalid={entry.isWrong}
      aria-describedby={entry.isWrong ? errorId : undefined}
      onChange={(event) => entry.enter(event.target.value)}
      className={boxOf(entry, className)}
    />
  );
}

function ListInput({ name, field, id, className = 'h-7', onTake }: InputProps) {
  const entry = useEntry(name, onTake);
  const { isLocked } = useFormTools();
  return (
    <select
      id={id}
      value={String(entry.value)}
      disabled={isLocked}
      onChange={(event) => entry.enter(event.target.value)}
      className={boxOf(entry, `px-1 ${className}`)}
    >
      {Object.entries(field.choices).map(([choice, words]) => (
        <option key={choice} value={choice}>
          {words}
        </option>
      ))}
    </select>
  );
}

/** A few choices side by side. */
export function ChipsInput({ name, field, onTake }: InputProps) {
  const entry = useEntry(name, onTake);
  const { isLocked } = useFormTools();
  return (
    <span className="flex flex-wrap gap-1">
      {Object.entries(field.choices).map(([choice, words]) => (
        <Chip
          key={choice}
          on={entry.value === choice}
          disabled={isLocked}
          onClick={() => entry.enter(choice)}
        >
          {words}
        </Chip>
      ))}
    </span>
  );
}

function FlagInput({ name, id, onTake }: InputProps) {
  const entry = useEntry(name, onTake);
  const { isLocked } = useFormTools();
  return (
    <input
      id={id}
      type="checkbox"
      checked={entry.value === true}
      disabled={isLocked}
      onChange={(event) => entry.enter(event.target.checked)}
    />
  );
}

function ColourInput({ name, id, className = 'h-7 w-14 px-1', onTake }: InputProps) {
  const entry = useEntry(name, onTake);
  const { isLocked } = useFormTools();
  return (
    <input
      id={id}
      type="color"
      value={typeof entry.value === 'string' ? entry.value : '#888888'}
      disabled={isLocked}
      onChange={(event) => entry.enter(event.target.value)}
      className={boxOf(entry, className)}
    />
  );
}

const useErrorId = (name: string): string => `${useFormTools().id}-${name.replaceAll('.', '-')}`;

/** What is wrong with what a field holds, in a sentence; nothing where nothing is. */
export function FieldError({ name, field }: Pick<InputProps, 'name' | 'field'>) {
  const { getFieldState } = useFormContext();
  const { error } = getFieldState(name, useFormState({ name }));
  const { unit } = useFormTools();
  const errorId = useErrorId(name);
  if (!error) return null;
  return (
    <span id={errorId} role="alert" className="block text-[12.5px] text-stops">
      {sentenceOf(field, error, unit)}
    </span>
  );
}
