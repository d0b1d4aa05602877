'use client';

import clsx from 'clsx';
import { GRAVITIES, GRAVITY_WORDS } from '@/core/contracts/finding';
import type { CheckRule } from '@/core/house/brief';
import type { CheckForm } from '@/core/house/brief-form';
import { Mark } from '../kit/gravity';
import { changeRule, useTable } from './draft';
import { FieldRow } from './fields';

/**
 * One check: whether it is asked, how much it matters, its settings, and how the character beside the brief
 * stands.
 */
export function CheckCard({ check, isLocked }: { check: CheckForm; isLocked: boolean }) {
  const rule = useTable((table) => table.draft?.checks?.[check.id] ?? '');
  const isOff = rule === 'off';
  return (
    <li className="border-b border-rule py-2.5" data-check={check.id}>
      <div className="flex items-baseline gap-3">
        <h4 className={clsx('min-w-0 flex-1 font-semibold', isOff && 'text-soft line-through')}>
          {check.title}
        </h4>
        <Stands id={check.id} />
        <select
          aria-label={`${check.title}: how much it matters`}
          value={rule}
          disabled={isLocked}
          onChange={(event) => changeRule(check.id, event.target.value as CheckRule | '')}
          className={clsx(
            'h-7 w-[150px] rounded-md border border-rule bg-sheet px-1 text-[12.5px] disabled:opacity-60',
            rule !== '' && 'font-semibold',
          )}
        >
          <option value="">as the check says</option>
          {GRAVITIES.map((gravity) => (
            <option key={gravity} value={gravity}>
              {GRAVITY_WORDS[gravity]}
            </option>
          ))}
          <option value="off">not asked</option>
        </select>
      </div>
      <p className="max-w-[70ch] text-[12.5px] text-soft">{check.why}</p>
      {!isOff && check.fields.length > 0 && (
        <div className="mt-1.5">
          {check.fields.map((field) => (
            <FieldRow key={field.path} field={field} isLocked={isLocked} />
          ))}
        </div>
      )}
      {!isOff && check.also.length > 0 && (
        <p className="mt-0.5 text-[12.5px] text-soft">It reads “{check.also.join('”, “')}” as well.</p>
      )}
    </li>
  );
}

/** Whether the character beside the brief would pass this check. */
function Stands({ id }: { id: string }) {
  const standing = useTable((table) => table.standing);
  const isOff = useTable((table) => table.draft?.checks?.[id] === 'off');
  if (!standing || isOff) return null;
  const found = standing.findings.filter((finding) => finding.check === id);
  const heavy = GRAVITIES.flatMap((gravity) => found.find((finding) => finding.gravity === gravity) ?? [])[0];
  if (!heavy) return <span className="shrink-0 text-[12.5px] text-fine">✓ passes</span>;
  return (
    <span
      className="flex max-w-[46%] items-baseline gap-1.5 text-[12.5px]"
      title={found.map((finding) => finding.message).join('\n')}
    >
      <span className="translate-y-[1px]">
        <Mark gravity={heavy.gravity} />
      </span>
      <span className="min-w-0 truncate">{heavy.message}</span>
      {found.length > 1 && <span className="shrink-0 text-soft">and {found.length - 1} more</span>}
    </span>
  );
}
