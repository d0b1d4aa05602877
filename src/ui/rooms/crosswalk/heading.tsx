'use client';

import { ArrowLeftRight } from 'lucide-react';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import { Button, Chip } from '../../kit/button';
import { FindField } from '../../kit/find-field';
import { useDesk } from '../../state/store';
import { takeTool } from '../../state/tools';
import { changeRule, moveWeights, saveWalk, suggestAgain, takeOffered } from './changes';
import type { Filter } from './rows';
import { chooseTarget, setLimit, useCrosswalkSession } from './session';

/** What the pairing comes to, and what it is onto. */
export function Heading({ look, waiting, locked }: { look: number; waiting: number; locked: number }) {
  return (
    <>
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="title text-[22px]">Crosswalk</h2>
        <p className="text-[13px] text-soft" role="status">
          {look > 0 ? `${look} want${look === 1 ? 's' : ''} a look` : 'nothing wants a look'}
          {waiting > 0 ? ` · ${waiting} waiting` : ''}
          {locked > 0 ? ` · ${locked} locked` : ''}
        </p>
      </div>
      <TargetChoice />
    </>
  );
}

export function TargetChoice() {
  const targets = useCrosswalkSession((session) => session.targets);
  const target = useCrosswalkSession((session) => session.target);
  const limit = useCrosswalkSession((session) => session.limit);
  return (
    <label className="mt-1 flex items-center gap-2 text-[13px] text-soft">
      onto
      <select
        aria-label="Skeleton to move to"
        value={target?.key}
        onChange={(event) => {
          const chosen = targets.find((target) => target.key === event.target.value);
          if (chosen) void chooseTarget(chosen);
        }}
        className="h-7 min-w-0 flex-1 rounded-[7px] border border-rule bg-sheet px-2 font-semibold text-ink"
      >
        {targets.map((target) => (
          <option key={target.key} value={target.key}>
            {target.title}
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
        onChange={(event) => {
          const value = Number(event.target.value);
          if (Number.isInteger(value) && value > 0 && value <= 64) setLimit(value);
        }}
        className="mono h-7 w-12 rounded-md border border-rule bg-sheet px-1 text-right"
      />
    </label>
  );
}

/** Which pairs are listed. */
export function Filters({
  crosswalk,
  look,
  waiting,
  filter,
  setFilter,
  find,
  setFind,
}: {
  crosswalk: Crosswalk;
  look: number;
  waiting: number;
  filter: Filter;
  setFilter: (filter: Filter) => void;
  find: string;
  setFind: (find: string) => void;
}) {
  const count = (of: 'keep' | 'release') => crosswalk.filter((rule) => rule.kind === of).length;
  const chips: readonly (readonly [Filter, string])[] = [
    ['all', `All ${crosswalk.length}`],
    ['look', `Want a look ${look}`],
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
      <FindField label="Find a bone" value={find} onChange={setFind} className="h-7 w-24" />
      <PointButton />
    </div>
  );
}

function PointButton() {
  const isHeld = useDesk((state) => state.tool === 'pair');
  return (
    <Chip on={isHeld} onClick={() => takeTool('pair')} title="Pair by pointing at a bone on each figure (A)">
      <ArrowLeftRight size={12} className="-mt-0.5 mr-1 inline" aria-hidden />
      Point
    </Chip>
  );
}

const SLIP = 'mt-2 rounded-md bg-wash px-2.5 py-1.5 text-[12.5px]';

function Link({ children, onClick }: { children: string; onClick: () => void }) {
  return (
    <button type="button" className="font-semibold text-leaf underline" onClick={onClick}>
      {children}
    </button>
  );
}

/** What there is to say of the two skeletons, where the pairing came from, and what the pointing hand holds. */
export function Slips() {
  const notices = useCrosswalkSession((session) => session.notices);
  return (
    <>
      {notices.map(({ text, other }) => (
        <p key={text} className={SLIP} role="note">
          {text}{' '}
          {other && (
            <Link
              onClick={() => {
                changeRule(other.source, 'carry', other.target);
                void suggestAgain();
              }}
            >
              {other.label}
            </Link>
          )}
        </p>
      ))}
      <Pointing />
      <Offered />
      <TakenUp />
    </>
  );
}

function Pointing() {
  const isOn = useDesk((state) => state.tool === 'pair');
  const held = useCrosswalkSession((session) => session.held);
  const source = useCrosswalkSession((session) => session.source);
  const skeleton = useCrosswalkSession((session) => session.skeleton);
  if (!isOn) return null;
  const name = held && (held.side === 'source' ? source : skeleton)?.bones[held.bone].name;
  return (
    <p className={SLIP} role="status">
      {name ? (
        <>
          <span className="mono">{name}</span>: now point at its counterpart on the{' '}
          {held.side === 'source' ? 'right' : 'left'} figure.
        </>
      ) : (
        'Point at a bone on either figure, then at its counterpart on the other. Escape ends it.'
      )}
    </p>
  );
}

/** A crosswalk saved for another character on nearly the same skeleton, and what differs. */
function Offered() {
  const offered = useCrosswalkSession((session) => session.offered);
  const count = useCrosswalkSession((session) => session.source?.bones.length ?? 0);
  if (!offered) return null;
  const { from, added, gone } = offered;
  const differs = [
    ...(added.length > 0 ? [`${added.length} of its own: ${someOf(added)}`] : []),
    ...(gone.length > 0 ? [`${gone.length} not here: ${someOf(gone)}`] : []),
  ];
  return (
    <p className={SLIP} role="note">
      A crosswalk saved for {from} fits {count - added.length} of {count} bones here
      {differs.length > 0 ? ` (${differs.join('; ')})` : ''}. <Link onClick={takeOffered}>Take it up</Link>
    </p>
  );
}

const someOf = (names: readonly string[]) => `${names.slice(0, 3).join(', ')}${names.length > 3 ? ' …' : ''}`;

function TakenUp() {
  const origin = useCrosswalkSession((session) => session.origin);
  const isSaved = useCrosswalkSession(
    (session) => session.origin === 'saved' && session.crosswalk === session.saved,
  );
  if (origin !== 'draft' && !isSaved) return null;
  return (
    <p className={SLIP}>
      {origin === 'draft'
        ? 'What you set here before and did not save is back.'
        : 'Saved for these two skeletons before, and taken up again.'}{' '}
      <Link onClick={() => void suggestAgain(true)}>Begin anew</Link>
    </p>
  );
}

/** What is done with the whole pairing. */
export function Actions() {
  const busy = useDesk((state) => state.busy);
  const isTrying = useCrosswalkSession((session) => session.isTrying);
  const isSuggesting = useCrosswalkSession((session) => session.isSuggesting);
  const isSaved = useCrosswalkSession((session) => session.crosswalk === session.saved);
  return (
    <div className="flex shrink-0 items-center gap-1.5 border-t border-rule px-3.5 py-2.5 [&_button]:px-2.5">
      <Button
        kind="leaf"
        disabled={!!busy || isTrying || isSuggesting}
        onClick={(event) => {
          // The pairing goes while the weights move, and with it this button: the focus waits where the next comes.
          event.currentTarget.closest('section')?.focus();
          void moveWeights();
        }}
      >
        Move the weights
      </Button>
      <Button disabled={isSuggesting} onClick={() => void suggestAgain()}>
        Suggest again
      </Button>
      <Button kind="quiet" disabled={isSaved || isSuggesting} onClick={() => void saveWalk()}>
        Save
      </Button>
    </div>
  );
}
