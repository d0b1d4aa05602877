'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import { useEffect, useMemo, useRef, useState } from 'react';
import { type Crosswalk, RULE_KINDS, type Rule, unmatchedTargets } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { Button, Chip } from '../../kit/button';
import { useRoving } from '../../kit/roving';
import { useDesk } from '../../state/store';
import { ChosenPair } from './chosen-pair';
import { PairRow, SURE, WaitingRow } from './pair-row';
import {
  chooseByTarget,
  choosePair,
  chooseTarget,
  moveWeights,
  openWalk,
  saveWalk,
  setLimit,
  suggestAgain,
  useWalk,
} from './walk';

type Filter = 'all' | 'look' | 'keep' | 'release' | 'waiting';
type Sort = 'tree' | 'name' | 'rule' | 'confidence';

const ROW = 29;

interface Pairing {
  readonly source: Skeleton;
  readonly skeleton: Skeleton;
  readonly crosswalk: Crosswalk;
}

const wantsLook = (r: Rule) => !r.locked && (r.confidence < SURE || r.other !== undefined);

const PASSES: Readonly<Record<Filter, (r: Rule) => boolean>> = {
  all: () => true,
  look: wantsLook,
  keep: (r) => r.kind === 'keep',
  release: (r) => r.kind === 'release',
  waiting: () => false,
};

function rowsOf({ source, skeleton, crosswalk }: Pairing, filter: Filter, find: string, sort: Sort): Rule[] {
  const needle = find.toLowerCase();
  const nameOf = (r: Rule) => source.bones[r.source].name;
  const isFound = (r: Rule) =>
    nameOf(r).toLowerCase().includes(needle) ||
    (r.target >= 0 && skeleton.bones[r.target].name.toLowerCase().includes(needle));
  const list = crosswalk.filter((r) => PASSES[filter](r) && isFound(r));
  const orders: Readonly<Record<Sort, (a: Rule, b: Rule) => number>> = {
    tree: () => 0,
    name: (a, b) => nameOf(a).localeCompare(nameOf(b)),
    rule: (a, b) => RULE_KINDS.indexOf(a.kind) - RULE_KINDS.indexOf(b.kind) || a.source - b.source,
    confidence: (a, b) => a.confidence - b.confidence || a.source - b.source,
  };
  return list.sort(orders[sort]);
}

/** The pairing as a table: sorted, filtered, edited by hand; ten thousand rows scroll as well as ten. */
export function Pairs() {
  const target = useWalk((s) => s.target);
  const source = useWalk((s) => s.source);
  const skeleton = useWalk((s) => s.skeleton);
  const crosswalk = useWalk((s) => s.crosswalk);
  if (!source || !skeleton || !crosswalk)
    return (
      <p className="p-5 text-soft">
        {target ? `Comparing with ${target.title} …` : 'Looking at the skeleton …'}
      </p>
    );
  return <PairsOf source={source} skeleton={skeleton} crosswalk={crosswalk} />;
}

/** Why there is no pairing; another skeleton can be chosen, or the same one tried again. */
export function CannotPair({ error }: { error: string }) {
  const target = useWalk((s) => s.target);
  const again = () => void (target ? chooseTarget(target) : openWalk());
  return (
    <div className="p-5">
      <p role="alert" className="mb-3 text-stops">
        {error}
      </p>
      {target && <TargetChoice />}
      <Button small className="mt-3" onClick={again}>
        Try again
      </Button>
    </div>
  );
}

function PairsOf(pairing: Pairing) {
  const { skeleton, crosswalk } = pairing;
  const chosen = useWalk((s) => s.chosen);
  const [filter, setFilter] = useState<Filter>('all');
  const [find, setFind] = useState('');
  const [sort, setSort] = useState<Sort>('tree');
  const waiting = useMemo(() => unmatchedTargets(skeleton, crosswalk), [skeleton, crosswalk]);
  const rows = useMemo(() => rowsOf(pairing, filter, find, sort), [pairing, filter, find, sort]);
  const rule = chosen >= 0 ? crosswalk[chosen] : undefined;
  return (
    <>
      <div className="px-3.5 pt-3.5">
        <Heading crosswalk={crosswalk} waiting={waiting.length} />
        <Filters
          crosswalk={crosswalk}
          waiting={waiting.length}
          filter={filter}
          setFilter={setFilter}
          find={find}
          setFind={setFind}
        />
        <TakenUp />
        <TableHead sort={sort} setSort={setSort} />
      </div>
      {filter === 'waiting' ? (
        <WaitingList waiting={waiting} skeleton={skeleton} />
      ) : (
        <PairList {...pairing} rows={rows} />
      )}
      {rule ? (
        <ChosenPair rule={rule} {...pairing} waiting={waiting} />
      ) : (
        <p className="border-t border-rule px-3.5 py-2.5 text-[12.5px] text-soft">
          Choose a pair here, or a twig in either picture, to change it.
        </p>
      )}
      <Actions crosswalk={crosswalk} />
    </>
  );
}

function Heading({ crosswalk, waiting }: { crosswalk: Crosswalk; waiting: number }) {
  const look = crosswalk.filter(wantsLook).length;
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="title text-[22px]">Crosswalk</h2>
        <p className="text-[13px] text-soft" role="status">
          {look > 0 ? `${look} want a look` : 'nothing wants a look'}
          {waiting > 0 ? ` · ${waiting} waiting` : ''}
        </p>
      </div>
      <TargetChoice />
    </>
  );
}

function TargetChoice() {
  const targets = useWalk((s) => s.targets);
  const target = useWalk((s) => s.target);
  const limit = useWalk((s) => s.limit);
  return (
    <label className="mt-1 flex items-center gap-2 text-[13px] text-soft">
      onto
      <select
        aria-label="Skeleton to move to"
        value={target?.key}
        onChange={(e) => {
          const chosen = targets.find((x) => x.key === e.target.value);
          if (chosen) void chooseTarget(chosen);
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
  );
}

function Filters({
  crosswalk,
  waiting,
  filter,
  setFilter,
  find,
  setFind,
}: {
  crosswalk: Crosswalk;
  waiting: number;
  filter: Filter;
  setFilter: (filter: Filter) => void;
  find: string;
  setFind: (find: string) => void;
}) {
  const count = (of: Filter) => crosswalk.filter(PASSES[of]).length;
  const chips: readonly (readonly [Filter, string])[] = [
    ['all', `All ${crosswalk.length}`],
    ['look', `Want a look ${count('look')}`],
    ['keep', `Kept ${count('keep')}`],
    ['release', `Released ${count('release')}`],
    ['waiting', `Waiting there ${waiting}`],
  ];
  return (
    <div className="mt-2 flex flex-wrap gap-1.5" role="group" aria-label="Which pairs">
      {chips.map(([of, word]) => (
        <Chip key={of} on={filter === of} onClick={() => setFilter(of)}>
          {word}
        </Chip>
      ))}
      <input
        value={find}
        onChange={(e) => setFind(e.target.value)}
        placeholder="Find …"
        aria-label="Find a bone"
        className="h-7 w-24 rounded-full border border-rule bg-sheet px-3 text-[12.5px]"
      />
    </div>
  );
}

function TakenUp() {
  const isSaved = useWalk((s) => s.isSaved);
  if (!isSaved) return null;
  return (
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
  );
}

function TableHead({ sort, setSort }: { sort: Sort; setSort: (sort: Sort) => void }) {
  const head = (by: Sort, word: string, className = '') => (
    <button
      type="button"
      aria-pressed={sort === by}
      onClick={() => setSort(sort === by ? 'tree' : by)}
      title={sort === by ? 'Sorted by this; press for the order of the tree' : 'Sort by this'}
      className={clsx(
        'text-left text-[12px]',
        sort === by ? 'font-semibold text-ink' : 'text-soft hover:text-ink',
        className,
      )}
    >
      {word}
      {sort === by ? ' ↓' : ''}
    </button>
  );
  return (
    <div className="mt-2 grid grid-cols-[minmax(0,1fr)_64px_minmax(0,1fr)_58px] gap-2 border-b border-ink/60 px-1 pb-1">
      {head('name', 'bone')}
      {head('rule', 'rule')}
      <span className="text-[12px] text-soft">counterpart</span>
      {head('confidence', 'sure', 'text-right')}
    </div>
  );
}

const list = 'scroll min-h-0 flex-1 overflow-y-auto';

function PairList({ rows, ...pairing }: Pairing & { rows: readonly Rule[] }) {
  const chosen = useWalk((s) => s.chosen);
  const box = useRef<HTMLDivElement>(null);
  const at = rows.findIndex((r) => r.source === chosen);
  const virtual = useRows(rows.length, box, at);
  const roving = useRoving(rows.length, at, (i) => {
    virtual.scrollToIndex(i, { align: 'auto' });
    choosePair(rows[i].source);
  });
  return (
    <div
      ref={box}
      className={list}
      role="listbox"
      aria-label="Pairs of bones"
      data-testid="pairs"
      {...roving.list}
    >
      {rows.length === 0 && <p className="px-4 py-5 text-soft">No pair like that.</p>}
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((v) => (
          <PairRow
            key={rows[v.index].source}
            rule={rows[v.index]}
            {...pairing}
            isChosen={v.index === at}
            style={placeOf(v.start)}
            roving={roving.item(v.index)}
            onChoose={() => choosePair(rows[v.index].source)}
          />
        ))}
      </div>
    </div>
  );
}

const placeOf = (top: number) => ({ position: 'absolute' as const, top, left: 0, right: 0, height: ROW });

/** Rows of a long list, of which only those in sight are there; the one at `at` is kept in sight. */
function useRows(count: number, box: React.RefObject<HTMLDivElement | null>, at: number) {
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const { scrollToIndex } = virtual;
  useEffect(() => {
    if (at >= 0) scrollToIndex(at, { align: 'auto' });
  }, [at, scrollToIndex]);
  return virtual;
}

function WaitingList({ waiting, skeleton }: { waiting: readonly number[]; skeleton: Skeleton }) {
  const chosenTarget = useWalk((s) => s.chosenTarget);
  const box = useRef<HTMLDivElement>(null);
  const at = waiting.indexOf(chosenTarget);
  const virtual = useRows(waiting.length, box, at);
  const roving = useRoving(waiting.length, at, (i) => {
    virtual.scrollToIndex(i, { align: 'auto' });
    chooseByTarget(waiting[i]);
  });
  return (
    <div ref={box} className={list} role="listbox" aria-label="Bones that wait" {...roving.list}>
      {waiting.length === 0 && <p className="px-4 py-5 text-soft">Every bone of {skeleton.title} is met.</p>}
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((v) => (
          <WaitingRow
            key={waiting[v.index]}
            name={skeleton.bones[waiting[v.index]].name}
            isChosen={v.index === at}
            style={placeOf(v.start)}
            roving={roving.item(v.index)}
            onChoose={() => chooseByTarget(waiting[v.index])}
          />
        ))}
      </div>
    </div>
  );
}

function Actions({ crosswalk }: { crosswalk: Crosswalk }) {
  const busy = useDesk((s) => s.busy);
  const isTrying = useWalk((s) => s.isTrying);
  const isSuggesting = useWalk((s) => s.isSuggesting);
  const isSaved = useWalk((s) => s.isSaved);
  const locked = crosswalk.filter((r) => r.locked).length;
  return (
    <div className="flex items-center gap-1.5 border-t border-rule px-3.5 py-2.5 [&_button]:px-2.5">
      <Button kind="leaf" disabled={!!busy || isTrying || isSuggesting} onClick={() => void moveWeights()}>
        Move the weights
      </Button>
      <Button disabled={isSuggesting} onClick={() => void suggestAgain()}>
        Suggest again
      </Button>
      <Button kind="quiet" disabled={isSaved || isSuggesting} onClick={() => void saveWalk()}>
        Save
      </Button>
      <span className="ml-auto text-[12.5px] whitespace-nowrap text-soft">{locked} locked</span>
    </div>
  );
}
