'use client';

import clsx from 'clsx';
import { X } from 'lucide-react';
import { inUnit } from '@/core/contracts/units';
import { GRAVITIES, GRAVITY_WORDS } from '@/core/contracts/finding';
import type { Measure } from '@/core/contracts/measure';
import { Button, Chip } from '../kit/button';
import { figure } from '../kit/format';
import { Mark } from '../kit/gravity';
import type { Counted } from '../worker/desk.worker';
import { compare, moveTo, showCompared, showHead, useDesk } from './store';

const same = (a: Measure | undefined, b: Measure | undefined) =>
  !!a &&
  !!b &&
  (typeof a.value === 'number' && typeof b.value === 'number'
    ? Math.abs(a.value - b.value) < 1e-6 * Math.max(1, Math.abs(a.value))
    : a.value === b.value);
const shown = (m: Measure | undefined) => {
  if (m === undefined) return '—';
  if (typeof m.value === 'number')
    return `${figure(Number(m.value.toFixed(m.unit === '°' || m.unit.startsWith('%') ? 1 : 4)))}${m.unit.startsWith('%') ? ' %' : m.unit === '°' ? '°' : m.unit ? ` ${m.unit}` : ''}`;
  return m.value;
};
const COUNTS: readonly [keyof Counted, string][] = [
  ['nodes', 'Nodes'],
  ['bones', 'Bones'],
  ['meshes', 'Meshes'],
  ['vertices', 'Vertices'],
  ['polygons', 'Polygons'],
  ['clips', 'Clips'],
];

/** Two revisions beside each other: their numbers here, both on the stage, what lies between them as a picture. */
export function Compare() {
  const { compared, sheet, brief } = useDesk();
  if (!compared || !sheet) return null;
  const { a, b, data, show } = compared;
  const of = (id: string) => sheet.revisions.find((r) => r.id === id);
  const pick = (value: string, word: string, onPick: (id: string) => void) => (
    <label className="flex min-w-0 flex-1 flex-col text-[12.5px] text-soft">
      {word}
      <select
        value={value}
        onChange={(e) => onPick(e.target.value)}
        className="h-8 rounded-[7px] border border-rule bg-sheet px-1.5 text-[13px] text-ink"
      >
        {sheet.revisions.map((r) => (
          <option key={r.id} value={r.id}>
            {r.number}, {r.label}
          </option>
        ))}
      </select>
    </label>
  );
  const [first, second] = data?.measures ?? [[], []];
  const ids = [...new Set([...first, ...second].map((m) => m.id))];
  const rows = ids.map((id) => ({ x: first.find((m) => m.id === id), y: second.find((m) => m.id === id) }));
  const changed = rows.filter((r) => !same(r.x, r.y));
  const still = rows.length - changed.length;
  return (
    <aside
      aria-label="Comparison"
      className="scroll flex w-[384px] shrink-0 flex-col overflow-y-auto border-l border-rule bg-sheet px-[18px] py-4"
    >
      <div className="flex items-start justify-between">
        <h2 className="title text-[22px]">Two revisions</h2>
        <button
          type="button"
          aria-label="End the comparison"
          onClick={showHead}
          className="text-soft hover:text-ink"
        >
          <X size={18} />
        </button>
      </div>
      <div className="mt-2 flex gap-2">
        {pick(a, 'first', (id) => void compare(id, b))}
        {pick(b, 'second', (id) => void compare(a, id))}
      </div>
      {!data ? (
        <p className="mt-4 text-soft">laying them beside each other …</p>
      ) : (
        <>
          <div role="group" aria-label="What the stage shows" className="mt-3 flex gap-1">
            <Chip on={show === 'difference'} onClick={() => showCompared('difference')}>
              Difference
            </Chip>
            <Chip on={show === 'first'} onClick={() => showCompared('first')}>
              First
            </Chip>
            <Chip on={show === 'second'} onClick={() => showCompared('second')}>
              Second
            </Chip>
          </div>
          <p className="mt-2 text-[13px]">
            {data.most < 1e-6 ? (
              'Every point that both have lies where it lay.'
            ) : (
              <>
                The farthest point lies{' '}
                <span className="mono text-damson">
                  {figure(Number(inUnit(data.most, brief.unit).toFixed(4)))} {brief.unit}
                </span>{' '}
                from where it was, on {data.where}; {figure(data.points)} vertices lie elsewhere.
              </>
            )}{' '}
            <span className="text-soft">The other one is drawn in damson rims.</span>
          </p>
          {show === 'difference' && data.most >= 1e-6 && (
            <div className="mt-2 text-[12px] text-soft">
              <div
                className="h-3 rounded-sm border border-rule"
                style={{
                  background:
                    'linear-gradient(90deg, var(--ramp-0), var(--ramp-1) 25%, var(--ramp-2) 50%, var(--ramp-3) 75%, var(--ramp-4))',
                }}
              />
              <div className="mono flex justify-between text-[11px]">
                <span>0</span>
                <span>
                  {figure(Number(inUnit(data.most, brief.unit).toFixed(4)))} {brief.unit}
                </span>
              </div>
            </div>
          )}
          <table className="mt-3 w-full text-[13px]">
            <thead>
              <tr className="text-right text-[12px] text-soft">
                <th scope="col" className="text-left font-normal">
                  numbers
                </th>
                <th scope="col" className="pl-2 font-normal">
                  {of(a)?.number}
                </th>
                <th scope="col" className="pl-2 font-normal">
                  {of(b)?.number}
                </th>
              </tr>
            </thead>
            <tbody>
              {GRAVITIES.map((g) => {
                const [x, y] = [of(a)?.counts?.[g], of(b)?.counts?.[g]];
                return (
                  <tr key={g} className={clsx('border-t border-rule', x !== y && 'font-semibold')}>
                    <td className="py-1 pr-2">
                      <span className="inline-flex items-center gap-1.5">
                        <Mark gravity={g} />
                        {GRAVITY_WORDS[g]}
                      </span>
                    </td>
                    <td className="mono py-1 pl-2 text-right">{x ?? '—'}</td>
                    <td className="mono py-1 pl-2 text-right">{y ?? '—'}</td>
                  </tr>
                );
              })}
              {COUNTS.map(([k, word]) => (
                <tr
                  key={k}
                  className={clsx(
                    'border-t border-rule',
                    data.counts[0][k] !== data.counts[1][k] && 'font-semibold text-damson',
                  )}
                >
                  <td className="py-1 pr-2">{word}</td>
                  <td className="mono py-1 pl-2 text-right">{figure(data.counts[0][k])}</td>
                  <td className="mono py-1 pl-2 text-right">{figure(data.counts[1][k])}</td>
                </tr>
              ))}
              {changed.map(({ x, y }) => (
                <tr key={(x ?? y)?.id} className="border-t border-rule">
                  <td className="py-1 pr-2 leading-snug">{(y ?? x)?.label}</td>
                  <td
                    className={clsx(
                      'mono py-1 pl-2 text-right whitespace-nowrap',
                      x?.state === 'off' && 'text-stops',
                    )}
                  >
                    {shown(x)}
                  </td>
                  <td
                    className={clsx(
                      'mono py-1 pl-2 text-right font-semibold whitespace-nowrap',
                      y?.state === 'off' ? 'text-stops' : y?.state === 'met' ? 'text-fine' : '',
                    )}
                  >
                    {shown(y)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-2 text-[12.5px] text-soft">{still} measures are the same in both.</p>
          {data.lost.length > 0 && (
            <p className="mt-2 text-[13px]">
              Only in the first:{' '}
              <span className="mono break-words">
                {data.lost.slice(0, 30).join(', ')}
                {data.lost.length > 30 ? ' …' : ''}
              </span>
            </p>
          )}
          {data.came.length > 0 && (
            <p className="mt-2 text-[13px]">
              Only in the second:{' '}
              <span className="mono break-words">
                {data.came.slice(0, 30).join(', ')}
                {data.came.length > 30 ? ' …' : ''}
              </span>
            </p>
          )}
          <div className="mt-4 flex gap-2">
            <Button
              small
              onClick={() => {
                showHead();
                void moveTo(a, 'Gone back');
              }}
              disabled={a === sheet.head}
            >
              Go to the first
            </Button>
            <Button small onClick={showHead}>
              End the comparison
            </Button>
          </div>
        </>
      )}
    </aside>
  );
}
