'use client';

import { useMemo, useState } from 'react';
import { bonesOf } from '@/core/character/hierarchy';
import type { RemedyCall } from '@/core/contracts/finding';
import { proposeNames } from '@/core/rooms/skeleton/propose-names';
import { nameTableText, readNameTable } from '@/core/rooms/skeleton/name-table';
import { planRenaming } from '@/core/rooms/skeleton/remedies/rename';
import { Button } from '../../kit/button';
import { applyRemedy } from '../../state/steps';
import { useDesk } from '../../state/store';

type Table = Readonly<Record<string, string>>;

/**
 * A table of old → new names, one pair a line; what will change and what clashes is told before anything is.
 */
export function RenameForm({ call }: { call: RemedyCall }) {
  const character = useDesk((state) => state.character);
  const busy = useDesk((state) => state.busy);
  const brief = useDesk((state) => state.brief);
  const finding = useDesk((state) => state.findings?.find((finding) => finding.key === state.chosen));
  const among = call.params.bones as readonly number[] | undefined;
  const concerned =
    among ?? finding?.elements.flatMap((element) => (element.kind === 'bone' ? [...element.ids] : [])) ?? [];
  const [text, setText] = useState(() => nameTableText((call.params.table ?? {}) as Table));
  const table = useMemo(() => readNameTable(text), [text]);
  const plan = useMemo(
    () => (character ? planRenaming(character, table, among) : null),
    [character, table, among],
  );
  const fill = () => {
    if (!character) return;
    const bones = concerned.length > 0 ? concerned : bonesOf(character);
    setText(nameTableText(proposeNames(character, bones, brief.naming)));
  };
  const cannot = !!busy || !plan || plan.renamings.length === 0 || plan.clashes.length > 0;
  return (
    <div className="mt-4 rounded-lg border border-rule bg-paper/50 px-3.5 py-3">
      <p className="font-semibold">Rename from a table</p>
      <p className="text-[13px] text-soft">
        One pair a line, old → new; commas and tabs do as well, so a sheet can be pasted. “*” stands for any
        letters, “#” counts: Bone.* → arm_#.
      </p>
      <textarea
        aria-label="Table of old and new names"
        value={text}
        onChange={(event) => setText(event.target.value)}
        rows={6}
        spellCheck={false}
        className="mono mt-2 w-full resize-y rounded-md border border-rule bg-sheet p-2"
        placeholder="old name → new name"
      />
      {plan && text.trim() !== '' && <Plan plan={plan} />}
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          kind="leaf"
          disabled={cannot}
          onClick={() =>
            void applyRemedy('rename', { table, ...(among && { bones: among }) }, 'Rename from a table')
          }
        >
          Rename {plan?.renamings.length || ''}
        </Button>
        <Button onClick={fill}>Propose names for {concerned.length || 'all'} bones</Button>
      </div>
    </div>
  );
}

function Plan({ plan }: { plan: ReturnType<typeof planRenaming> }) {
  const { renamings, unknown, clashes } = plan;
  return (
    <p className="text-[13px] [overflow-wrap:anywhere]" role="status">
      {renamings.length} {renamings.length === 1 ? 'name changes' : 'names change'}
      {unknown.length > 0 && <span className="text-worth"> · {unknown.length} not in this character</span>}
      {clashes.length > 0 && <span className="text-stops"> · clash: {clashes.join(', ')}</span>}
    </p>
  );
}
