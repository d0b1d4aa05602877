'use client';

import clsx from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { unmatchedTargets } from '@/core/anatomy/crosswalk';
import { Button } from '../../kit/button';
import { useDesk } from '../../state/store';
import { ChosenPair } from './chosen-pair';
import { ChosenSeveral, ChosenWaiting } from './chosen-several';
import { Actions, Filters, Heading, Slips, TargetChoice } from './heading';
import { PairList, WaitingList } from './pair-list';
import { type Filter, type Pairing, type Sort, doubtAt, rowsOf } from './rows';
import { chooseTarget, openCrosswalk, useCrosswalkSession } from './session';

/**
 * The pairing as a table: by limb and side, or sorted; filtered, edited by hand; ten thousand rows scroll as
 * well as ten.
 */
export function Pairs() {
  const target = useCrosswalkSession((session) => session.target);
  const source = useCrosswalkSession((session) => session.source);
  const skeleton = useCrosswalkSession((session) => session.skeleton);
  const crosswalk = useCrosswalkSession((session) => session.crosswalk);
  const shown = useCrosswalkSession((session) => session.shown);
  const allowed = useDesk((state) => state.brief.proofTolerance);
  const pairing = useMemo(
    () => (source && skeleton && crosswalk ? { source, skeleton, crosswalk, shown, allowed } : null),
    [source, skeleton, crosswalk, shown, allowed],
  );
  if (!pairing)
    return (
      <p className="p-5 text-soft">
        {target ? `Comparing with ${target.title} …` : 'Looking at the skeleton …'}
      </p>
    );
  return <PairsOf pairing={pairing} />;
}

/** Why there is no pairing; another skeleton can be chosen, or the same one tried again. */
export function CannotPair({ error }: { error: string }) {
  const target = useCrosswalkSession((session) => session.target);
  const again = () => void (target ? chooseTarget(target) : openCrosswalk());
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

const NOTHING: ReadonlySet<string> = new Set();

function PairsOf({ pairing }: { pairing: Pairing }) {
  const { skeleton, crosswalk } = pairing;
  const [filter, setFilter] = useState<Filter>('all');
  const [find, setFind] = useState('');
  const [sort, setSort] = useState<Sort>('limb');
  const [turned, setTurned] = useState(NOTHING);
  const limbs = useCrosswalkSession((session) => session.limbs);
  const listed = useCrosswalkSession((session) => session.listed);
  const waiting = useMemo(() => unmatchedTargets(skeleton, crosswalk), [skeleton, crosswalk]);
  const look = useMemo(
    () => crosswalk.filter((rule) => doubtAt(pairing, rule.source) !== null).length,
    [pairing, crosswalk],
  );
  const rows = useMemo(
    () => rowsOf(pairing, { filter, find, sort, limbs, listed, turned }),
    [pairing, filter, find, sort, limbs, listed, turned],
  );
  const turn = (group: string) =>
    setTurned((before) => {
      const next = new Set(before);
      if (!next.delete(group)) next.add(group);
      return next;
    });
  useOpenGroup(rows, turn);
  return (
    <>
      <div className="shrink-0 px-3.5 pt-3.5">
        <Heading
          look={look}
          waiting={waiting.length}
          locked={crosswalk.filter((rule) => rule.locked).length}
        />
        <Filters {...{ crosswalk, filter, setFilter, find, setFind }} look={look} waiting={waiting.length} />
        <Slips />
        <TableHead sort={sort} setSort={setSort} />
      </div>
      {filter === 'waiting' ? (
        <WaitingList waiting={waiting} pairing={pairing} />
      ) : (
        <PairList
          pairing={pairing}
          rows={rows}
          onTurn={turn}
          nothing={filter === 'look' && find === '' ? 'Nothing wants a look.' : 'No pair like that.'}
        />
      )}
      <Chosen pairing={pairing} waiting={waiting} />
      <Actions />
    </>
  );
}

/** Opens the closed group in which the bone stands that was chosen on a stage. */
function useOpenGroup(rows: ReturnType<typeof rowsOf>, turn: (group: string) => void): void {
  const chosen = useCrosswalkSession((session) => session.chosen);
  const closed = rows.find((row) => row.kind === 'head' && row.isClosed && row.bones.includes(chosen));
  const id = closed?.kind === 'head' ? closed.id : null;
  useEffect(() => {
    if (id !== null) turn(id);
    // Only when another bone is chosen: what is then closed by hand stays closed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen]);
}

/** What is chosen, to be changed by hand. */
function Chosen({ pairing, waiting }: { pairing: Pairing; waiting: readonly number[] }) {
  const chosen = useCrosswalkSession((session) => session.chosen);
  const chosenTarget = useCrosswalkSession((session) => session.chosenTarget);
  const picked = useCrosswalkSession((session) => session.picked);
  const bones = [...picked].sort((a, b) => a - b);
  const rule = pairing.crosswalk[bones[0] ?? chosen];
  if (bones.length > 1) return <ChosenSeveral pairing={pairing} bones={bones} />;
  if (rule) return <ChosenPair rule={rule} pairing={pairing} waiting={waiting} />;
  if (waiting.includes(chosenTarget)) return <ChosenWaiting pairing={pairing} target={chosenTarget} />;
  return (
    <p className="shrink-0 border-t border-rule px-3.5 py-2.5 text-[12.5px] text-soft">
      Choose a pair here, or a twig in either picture, to change it. Shift or Ctrl takes several.
    </p>
  );
}

function TableHead({ sort, setSort }: { sort: Sort; setSort: (sort: Sort) => void }) {
  const head = (by: Sort, word: string, className = '') => (
    <button
      type="button"
      aria-pressed={sort === by}
      onClick={() => setSort(sort === by ? 'limb' : by)}
      title={sort === by ? 'Sorted by this; press for the limbs' : 'Sort by this'}
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
    <div className="-mx-3.5 mt-2 grid grid-cols-[minmax(0,1fr)_56px_minmax(0,1fr)_58px] gap-1.5 border-b border-ink/60 pb-1 pl-[18px] pr-3">
      {head('name', 'bone')}
      {head('rule', 'rule')}
      <span className="text-[12px] text-soft">counterpart</span>
      {head('sure', 'sure', 'text-right')}
    </div>
  );
}
