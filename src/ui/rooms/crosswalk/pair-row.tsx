'use client';

import clsx from 'clsx';
import { Lock } from 'lucide-react';
import type { CSSProperties } from 'react';
import { type Crosswalk, type Rule, type RuleKind, arrivalOf } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { MiddleCut } from '../../kit/middle-cut';
import type { RovingItem } from '../../kit/roving';

/** Below this a pair wants a look. */
export const SURE = 0.6;

const TONE: Record<RuleKind, string> = {
  carry: 'border-leaf/40 text-leaf',
  fold: 'border-worth/45 text-worth',
  keep: 'border-note/45 text-note',
  release: 'border-damson/40 text-damson',
};

const row = clsx(
  'mono grid grid-cols-[minmax(0,1fr)_64px_minmax(0,1fr)_58px] items-center gap-2',
  'border-b border-rule px-[18px] text-left',
);

const toneOf = (isChosen: boolean) =>
  isChosen ? 'bg-damson-wash shadow-[inset_3px_0_0_var(--damson)]' : 'hover:bg-wash';

/** Where a bone's weight arrives, in words. */
function arrivesText(rule: Rule, source: Skeleton, skeleton: Skeleton, crosswalk: Crosswalk): string {
  if (rule.kind === 'carry' || rule.kind === 'fold') return skeleton.bones[rule.target].name;
  const { name } = skeleton.bones[arrivalOf(source, skeleton, crosswalk, rule.source)];
  return rule.kind === 'release' ? `→ ${name}` : `under ${name}`;
}

/** One pair of the table. */
export function PairRow({
  rule,
  source,
  skeleton,
  crosswalk,
  isChosen,
  style,
  roving,
  onChoose,
}: {
  rule: Rule;
  source: Skeleton;
  skeleton: Skeleton;
  crosswalk: Crosswalk;
  isChosen: boolean;
  style: CSSProperties;
  roving: RovingItem;
  onChoose: () => void;
}) {
  const bone = source.bones[rule.source];
  const arrives = arrivesText(rule, source, skeleton, crosswalk);
  return (
    <button
      type="button"
      role="option"
      aria-selected={isChosen}
      aria-label={`${bone.name} ${rule.kind} ${arrives}, ${Math.round(rule.confidence * 100)} % sure${rule.locked ? ', locked' : ''}`}
      style={style}
      {...roving}
      onClick={onChoose}
      title={`${bone.name}: ${rule.kind}, ${arrives}. ${rule.reasons.join('; ')}`}
      className={clsx(row, toneOf(isChosen))}
    >
      <MiddleCut text={bone.name} className={bone.weight === 0 ? 'text-soft' : ''} />
      <span
        className={clsx(
          'rounded-full border bg-sheet text-center font-sans text-[11.5px] font-semibold leading-[18px]',
          TONE[rule.kind],
        )}
      >
        {rule.kind}
      </span>
      <MiddleCut text={arrives} className={rule.target < 0 ? 'text-soft' : ''} />
      <Confidence rule={rule} />
    </button>
  );
}

function Confidence({ rule }: { rule: Rule }) {
  return (
    <span className="flex items-center justify-end gap-1.5">
      {rule.locked && <Lock size={11} className="text-damson" aria-hidden />}
      <span className="h-[5px] w-9 overflow-hidden rounded-full bg-rule" aria-hidden>
        <span
          className={clsx('block h-full rounded-full', rule.confidence < SURE ? 'bg-worth' : 'bg-leaf')}
          style={{ width: `${rule.confidence * 100}%` }}
        />
      </span>
    </span>
  );
}

/** A bone of the target that nothing arrives on. */
export function WaitingRow({
  name,
  isChosen,
  style,
  roving,
  onChoose,
}: {
  name: string;
  isChosen: boolean;
  style: CSSProperties;
  roving: RovingItem;
  onChoose: () => void;
}) {
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
