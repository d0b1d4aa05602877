'use client';

import { fineUnit } from '@/core/contracts/units';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  type KeyboardEvent,
  type MouseEvent,
  type RefObject,
  useEffect,
  useEffectEvent,
  useRef,
} from 'react';
import { useRoving } from '../../kit/roving';
import { useDesk } from '../../state/store';
import { chooseByTarget, chooseGroup, choosePair, choosePairs } from './choice';
import { rowsInSight } from './leaders';
import { HeadLine, PairLine, WaitingRow } from './pair-row';
import { type Pairing, type PairListRow, limbOf } from './rows';
import { useCrosswalkSession } from './session';

const ROW = 29;

const list = 'scroll min-h-0 flex-1 overflow-y-auto';

const placeOf = (top: number) => ({ position: 'absolute' as const, top, left: 0, right: 0, height: ROW });

/** Rows of a long list, of which only those in sight are there; the one at `at` is kept in sight. */
function useRows(count: number, box: RefObject<HTMLDivElement | null>, at: number) {
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const bringIn = useEffectEvent(() => {
    const { current } = box;
    if (at < 0 || !current) return;
    const top = at * ROW - current.scrollTop;
    // What was chosen on a figure comes with its neighbours.
    if (top < 0 || top + ROW > current.clientHeight) virtual.scrollToIndex(at, { align: 'center' });
  });
  useEffect(() => bringIn(), [at]);
  return virtual;
}

/** Where a row stands in the choice. */
function indexOfChoice(rows: readonly PairListRow[], chosen: number, group: string | null): number {
  return rows.findIndex((row) =>
    row.kind === 'head' ? group !== null && row.id === group : group === null && row.rule.source === chosen,
  );
}

/** The bones of the pairs between two rows. */
function bonesBetween(rows: readonly PairListRow[], a: number, b: number): Set<number> {
  const part = rows.slice(Math.min(a, b), Math.max(a, b) + 1);
  return new Set(part.flatMap((row) => (row.kind === 'pair' ? [row.rule.source] : [])));
}

/** The pairs, in groups: arrows walk, Shift takes several, left and right close and open a group. */
export function PairList({
  pairing,
  rows,
  nothing,
  onTurn,
}: {
  pairing: Pairing;
  rows: readonly PairListRow[];
  /** Told where there is no row. */
  nothing: string;
  onTurn: (group: string) => void;
}) {
  const chosen = useCrosswalkSession((session) => session.chosen);
  const group = useCrosswalkSession((session) => session.group);
  const picked = useCrosswalkSession((session) => session.picked);
  const unit = useDesk((state) => fineUnit(state.brief.unit));
  const box = useRef<HTMLDivElement>(null);
  const anchor = useRef(-1);
  const at = indexOfChoice(rows, chosen, group);
  const virtual = useRows(rows.length, box, at);
  const choose = (i: number, isRange: boolean, isAdded = false) => {
    const row = rows[i];
    virtual.scrollToIndex(i, { align: 'auto' });
    if (row.kind === 'head') {
      chooseGroup(row.id, row.bones);
      return;
    }
    const { source } = row.rule;
    const from = rows.findIndex(
      (candidate) => candidate.kind === 'pair' && candidate.rule.source === anchor.current,
    );
    if (isRange && from >= 0) {
      choosePairs(bonesBetween(rows, from, i), source);
      return;
    }
    anchor.current = source;
    if (isAdded) choosePairs(withOrWithout(picked, source), source);
    else choosePair(source);
  };
  const turn = (event: KeyboardEvent) => {
    const row = rows[at];
    if (row?.kind !== 'head') return;
    if (event.key !== (row.isClosed ? 'ArrowRight' : 'ArrowLeft')) return;
    event.preventDefault();
    onTurn(row.id);
  };
  const roving = useRoving(rows.length, at, choose, turn);
  useSight(box, rows, pairing, virtual.scrollOffset ?? 0);
  return (
    <div
      ref={box}
      className={list}
      role="listbox"
      aria-label="Pairs of bones"
      aria-multiselectable
      data-testid="pairs"
      {...roving.list}
    >
      {rows.length === 0 && <p className="px-4 py-5 text-soft">{nothing}</p>}
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          const line = { style: placeOf(item.start), roving: roving.item(item.index) };
          if (row.kind === 'head')
            return (
              <HeadLine
                key={`head ${row.id}`}
                row={row}
                {...line}
                isChosen={group === row.id}
                onChoose={() => choose(item.index, false)}
                onTurn={() => onTurn(row.id)}
              />
            );
          return (
            <PairLine
              key={row.rule.source}
              row={row}
              pairing={pairing}
              unit={unit}
              {...line}
              isChosen={picked.has(row.rule.source)}
              onChoose={(event: MouseEvent) =>
                choose(item.index, event.shiftKey, event.ctrlKey || event.metaKey)
              }
            />
          );
        })}
      </div>
    </div>
  );
}

function withOrWithout(picked: ReadonlySet<number>, bone: number): Set<number> {
  const next = new Set(picked);
  if (!next.delete(bone) || next.size === 0) next.add(bone);
  return next;
}

/** Tells which rows of the chosen limb are in sight, and where: threads lead there from both figures. */
function useSight(
  box: RefObject<HTMLDivElement | null>,
  rows: readonly PairListRow[],
  { source, skeleton, crosswalk }: Pairing,
  offset: number,
): void {
  const chosen = useCrosswalkSession((session) => session.chosen);
  const picked = useCrosswalkSession((session) => session.picked);
  const limbs = useCrosswalkSession((session) => session.limbs);
  const tell = useEffectEvent(() => {
    if (!box.current) return;
    const { top, height } = box.current.getBoundingClientRect();
    const limb = new Set(picked.size > 1 ? picked : limbOf(limbs, chosen)?.bones);
    rowsInSight.set(
      rows.flatMap((row, i) => {
        const y = i * ROW + ROW / 2 - box.current!.scrollTop;
        if (row.kind === 'head' || !limb.has(row.rule.source) || y < 0 || y > height) return [];
        const { name, node } = source.bones[row.rule.source];
        const { kind, joins, target } = row.rule;
        const met = target < 0 ? undefined : skeleton.bones[target].name;
        const isFolded = (kind === 'fold' || joins) && crosswalk[chosen]?.source !== row.rule.source;
        const theirs = kind === 'keep' ? name : met;
        const strong = row.rule.source === chosen;
        return [{ node, theirs: isFolded ? undefined : theirs, y: top + y, strong }];
      }),
    );
  });
  useEffect(() => tell(), [rows, offset, chosen, picked, limbs]);
  useEffect(() => {
    const watch = new ResizeObserver(() => tell());
    if (box.current) watch.observe(box.current);
    return () => {
      watch.disconnect();
      rowsInSight.set([]);
    };
  }, [box]);
}

/** Bones of the target that nothing arrives on. */
export function WaitingList({ waiting, pairing }: { waiting: readonly number[]; pairing: Pairing }) {
  const { skeleton } = pairing;
  const chosenTarget = useCrosswalkSession((session) => session.chosenTarget);
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
        {virtual.getVirtualItems().map((item) => (
          <WaitingRow
            key={waiting[item.index]}
            name={skeleton.bones[waiting[item.index]].name}
            isChosen={item.index === at}
            style={placeOf(item.start)}
            roving={roving.item(item.index)}
            onChoose={() => chooseByTarget(waiting[item.index])}
          />
        ))}
      </div>
    </div>
  );
}
