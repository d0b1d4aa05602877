'use client';

import { useMemo, useState } from 'react';
import { bonesOf } from '@/core/character/hierarchy';
import { type RemedyCall } from '@/core/contracts/finding';
import { planRenaming } from '@/core/rooms/skeleton/remedies/rename';
import { Button } from '../kit/button';
import { applyRemedy, useDesk } from './store';

/** A table of old → new names, one pair a line; what will change and what clashes is told before anything is. */
export function RenameForm({ call }: { call: RemedyCall }) {
  const { character, busy, findings, chosen } = useDesk();
  const concerned = useMemo(() => {
    const f = findings?.find((x) => x.key === chosen);
    return f?.elements.flatMap((e) => (e.kind === 'bone' ? [...e.ids] : [])) ?? [];
  }, [findings, chosen]);
  const start = useMemo(() => {
    const given = (call.params.table ?? {}) as Record<string, string>;
    if (Object.keys(given).length > 0)
      return Object.entries(given)
        .map(([a, b]) => `${a} → ${b}`)
        .join('\n');
    return '';
  }, [call]);
  const [text, setText] = useState(start);
  const table = useMemo(
    () =>
      Object.fromEntries(
        text
          .split('\n')
          .map((l) => l.split(/\s*(?:→|->|,|;|\t)\s*/).map((x) => x.trim()))
          .filter((p) => p.length === 2 && p[0] && p[1]),
      ),
    [text],
  );
  const plan = character ? planRenaming(character, table) : null;
  const fill = () => {
    if (!character) return;
    const names = (concerned.length > 0 ? concerned : bonesOf(character)).map((b) => character.nodes[b].name);
    setText(names.map((n) => `${n} → ${suggestName(n)}`).join('\n'));
  };
  return (
    <div className="mt-4 rounded-lg border border-rule bg-paper/50 px-3.5 py-3">
      <p className="font-semibold">Rename from a table</p>
      <p className="text-[13px] text-soft">
        One pair a line, old → new; commas and tabs do as well, so a sheet can be pasted.
      </p>
      <textarea
        aria-label="Table of old and new names"
        value={text}
        onChange={(e) => setText(e.target.value)}
        rows={6}
        spellCheck={false}
        className="mono mt-2 w-full resize-y rounded-md border border-rule bg-sheet p-2"
        placeholder={'old name → new name'}
      />
      {plan && text.trim() !== '' && (
        <p className="text-[13px]" role="status">
          {plan.renamings.length} {plan.renamings.length === 1 ? 'name changes' : 'names change'}
          {plan.unknown.length > 0 && (
            <span className="text-worth"> · {plan.unknown.length} not in this character</span>
          )}
          {plan.clashes.length > 0 && <span className="text-stops"> · clash: {plan.clashes.join(', ')}</span>}
        </p>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          kind="leaf"
          disabled={!!busy || !plan || plan.renamings.length === 0 || plan.clashes.length > 0}
          onClick={() => void applyRemedy('rename', { table }, 'Rename from a table')}
        >
          Rename {plan?.renamings.length || ''}
        </Button>
        <Button onClick={fill}>Fill in the {concerned.length || ''} names concerned</Button>
      </div>
    </div>
  );
}

/** A name brought near the house's convention: small letters, parts joined by _, the side last. */
function suggestName(name: string): string {
  const parts = name
    .replace(/([a-z])([A-Z])/g, '$1_$2')
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter((p) => p && !/^(copy|mirror(ed)?|duplicate|\d{3})$/.test(p));
  const side = parts.findIndex((p) => ['l', 'left', 'lt', 'r', 'right', 'rt'].includes(p));
  const word = side >= 0 ? (parts[side].startsWith('l') ? 'lt' : 'rt') : null;
  return [...parts.filter((_, i) => i !== side), ...(word ? [word] : [])].join('_');
}
