'use client';

import clsx from 'clsx';
import { ChevronDown, ChevronRight, Lock } from 'lucide-react';
import type { CSSProperties, MouseEvent } from 'react';
import {
  type Rule,
  type RuleKind,
  arrivalOf,
  hasTarget,
  isByHand,
  surenessText,
} from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { shortNames } from '@/core/character/short-names';
import { type LengthUnit, inUnit, unitSign } from '@/core/contracts/units';
import { MiddleCut } from '../../kit/middle-cut';
import type { RovingItem } from '../../kit/roving';
import { type HeadRow, LOOK, type Pairing, type PairRow } from './rows';

const TONE: Record<RuleKind, string> = {
  carry: 'border-leaf/40 text-leaf',
  fold: 'border-worth/45 text-worth',
  share: 'border-leaf/40 bg-leaf-wash text-leaf',
  keep: 'border-note/45 text-note',
  release: 'border-damson/40 text-damson',
};

const row = clsx(
  'mono grid grid-cols-[minmax(0,1fr)_56px_minmax(0,1fr)_58px] items-center gap-1.5',
  'border-b border-rule pl-[18px] pr-3 text-left',
);

const toneOf = (isChosen: boolean) =>
  isChosen ? 'bg-damson-wash shadow-[inset_3px_0_0_var(--damson)]' : 'hover:bg-wash';

const shortened = new WeakMap<Skeleton, readonly string[]>();

/** The names of a skeleton's bones as lists show them: without what most of them share. */
function shortNamesOf(skeleton: Skeleton): readonly string[] {
  let known = shortened.get(skeleton);
  if (!known) {
    known = shortNames(skeleton.bones.map((bone) => bone.name));
    shortened.set(skeleton, known);
  }
  return known;
}

/** Where a bone's weight arrives, in words; `names` are those of the target's bones. */
function arrivesText(rule: Rule, { source, skeleton, crosswalk }: Pairing, names: readonly string[]): string {
  if (hasTarget(rule)) {
    return [rule.target, ...(rule.further ?? [])].map((bone) => names[bone]).join(', ');
  }
  const name = names[arrivalOf(source, skeleton, crosswalk, rule.source)];
  return rule.kind === 'release' ? `→ ${name}` : `under ${name}`;
}

/** What is shorter is nothing, metres: no file tells it. */
const NO_LENGTH = 5e-7;

/** A length in three figures. */
export const shortLength = (metres: number, unit: LengthUnit) =>
  `${Math.abs(metres) < NO_LENGTH ? 0 : Number(inUnit(metres, unit).toPrecision(3))} ${unitSign(unit)}`;

interface LineProps {
  readonly isChosen: boolean;
  readonly style: CSSProperties;
  readonly roving: RovingItem;
}

/** One pair of the table. */
export function PairLine({
  row: { rule, doubt },
  pairing,
  unit,
  isChosen,
  style,
  roving,
  onChoose,
}: LineProps & {
  row: PairRow;
  pairing: Pairing;
  unit: LengthUnit;
  onChoose: (event: MouseEvent) => void;
}) {
  const { source, skeleton, shown } = pairing;
  const bone = source.bones[rule.source];
  const whole = skeleton.bones.map((bone) => bone.name);
  const arrives = arrivesText(rule, pairing, whole);
  const off = doubt === 'off' ? shortLength(shown[rule.source]?.max ?? 0, unit) : null;
  const told = [surenessText(rule), ...(off ? [`${off} off`] : []), ...(rule.locked ? ['locked'] : [])].join(
    ', ',
  );
  return (
    <button
      type="button"
      role="option"
      aria-selected={isChosen}
      aria-label={`${bone.name} ${rule.kind} ${arrives}, ${told}`}
      style={style}
      {...roving}
      onClick={onChoose}
      title={`${bone.name}: ${rule.kind}, ${arrives}. ${rule.reasons.join('; ')}`}
      className={clsx(row, toneOf(isChosen))}
    >
      <MiddleCut text={shortNamesOf(source)[rule.source]} className={bone.weight === 0 ? 'text-soft' : ''} />
      <span
        className={clsx(
          'rounded-full border bg-sheet text-center font-sans text-[11.5px] font-semibold leading-[18px]',
          TONE[rule.kind],
        )}
      >
        {rule.kind}
      </span>
      <MiddleCut
        text={arrivesText(rule, pairing, shortNamesOf(skeleton))}
        className={rule.target < 0 ? 'text-soft' : ''}
      />
      <Sureness rule={rule} isOpen={doubt !== null} off={off} />
    </button>
  );
}

/** How sure a pair is; where the proof shows it to be off, by how much. */
function Sureness({ rule, isOpen, off }: { rule: Rule; isOpen: boolean; off: string | null }) {
  return (
    <span className="flex items-center justify-end gap-1.5 whitespace-nowrap">
      {rule.locked && <Lock size={11} className="shrink-0 text-damson" aria-hidden />}
      {off && <span className="text-[12px] text-stops">{off}</span>}
      {!off && isByHand(rule) && <span className="font-sans text-[11.5px] text-damson">by hand</span>}
      {!off && !isByHand(rule) && (
        <span className="h-[5px] w-9 overflow-hidden rounded-full bg-rule" aria-hidden>
          <span
            className={clsx('block h-full rounded-full', isOpen ? 'bg-worth' : 'bg-leaf')}
            style={{ width: `${rule.confidence * 100}%` }}
          />
        </span>
      )}
    </span>
  );
}

/** Left has a tick, right a dot, the middle a ring. */
const MARK = {
  '1': 'h-3 w-[3px] rounded-sm bg-[var(--left)]',
  '0': 'h-2 w-2 rounded-full border-[1.5px] border-ink',
  '-1': 'h-2 w-2 rounded-full bg-[var(--right)]',
} as const;

/** The head of a group: it chooses all of its pairs; its arrow opens and closes it. */
export function HeadLine({
  row: { id, title, side, bones, open, isClosed },
  isChosen,
  style,
  roving,
  onChoose,
  onTurn,
}: LineProps & { row: HeadRow; onChoose: () => void; onTurn: () => void }) {
  const Arrow = isClosed ? ChevronRight : ChevronDown;
  const done = id === LOOK ? `${bones.length - open} of ${bones.length} done` : null;
  const count = bones.length === 1 ? '1 pair' : `${bones.length} pairs`;
  const told = done ?? (open > 0 ? `${open} of ${count}` : count);
  return (
    <div style={style} className="flex items-stretch border-b border-rule bg-paper">
      <button
        type="button"
        tabIndex={-1}
        aria-hidden
        onClick={onTurn}
        title={isClosed ? 'Open this group (→)' : 'Close this group (←)'}
        className="grid w-[18px] shrink-0 place-items-center text-soft hover:text-ink"
      >
        <Arrow size={13} />
      </button>
      <button
        type="button"
        role="option"
        aria-selected={isChosen}
        aria-label={`${title}, ${told}${isClosed ? ', closed' : ''}`}
        {...roving}
        onClick={onChoose}
        onDoubleClick={onTurn}
        className={clsx(
          'flex min-w-0 flex-1 items-center gap-2 pr-3 text-left text-[12.5px] font-semibold',
          isChosen ? 'bg-damson-wash' : 'hover:bg-wash',
        )}
      >
        {id !== LOOK && (
          <span className="grid w-2 shrink-0 place-items-center" aria-hidden>
            <span className={MARK[side]} />
          </span>
        )}
        <span className={clsx('min-w-0 truncate', id === LOOK && open > 0 && 'text-worth')}>{title}</span>
        <span className="ml-auto shrink-0 font-normal text-soft">{told}</span>
      </button>
    </div>
  );
}

/** A bone of the target that nothing arrives on. */
export function WaitingRow({
  name,
  isChosen,
  style,
  roving,
  onChoose,
}: LineProps & { name: string; onChoose: () => void }) {
  return (
    <button
      type="button"
      role="option"
      aria-selected={isChosen}
      style={style}
      {...roving}
      onClick={onChoose}
      className={clsx(row, toneOf(isChosen))}
    >
      <span className="text-soft">no one</span>
      <span />
      <MiddleCut text={name} />
      <span />
    </button>
  );
}
