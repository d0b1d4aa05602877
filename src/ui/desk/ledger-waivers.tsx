'use client';

import type { CharacterRecord } from '@/routes/characters';
import type { WaiverRecord } from '@/routes/waivers';
import { Button } from '../kit/button';
import { ago } from '../kit/format';
import { untilWords } from '../parts/waive';
import { keptName, waive, withdraw } from '../state/waivers';

/** Everything that was ever waived on a character and withdrawn again, the newest first. */
export function LedgerWaivers({ record }: { record: CharacterRecord }) {
  const { waivers } = record;
  if (waivers.length === 0) return null;
  const stands = waivers.filter((waiver) => !waiver.withdrawn).length;
  return (
    <details className="px-4 pb-2 text-[13px]">
      <summary className="cursor-pointer font-semibold">
        {waivers.length} {waivers.length === 1 ? 'waiver' : 'waivers'}
        {stands < waivers.length && `, ${waivers.length - stands} withdrawn`}
      </summary>
      <ul className="scroll mt-1 max-h-[150px] overflow-y-auto">
        {waivers.toReversed().map((waiver) => (
          <Row key={waiver.id} record={waiver} />
        ))}
      </ul>
    </details>
  );
}

function Row({ record: { id, waiver, findings, revision, at, withdrawn } }: { record: WaiverRecord }) {
  const { by, reason, keys } = waiver;
  const until = untilWords(waiver);
  return (
    <li className="flex items-baseline gap-3 border-t border-rule py-1.5">
      <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
        <span
          className={withdrawn ? 'line-through' : ''}
          title={findings.map((finding) => finding.message).join('\n')}
        >
          {findings[0]?.message}
          {keys.length > 1 && `; and ${keys.length - 1} more`}
        </span>{' '}
        <span className="text-soft">
          on revision {revision}, {by}: {reason}
          {until && `, ${until}`} · {ago(at)}
          {withdrawn && ` · withdrawn by ${withdrawn.by}, ${ago(withdrawn.at)}`}
        </span>
      </span>
      {withdrawn ? (
        <Button small onClick={() => void waive(keys, { ...waiver, by: keptName() || by })}>
          Take up again
        </Button>
      ) : (
        <Button small onClick={() => void withdraw(id, keptName() || by)}>
          Withdraw
        </Button>
      )}
    </li>
  );
}
