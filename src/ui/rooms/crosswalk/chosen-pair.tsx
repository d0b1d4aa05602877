'use client';

import { Lock, LockOpen } from 'lucide-react';
import {
  RULE_KINDS,
  type Rule,
  type RuleKind,
  arrivalOf,
  beside,
  hasTarget,
  isByHand,
  surenessText,
  targetsOf,
} from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { fineUnit } from '@/core/contracts/units';
import { whyOff } from '@/core/rooms/crosswalk/why';
import { Button, Chip } from '../../kit/button';
import { useDesk } from '../../state/store';
import { acceptPicked, changeFurther, changeRule, setTwinsAlike, takeOther, toggleLocks } from './changes';
import { shortLength } from './pair-row';
import { type Pairing, doubtAt } from './rows';
import { showPose } from './shown-pose';
import { useCrosswalkSession } from './session';

export const RULE_HINT: Record<RuleKind, string> = {
  carry: 'one bone to one bone',
  fold: 'joins others on one bone; their weights add up',
  share: 'one bone over several of a chain, each point by where it lies',
  keep: 'no counterpart: the bone comes along',
  release: 'the bone goes; its weight goes to the bone above',
};

export const PANEL = 'shrink-0 border-t border-rule px-3.5 py-2.5';

/** The chosen pair, to be changed by hand. */
export function ChosenPair({
  rule,
  pairing,
  waiting,
}: {
  rule: Rule;
  pairing: Pairing;
  waiting: readonly number[];
}) {
  const { source, skeleton, crosswalk } = pairing;
  const targetFor = () =>
    rule.target >= 0 ? rule.target : arrivalOf(source, skeleton, crosswalk, rule.source);
  return (
    <div className={PANEL} role="group" aria-label="The chosen pair">
      <div className="flex items-center gap-2">
        <span className="mono min-w-0 flex-1 font-semibold [overflow-wrap:anywhere]">
          {source.bones[rule.source].name}
        </span>
        <LockButton isLocked={rule.locked} />
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
        {hasTarget(rule) && (
          <BoneChoice
            label="Its counterpart"
            skeleton={skeleton}
            value={rule.target}
            note={(id) => (waiting.includes(id) ? ' · waiting' : '')}
            onChoose={(target) => changeRule(rule.source, rule.kind, target)}
          />
        )}
      </div>
      <Further rule={rule} pairing={pairing} />
      <OtherReadings rule={rule} source={source} skeleton={skeleton} />
      <WhatTheProofShows rule={rule} pairing={pairing} />
      <p className="mt-1.5 text-[12.5px] text-soft">
        {RULE_HINT[rule.kind]} · {surenessText(rule)}
        {isByHand(rule) ? '' : `: ${rule.reasons.join('; ')}`}
      </p>
    </div>
  );
}

export function LockButton({ isLocked }: { isLocked: boolean }) {
  return (
    <button
      type="button"
      aria-pressed={isLocked}
      onClick={toggleLocks}
      title="Suggesting again leaves locked pairs alone (X)"
      className="flex items-center gap-1 text-[12.5px] text-soft hover:text-ink"
    >
      {isLocked ? <Lock size={13} /> : <LockOpen size={13} />}
      {isLocked ? 'locked' : 'lock'}
    </button>
  );
}

/** The bones that a shared one goes on over, each to be taken in or left out. */
function Further({ rule, pairing: { skeleton } }: { rule: Rule; pairing: Pairing }) {
  if (rule.kind !== 'share') return null;
  const { source, further = [] } = rule;
  const open = [...further, ...beside(skeleton, targetsOf(rule))];
  return (
    <div
      className="mt-1.5 flex flex-wrap items-center gap-1.5"
      role="group"
      aria-label="It is shared over as well"
    >
      <span className="text-[12.5px] text-soft">and over</span>
      {open
        .sort((a, b) => a - b)
        .map((bone) => (
          <Chip
            key={bone}
            on={further.includes(bone)}
            title="Press to take it in or leave it out; what is in one piece with the rest only by it is left out as well"
            onClick={() =>
              changeFurther(
                source,
                further.includes(bone) ? further.filter((x) => x !== bone) : [...further, bone],
              )
            }
          >
            {skeleton.bones[bone].name}
          </Chip>
        ))}
    </div>
  );
}

/** What else may be meant, and the same for the other side. */
function OtherReadings({ rule, source, skeleton }: { rule: Rule; source: Skeleton; skeleton: Skeleton }) {
  const { other } = rule;
  const twin = useCrosswalkSession((session) => session.twins[rule.source] ?? -1);
  if (other === undefined && twin < 0) return null;
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
      {other !== undefined && (
        <Button small onClick={takeOther} title="The other reading (H)">
          Or {skeleton.bones[other].name}
        </Button>
      )}
      {twin >= 0 && (
        <Button small kind="quiet" onClick={setTwinsAlike} title="The other side the same (R)">
          Set {source.bones[twin].name} alike
        </Button>
      )}
    </div>
  );
}

/** The pose that shows a pair to be off, and by how much. */
function WhatTheProofShows({ rule, pairing }: { rule: Rule; pairing: Pairing }) {
  const unit = useDesk((state) => fineUnit(state.brief.unit));
  const pose = useCrosswalkSession((session) => session.pose);
  const poses = useCrosswalkSession((session) => session.trial?.proof.poses);
  const shown = pairing.shown[rule.source];
  const doubt = doubtAt(pairing, rule.source);
  if (!shown || !poses?.[shown.pose] || shown.max <= pairing.allowed) return doubt ? <FineButton /> : null;
  const isShown = pose === shown.pose;
  const why = whyOff(pairing.source, pairing.skeleton, pairing.crosswalk, rule.source);
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-x-2 gap-y-1 text-[12.5px]">
      <span className={doubt === 'off' ? 'text-stops' : 'text-soft'}>
        {shortLength(shown.max, unit)} off in “{poseName(poses[shown.pose].label)}”, allowed{' '}
        {shortLength(pairing.allowed, unit)}
      </span>
      <Button small aria-pressed={isShown} onClick={() => void showPose(shown.pose)}>
        {isShown ? 'Back to rest' : 'Show that pose'}
      </Button>
      {doubt && <FineButton />}
      {why && <p className="w-full text-soft">{why}</p>}
    </div>
  );
}

/** The first of the bones that a pose turns, and that there are others. */
const poseName = (label: string) => {
  const names = label.split(', ');
  return names.length > 1 ? `${names[0]} and ${names.length - 1} more` : label;
};

export function FineButton() {
  return (
    <Button small kind="quiet" onClick={acceptPicked} title="It has been looked at and is fine (F)">
      Fine as it is
    </Button>
  );
}

/** A bone of a skeleton, by its name. */
export function BoneChoice({
  label,
  skeleton,
  value,
  note = () => '',
  onChoose,
}: {
  label: string;
  skeleton: Skeleton;
  value: number;
  note?: (bone: number) => string;
  onChoose: (bone: number) => void;
}) {
  return (
    <select
      aria-label={label}
      value={value}
      onChange={(event) => onChoose(Number(event.target.value))}
      className="mono h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-1"
    >
      {value < 0 && <option value={-1}>choose …</option>}
      {skeleton.bones.map((bone, i) => (
        <option key={bone.name + i} value={i}>
          {bone.name}
          {note(i)}
        </option>
      ))}
    </select>
  );
}
