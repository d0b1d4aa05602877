'use client';

import { Lock, LockOpen } from 'lucide-react';
import { type Crosswalk, RULE_KINDS, type Rule, type RuleKind, arrivalOf } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { twinOf } from '@/core/anatomy/twins';
import { Button, Chip } from '../../kit/button';
import { changeRule, setTwinAlike, toggleLock } from './walk';

const RULE_HINT: Record<RuleKind, string> = {
  carry: 'one bone to one bone',
  fold: 'joins others on one bone; their weights add up',
  keep: 'no counterpart: the bone comes along',
  release: 'the bone goes; its weight goes to the bone above',
};

/** The chosen pair, to be changed by hand. */
export function ChosenPair({
  rule,
  source,
  skeleton,
  crosswalk,
  waiting,
}: {
  rule: Rule;
  source: Skeleton;
  skeleton: Skeleton;
  crosswalk: Crosswalk;
  waiting: readonly number[];
}) {
  const { name } = source.bones[rule.source];
  const targetFor = () =>
    rule.target >= 0 ? rule.target : arrivalOf(source, skeleton, crosswalk, rule.source);
  return (
    <div className="border-t border-rule px-3.5 py-2.5" role="group" aria-label="The chosen pair">
      <div className="flex items-center gap-2">
        <span className="mono min-w-0 flex-1 font-semibold [overflow-wrap:anywhere]">{name}</span>
        <button
          type="button"
          aria-pressed={rule.locked}
          onClick={() => toggleLock(rule.source)}
          className="flex items-center gap-1 text-[12.5px] text-soft hover:text-ink"
        >
          {rule.locked ? <Lock size={13} /> : <LockOpen size={13} />}
          {rule.locked ? 'locked' : 'lock'}
        </button>
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5" role="group" aria-label="Its rule">
        {RULE_KINDS.map((kind) => (
          <Chip
            key={kind}
            on={rule.kind === kind}
            title={RULE_HINT[kind]}
            onClick={() => changeRule(rule.source, kind, targetFor())}
          >
            {kind}
          </Chip>
        ))}
        {(rule.kind === 'carry' || rule.kind === 'fold') && (
          <Counterpart rule={rule} skeleton={skeleton} waiting={waiting} />
        )}
      </div>
      <OtherReadings rule={rule} source={source} skeleton={skeleton} />
      <p className="mt-1.5 text-[12.5px] text-soft">
        {RULE_HINT[rule.kind]} · {Math.round(rule.confidence * 100)} % sure: {rule.reasons.join('; ')}
      </p>
    </div>
  );
}

/** What else may be meant, and the same for the other side. */
function OtherReadings({ rule, source, skeleton }: { rule: Rule; source: Skeleton; skeleton: Skeleton }) {
  const { other } = rule;
  const twin = twinOf(source, rule.source);
  if (other === undefined && twin < 0) return null;
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
      {other !== undefined && (
        <Button small onClick={() => changeRule(rule.source, 'carry', other)}>
          Or {skeleton.bones[other].name}
        </Button>
      )}
      {twin >= 0 && (
        <Button small kind="quiet" onClick={() => setTwinAlike(rule)}>
          Set {source.bones[twin].name} alike
        </Button>
      )}
    </div>
  );
}

function Counterpart({
  rule,
  skeleton,
  waiting,
}: {
  rule: Rule;
  skeleton: Skeleton;
  waiting: readonly number[];
}) {
  const isWaiting = new Set(waiting);
  return (
    <select
      aria-label="Its counterpart"
      value={rule.target}
      onChange={(e) => changeRule(rule.source, rule.kind, Number(e.target.value))}
      className="mono h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-1"
    >
      {skeleton.bones.map((b, t) => (
        <option key={b.name + t} value={t}>
          {b.name}
          {isWaiting.has(t) ? ' · waiting' : ''}
        </option>
      ))}
    </select>
  );
}
