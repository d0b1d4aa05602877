'use client';

import type { LengthUnit } from '@/core/contracts/units';
import { GRAVITY_WORDS } from '@/core/contracts/finding';
import type { Brief, CheckRule } from '@/core/house/brief';
import { type BriefChange, briefChanges } from '@/core/house/brief-changes';
import { Button } from '../kit/button';
import { Tally } from '../kit/gravity';
import { askTrial, useTable } from './draft';
import { valueWords } from './words';

/** What is changed in the draft, and who would stand differently. */
export function DraftChanges() {
  const saved = useTable((table) => table.saved);
  const draft = useTable((table) => table.draft);
  const trial = useTable((table) => table.trial);
  const isBusy = useTable((table) => table.isBusy);
  if (!saved || !draft || saved === draft) return null;
  const changes = briefChanges(saved, draft);
  if (changes.length === 0)
    return <p className="text-[12.5px] text-soft">Nothing is other than it was saved.</p>;
  return (
    <section
      aria-label="What is changed"
      className="mt-2 rounded-lg border border-damson/40 bg-damson-wash px-3 py-2"
    >
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <ChangeList changes={changes} unit={draft.unit} />
        </div>
        <Button small disabled={isBusy} onClick={() => void askTrial()}>
          Who would stand differently?
        </Button>
      </div>
      {trial && trial.length > 0 && (
        <table className="mt-2 w-full text-[12.5px]" aria-label="How they would stand">
          <thead>
            <tr className="text-left text-soft">
              <th className="font-normal">held against it</th>
              <th className="font-normal">now</th>
              <th className="font-normal">under these changes</th>
            </tr>
          </thead>
          <tbody>
            {trial.map((row) => (
              <tr key={row.id} className="border-t border-rule/70">
                <td className="py-1 pr-2 font-semibold">{row.name}</td>
                <td className="pr-2">
                  <Tally counts={row.now} />
                </td>
                <td>
                  <Tally counts={row.then} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {trial?.length === 0 && (
        <p className="mt-1 text-[12.5px] text-soft">No character is held against this brief.</p>
      )}
    </section>
  );
}

function ChangeList({ changes, unit }: { changes: readonly BriefChange[]; unit: LengthUnit }) {
  return (
    <ul className="space-y-0.5 text-[12.5px]">
      {changes.map(({ path, label, field, before, after }) => (
        <li key={path} className="[overflow-wrap:anywhere]">
          {label}: <span className="mono text-soft">{wordsOf(path, field, before, unit)}</span> →{' '}
          <span className="mono">{wordsOf(path, field, after, unit)}</span>
        </li>
      ))}
    </ul>
  );
}

const wordsOf = (path: string, field: BriefChange['field'], value: unknown, unit: LengthUnit) =>
  path.startsWith('checks.') ? ruleWords(value as CheckRule | undefined) : valueWords(field, value, unit);

/** What becomes of a check, in words. */
function ruleWords(rule: CheckRule | undefined): string {
  if (rule === undefined) return 'as the check says';
  return rule === 'off' ? 'not asked' : GRAVITY_WORDS[rule];
}

/** All versions that were saved, each with what it changed. */
export function Versions() {
  const versions = useTable((table) => table.versions);
  if (versions.length < 2) return null;
  return (
    <section className="mt-6" aria-label="Versions">
      <h3 className="title text-[19px]">Versions</h3>
      <ol className="mt-1">
        {versions.map(({ brief, at }, i) => (
          <li key={brief.version} className="border-b border-rule py-1.5">
            <span className="font-semibold">{brief.version}</span>{' '}
            <time dateTime={at} className="text-[12.5px] text-soft">
              {at.slice(0, 10)}
            </time>
            <Changed before={versions[i + 1]?.brief} after={brief} />
          </li>
        ))}
      </ol>
    </section>
  );
}

function Changed({ before, after }: { before: Brief | undefined; after: Brief }) {
  if (!before) return <span className="text-[12.5px] text-soft"> · as it began</span>;
  return <ChangeList changes={briefChanges(before, after)} unit={after.unit} />;
}
