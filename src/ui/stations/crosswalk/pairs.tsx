'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import { Lock, LockOpen } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { RULE_KINDS, type Rule, type RuleKind, arrivalOf, unmatchedTargets } from '@/core/anatomy/crosswalk';
import { Button, Chip } from '../../kit/button';
import { useDesk } from '../../desk/store';
import {
  change,
  chooseByTarget,
  choosePair,
  chooseTarget,
  moveWeights,
  save,
  setLimit,
  suggestAgain,
  toggleLock,
  useWalk,
} from './state';

const RULE_HINT: Record<RuleKind, string> = {
  carry: 'one bone to one bone',
  fold: 'joins others on one bone; their weights add up',
  keep: 'no counterpart: the bone comes along',
  release: 'the bone goes; its weight goes to the bone above',
};
const TONE: Record<RuleKind, string> = {
  carry: 'border-leaf/40 text-leaf',
  fold: 'border-worth/45 text-worth',
  keep: 'border-note/45 text-note',
  release: 'border-damson/40 text-damson',
};
type Filter = 'all' | 'look' | 'keep' | 'release' | 'waiting';
type Sort = 'tree' | 'name' | 'rule' | 'confidence';

/** The pairing as a table: sorted, filtered, edited by hand; ten thousand rows scroll as well as ten. */
export function Pairs() {
  const { targets, target, source, skeleton, crosswalk, chosen, chosenTarget, limit, saved, trying } =
    useWalk();
  const busy = useDesk((s) => s.busy);
  const [filter, setFilter] = useState<Filter>('all');
  const [find, setFind] = useState('');
  const [sort, setSort] = useState<Sort>('tree');
  const box = useRef<HTMLDivElement>(null);

  const waiting = useMemo(
    () => (skeleton && crosswalk ? unmatchedTargets(skeleton, crosswalk) : []),
    [skeleton, crosswalk],
  );
  const rows = useMemo(() => {
    if (!source || !skeleton || !crosswalk) return [] as Rule[];
    const needle = find.toLowerCase();
    const list = crosswalk.filter(
      (r) =>
        (filter === 'look'
          ? r.confidence < 0.6 && !r.locked
          : filter === 'keep' || filter === 'release'
            ? r.kind === filter
            : filter === 'all') &&
        (needle === '' ||
          source.bones[r.source].name.toLowerCase().includes(needle) ||
          (r.target >= 0 && skeleton.bones[r.target].name.toLowerCase().includes(needle))),
    );
    if (sort === 'name')
      return [...list].sort((a, b) => source.bones[a.source].name.localeCompare(source.bones[b.source].name));
    if (sort === 'rule')
      return [...list].sort(
        (a, b) => RULE_KINDS.indexOf(a.kind) - RULE_KINDS.indexOf(b.kind) || a.source - b.source,
      );
    if (sort === 'confidence')
      return [...list].sort((a, b) => a.confidence - b.confidence || a.source - b.source);
    return list;
  }, [source, skeleton, crosswalk, filter, find, sort]);
  const count = filter === 'waiting' ? waiting.length : rows.length;
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => 29,
    overscan: 12,
  });
  const at = filter === 'waiting' ? -1 : rows.findIndex((r) => r.source === chosen);
  const scrollTo = virtual.scrollToIndex;
  useEffect(() => {
    if (at >= 0) scrollTo(at, { align: 'auto' });
  }, [at, scrollTo]);

  if (!source || !skeleton || !crosswalk)
    return (
      <p className="p-5 text-soft">
        {target ? `Comparing with ${target.title} …` : 'Looking at the skeleton …'}
      </p>
    );
  const look = crosswalk.filter((r) => r.confidence < 0.6 && !r.locked).length;
  const tally = (k: RuleKind) => crosswalk.filter((r) => r.kind === k).length;
  const locked = crosswalk.filter((r) => r.locked).length;
  const rule = chosen >= 0 ? crosswalk[chosen] : null;
  const step = (by: number) => {
    const at = rows.findIndex((r) => r.source === chosen);
    const next = rows[Math.min(rows.length - 1, Math.max(0, at + by))];
    if (next) choosePair(next.source);
  };
  const head = (k: Sort, word: string, className = '') => (
    <button
      type="button"
      aria-pressed={sort === k}
      onClick={() => setSort(sort === k ? 'tree' : k)}
      title={sort === k ? 'Sorted by this; press for the order of the tree' : 'Sort by this'}
      className={clsx(
        'text-left text-[12px]',
        sort === k ? 'font-semibold text-ink' : 'text-soft hover:text-ink',
        className,
      )}
    >
      {word}
      {sort === k ? ' ↓' : ''}
    </button>
  );
  return (
    <>
      <div className="px-3.5 pt-3.5">
        <div className="flex items-baseline justify-between gap-2">
          <h2 className="title text-[22px]">Crosswalk</h2>
          <p className="text-[13px] text-soft" role="status">
            {look > 0 ? `${look} want a look` : 'nothing wants a look'}
            {waiting.length > 0 ? ` · ${waiting.length} waiting` : ''}
          </p>
        </div>
        <label className="mt-1 flex items-center gap-2 text-[13px] text-soft">
          onto
          <select
            aria-label="Skeleton to move to"
            value={target?.key}
            onChange={(e) => {
              const t = targets.find((x) => x.key === e.target.value);
              if (t) void chooseTarget(t);
            }}
            className="h-7 min-w-0 flex-1 rounded-[7px] border border-rule bg-sheet px-2 font-semibold text-ink"
          >
            {targets.map((t) => (
              <option key={t.key} value={t.key}>
                {t.title}
              </option>
            ))}
          </select>
          limit
          <input
            aria-label="Most bones a point may keep"
            type="number"
            min={1}
            max={16}
            value={limit}
            onChange={(e) => {
              const n = Number(e.target.value);
              if (Number.isInteger(n) && n > 0 && n <= 64) setLimit(n);
            }}
            className="mono h-7 w-12 rounded-md border border-rule bg-sheet px-1 text-right"
          />
        </label>
        <div className="mt-2 flex flex-wrap gap-1.5" role="group" aria-label="Which pairs">
          <Chip on={filter === 'all'} onClick={() => setFilter('all')}>
            All {crosswalk.length}
          </Chip>
          <Chip on={filter === 'look'} onClick={() => setFilter('look')}>
            Want a look {look}
          </Chip>
          <Chip on={filter === 'keep'} onClick={() => setFilter('keep')}>
            Kept {tally('keep')}
          </Chip>
          <Chip on={filter === 'release'} onClick={() => setFilter('release')}>
            Released {tally('release')}
          </Chip>
          <Chip on={filter === 'waiting'} onClick={() => setFilter('waiting')}>
            Waiting there {waiting.length}
          </Chip>
          <input
            value={find}
            onChange={(e) => setFind(e.target.value)}
            placeholder="Find …"
            aria-label="Find a bone"
            className="h-7 w-24 rounded-full border border-rule bg-sheet px-3 text-[12.5px]"
          />
        </div>
        {saved === 'used' && (
          <p className="mt-2 rounded-md bg-wash px-2.5 py-1.5 text-[12.5px]">
            Saved for these two skeletons before, and taken up again.{' '}
            <button
              type="button"
              className="font-semibold text-leaf underline"
              onClick={() => void suggestAgain(true)}
            >
              Begin anew
            </button>
          </p>
        )}
        <div className="mt-2 grid grid-cols-[minmax(0,1fr)_64px_minmax(0,1fr)_58px] gap-2 border-b border-ink/60 px-1 pb-1">
          {head('name', 'bone')}
          {head('rule', 'rule')}
          <span className="text-[12px] text-soft">counterpart</span>
          {head('confidence', 'sure', 'text-right')}
        </div>
      </div>
      <div
        ref={box}
        className="scroll min-h-0 flex-1 overflow-y-auto"
        tabIndex={0}
        role="listbox"
        aria-label="Pairs of bones"
        data-testid="pairs"
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown') {
            e.preventDefault();
            step(1);
          }
          if (e.key === 'ArrowUp') {
            e.preventDefault();
            step(-1);
          }
        }}
      >
        {count === 0 && (
          <p className="px-4 py-5 text-soft">
            {filter === 'waiting' ? `Every bone of ${skeleton.title} is met.` : 'No pair like that.'}
          </p>
        )}
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((v) => {
            const style = { position: 'absolute' as const, top: v.start, left: 0, right: 0, height: 29 };
            if (filter === 'waiting') {
              const t = waiting[v.index];
              return (
                <button
                  key={t}
                  type="button"
                  role="option"
                  aria-selected={t === chosenTarget}
                  style={style}
                  onClick={() => chooseByTarget(t)}
                  className={clsx(
                    'mono grid grid-cols-[minmax(0,1fr)_64px_minmax(0,1fr)_58px] items-center gap-2 border-b border-rule px-[18px] text-left',
                    t === chosenTarget ? 'bg-damson-wash' : 'hover:bg-wash',
                  )}
                >
                  <span className="text-soft">no one</span>
                  <span />
                  <span className="truncate">{skeleton.bones[t].name}</span>
                  <span />
                </button>
              );
            }
            const r = rows[v.index];
            const on = r.source === chosen;
            const arrives =
              r.kind === 'release'
                ? `→ ${skeleton.bones[arrivalOf(source, skeleton, crosswalk, r.source)].name}`
                : r.kind === 'keep'
                  ? `under ${skeleton.bones[arrivalOf(source, skeleton, crosswalk, r.source)].name}`
                  : skeleton.bones[r.target].name;
            return (
              <button
                key={r.source}
                type="button"
                role="option"
                aria-selected={on}
                style={style}
                onClick={() => choosePair(r.source)}
                title={`${source.bones[r.source].name}: ${r.kind}, ${arrives}. ${r.reasons.join('; ')}`}
                className={clsx(
                  'mono grid grid-cols-[minmax(0,1fr)_64px_minmax(0,1fr)_58px] items-center gap-2 border-b border-rule px-[18px] text-left',
                  on ? 'bg-damson-wash shadow-[inset_3px_0_0_var(--damson)]' : 'hover:bg-wash',
                )}
              >
                <span className={clsx('truncate', source.bones[r.source].weight === 0 && 'text-soft')}>
                  {source.bones[r.source].name}
                </span>
                <span
                  className={clsx(
                    'rounded-full border bg-sheet text-center font-sans text-[11.5px] font-semibold leading-[18px]',
                    TONE[r.kind],
                  )}
                >
                  {r.kind}
                </span>
                <span className={clsx('truncate', r.target < 0 && 'text-soft')}>{arrives}</span>
                <span className="flex items-center justify-end gap-1.5">
                  {r.locked && <Lock size={11} className="text-damson" aria-label="locked" />}
                  <span
                    className="h-[5px] w-9 overflow-hidden rounded-full bg-rule"
                    role="img"
                    aria-label={`${Math.round(r.confidence * 100)} % sure`}
                  >
                    <span
                      className={clsx(
                        'block h-full rounded-full',
                        r.confidence < 0.6 ? 'bg-worth' : 'bg-leaf',
                      )}
                      style={{ width: `${r.confidence * 100}%` }}
                    />
                  </span>
                </span>
              </button>
            );
          })}
        </div>
      </div>
      {rule ? (
        <div className="border-t border-rule px-3.5 py-2.5" aria-label="The chosen pair">
          <div className="flex items-center gap-2">
            <span className="mono min-w-0 flex-1 truncate font-semibold" title={source.bones[chosen].name}>
              {source.bones[chosen].name}
            </span>
            <button
              type="button"
              aria-pressed={rule.locked}
              onClick={() => toggleLock(chosen)}
              className="flex items-center gap-1 text-[12.5px] text-soft hover:text-ink"
            >
              {rule.locked ? <Lock size={13} /> : <LockOpen size={13} />}
              {rule.locked ? 'locked' : 'lock'}
            </button>
          </div>
          <div className="mt-1.5 flex flex-wrap items-center gap-1.5" role="group" aria-label="Its rule">
            {RULE_KINDS.map((k) => (
              <Chip
                key={k}
                on={rule.kind === k}
                title={RULE_HINT[k]}
                onClick={() =>
                  change(
                    chosen,
                    k,
                    rule.target >= 0 ? rule.target : arrivalOf(source, skeleton, crosswalk, chosen),
                  )
                }
              >
                {k}
              </Chip>
            ))}
            {(rule.kind === 'carry' || rule.kind === 'fold') && (
              <select
                aria-label="Its counterpart"
                value={rule.target}
                onChange={(e) => change(chosen, rule.kind, Number(e.target.value))}
                className="mono h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-1"
              >
                {skeleton.bones.map((b, t) => (
                  <option key={b.name + t} value={t}>
                    {b.name}
                    {waiting.includes(t) ? ' · waiting' : ''}
                  </option>
                ))}
              </select>
            )}
          </div>
          <p className="mt-1.5 text-[12.5px] text-soft">
            {RULE_HINT[rule.kind]} · {Math.round(rule.confidence * 100)} % sure: {rule.reasons.join('; ')}
          </p>
        </div>
      ) : (
        <p className="border-t border-rule px-3.5 py-2.5 text-[12.5px] text-soft">
          Choose a pair here, or a twig in either picture, to change it.
        </p>
      )}
      <div className="flex items-center gap-1.5 border-t border-rule px-3.5 py-2.5 [&_button]:px-2.5">
        <Button kind="leaf" disabled={!!busy || trying} onClick={() => void moveWeights()}>
          Move the weights
        </Button>
        <Button onClick={() => void suggestAgain()}>Suggest again</Button>
        <Button kind="quiet" disabled={saved === 'used' && !trying} onClick={() => void save()}>
          Save
        </Button>
        <span className="ml-auto text-[12.5px] whitespace-nowrap text-soft">{locked} locked</span>
      </div>
    </>
  );
}
