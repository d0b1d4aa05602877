'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import { useMemo, useRef, useState } from 'react';
import { X } from 'lucide-react';
import { bonesOf, parentBone, weightOfNodes } from '@/core/character/hierarchy';
import { readName } from '@/core/anatomy/names';
import { figure } from '../kit/format';
import { Ledger } from './ledger';
import { chooseBone, useDesk } from './store';

/** The drawer below the stage: the ledger of revisions, or the table of bones. */
export function Drawer() {
  const { drawer } = useDesk();
  const tab = (d: 'ledger' | 'bones', word: string) => (
    <button
      type="button"
      aria-expanded={drawer === d}
      onClick={() => useDesk.setState({ drawer: drawer === d ? null : d })}
      className={clsx(
        'h-8 px-3 text-[13px] font-semibold',
        drawer === d ? 'text-damson' : 'text-soft hover:text-ink',
      )}
    >
      {word}
    </button>
  );
  return (
    <section aria-label="Ledger and tables" className="shrink-0 border-t border-rule bg-sheet">
      <div className="flex items-center px-2">
        {tab('ledger', 'Ledger')}
        {tab('bones', 'Bones')}
        <span className="flex-1" />
        {drawer && (
          <button
            type="button"
            aria-label="Close the drawer"
            onClick={() => useDesk.setState({ drawer: null })}
            className="grid h-7 w-7 place-items-center text-soft hover:text-ink"
          >
            <X size={15} />
          </button>
        )}
      </div>
      {drawer === 'ledger' && <Ledger />}
      {drawer === 'bones' && <Bones />}
    </section>
  );
}

function Bones() {
  const { character, bone } = useDesk();
  const [find, setFind] = useState('');
  const [by, setBy] = useState<'tree' | 'name' | 'weight'>('tree');
  const box = useRef<HTMLDivElement>(null);
  const rows = useMemo(() => {
    if (!character) return [];
    const weight = weightOfNodes(character);
    const list = bonesOf(character)
      .map((b) => {
        const p = parentBone(character.nodes, b);
        return {
          b,
          name: character.nodes[b].name,
          parent: p < 0 ? '' : character.nodes[p].name,
          weight: weight[b],
          side: readName(character.nodes[b].name).side,
        };
      })
      .filter((r) => r.name.toLowerCase().includes(find.toLowerCase()));
    if (by === 'name') return list.sort((a, b) => a.name.localeCompare(b.name));
    if (by === 'weight') return list.sort((a, b) => b.weight - a.weight);
    return list;
  }, [character, find, by]);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => 26,
    overscan: 10,
  });
  const head = (k: typeof by, word: string, right = false) => (
    <button
      type="button"
      aria-pressed={by === k}
      onClick={() => setBy(k)}
      className={clsx(
        'text-left text-[12.5px]',
        right && 'text-right',
        by === k ? 'font-semibold text-ink' : 'text-soft',
      )}
    >
      {word}
    </button>
  );
  return (
    <div className="px-4 pb-2">
      <div className="grid grid-cols-[1fr_1fr_70px_90px] items-center gap-3 border-b border-rule pb-1">
        <span className="flex items-center gap-3">
          {head('name', 'Bone')}
          <input
            value={find}
            onChange={(e) => setFind(e.target.value)}
            placeholder="find …"
            aria-label="Find a bone"
            className="h-6 w-32 rounded border border-rule bg-paper px-2 text-[12.5px]"
          />
        </span>
        {head('tree', 'hangs under')}
        <span className="text-[12.5px] text-soft">side</span>
        {head('weight', 'weight', true)}
      </div>
      <div
        ref={box}
        className="scroll h-[176px] overflow-y-auto"
        role="listbox"
        aria-label="Bones"
        tabIndex={0}
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((v) => {
            const r = rows[v.index];
            return (
              <button
                key={r.b}
                type="button"
                role="option"
                aria-selected={r.b === bone}
                aria-label={`${r.name}${r.parent ? `, under ${r.parent}` : ', a root'}, ${r.side}, ${r.weight > 0 ? `weight ${Math.round(r.weight)}` : 'no weight'}`}
                onClick={() => chooseBone(r.b)}
                style={{ position: 'absolute', top: v.start, height: 26, left: 0, right: 0 }}
                className={clsx(
                  'mono grid grid-cols-[1fr_1fr_70px_90px] items-center gap-3 text-left',
                  r.b === bone ? 'bg-damson-wash' : 'hover:bg-wash',
                )}
              >
                <span className="truncate" title={r.name}>
                  {r.name}
                </span>
                <span className="truncate text-soft" title={r.parent}>
                  {r.parent}
                </span>
                <span style={{ color: r.side === 'middle' ? undefined : `var(--${r.side})` }}>
                  {r.side === 'left' ? '′ left' : r.side === 'right' ? '• right' : 'middle'}
                </span>
                <span className="text-right">{r.weight > 0 ? figure(Math.round(r.weight)) : '—'}</span>
              </button>
            );
          })}
        </div>
      </div>
    </div>
  );
}
