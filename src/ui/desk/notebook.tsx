'use client';

import clsx from 'clsx';
import { useState } from 'react';
import { countGravity } from '@/core/contracts/finding';
import { type Finding } from '@/core/contracts/finding';
import { Button, Chip } from '../kit/button';
import { figure, oneLine, sentence, withUnit } from '../kit/format';
import { Mark } from '../kit/gravity';
import { ROOM_TITLES } from './bough';
import { RenameForm } from './rename-form';
import { MeasuresPage } from '../stations/placement/measures-page';
import { ScenePage } from '../stations/placement/scene-page';
import { RemedyBox } from './remedy-box';
import { chooseFinding, useDesk } from './store';

const EMPTY: Record<string, string> = {
  placement: 'Size, place, stance and binds are as the brief wants them. The next room is Skeleton.',
  skeleton: 'Tree and names are as the brief wants them. The next room is Surface.',
  surface: 'Polygons and points are as the brief wants them. The next room is Weights.',
  weights: 'Every point is carried as the brief wants it. Next, move it to the game’s skeleton in Crosswalk.',
  trials:
    'Play the clips below the figure, or choose a bone and turn it. The proof of a move to another skeleton stands in Crosswalk.',
};

/** The room's findings, and the one that is chosen with its evidence and remedies. */
export function Notebook() {
  const { findings, room, chosen, page: open, auditing, sheet } = useDesk();
  // On another revision the same finding may speak of a node that counts otherwise: its remedies begin anew.
  const head = sheet?.head;
  const page = room === 'placement' ? open : 'findings';
  const mine = findings?.filter((f) => f.room === room) ?? [];
  const counts = countGravity(mine);
  const finding = mine.find((f) => f.key === chosen) ?? null;
  return (
    <aside
      aria-label="Notebook"
      className="scroll flex w-[384px] shrink-0 flex-col overflow-y-auto border-l border-rule bg-sheet"
    >
      <div className="flex items-baseline justify-between gap-3 px-[18px] pb-1.5 pt-4">
        <h2 className="title text-[22px]">{ROOM_TITLES[room]}</h2>
        <p className="text-[13px] text-soft">
          {findings === null
            ? 'auditing …'
            : mine.length === 0
              ? 'nothing open'
              : [
                  counts.stops && `${counts.stops} stop`,
                  counts.worth && `${counts.worth} worth fixing`,
                  counts.note && `${counts.note} for your eyes`,
                ]
                  .filter(Boolean)
                  .join(' · ')}
        </p>
      </div>
      {room === 'placement' && (
        <div
          role="group"
          aria-label="Pages of the notebook"
          className="flex gap-1 border-b border-rule px-[18px] pb-2.5 pt-1"
        >
          {(
            [
              ['findings', 'Findings'],
              ['measures', 'Measures'],
              ['scene', 'Scene'],
            ] as const
          ).map(([p, word]) => (
            <Chip key={p} on={page === p} onClick={() => useDesk.setState({ page: p })}>
              {word}
            </Chip>
          ))}
        </div>
      )}
      {auditing && (
        <div className="flex items-center gap-3 px-[18px] pb-2.5 pt-1">
          <div className="min-w-0 flex-1">
            <p className="truncate text-[13px] text-soft">{auditing.stage}</p>
            <div
              role="progressbar"
              aria-label="Audited so far"
              aria-valuenow={Math.round(auditing.share * 100)}
              className="mt-1 h-1 overflow-hidden rounded bg-wash"
            >
              <div className="h-full bg-leaf" style={{ width: `${auditing.share * 100}%` }} />
            </div>
          </div>
          <Button small onClick={() => auditing.cancel.abort()}>
            Cancel
          </Button>
        </div>
      )}
      {page === 'measures' && <MeasuresPage />}
      {page === 'scene' && <ScenePage />}
      {page === 'findings' && findings !== null && mine.length === 0 && (
        <p className="px-[18px] py-3 text-soft">
          <span className="text-fine">✓</span> {EMPTY[room]}
        </p>
      )}
      {page === 'findings' && (
        <ul>
          {mine.map((f) => (
            <li key={f.key}>
              <button
                type="button"
                onClick={() => chooseFinding(f.key)}
                aria-pressed={f.key === chosen}
                className={clsx(
                  'flex w-full gap-3 border-b border-rule px-[18px] py-2 text-left transition-colors',
                  f.key === chosen ? 'bg-damson-wash shadow-[inset_3px_0_0_var(--damson)]' : 'hover:bg-wash',
                )}
              >
                <span className="pt-1">
                  <Mark gravity={f.gravity} />
                </span>
                <span className="min-w-0 flex-1">
                  <span
                    className={clsx(
                      'block leading-snug',
                      f.key === chosen ? 'font-semibold' : 'line-clamp-2',
                    )}
                    title={f.message}
                  >
                    {sentence(f.message)}
                  </span>
                  {f.subject.kind !== 'character' && !f.message.includes(f.subject.name) && (
                    <span className="block truncate text-[13px] text-soft">{f.subject.name}</span>
                  )}
                </span>
                <span className="mono shrink-0 pt-0.5">
                  {f.count > 1
                    ? `${figure(f.count)} ${countWord(f)}`
                    : withUnit(f.measured, f.unit === 'x' ? '×' : f.unit).slice(0, 16)}
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {page === 'findings' && finding && <Chosen key={`${finding.key} on ${head}`} finding={finding} />}
    </aside>
  );
}

function countWord(f: Finding): string {
  const kind = f.elements[0]?.kind;
  if (kind === 'vertex') return 'pts';
  if (kind === 'polygon') return 'faces';
  if (kind === 'bone') return 'bones';
  if (kind === 'node') return 'nodes';
  return '';
}

function Chosen({ finding }: { finding: Finding }) {
  const { brief } = useDesk();
  const [active, setActive] = useState(0);
  return (
    <section aria-label="The chosen finding" className="px-[18px] pb-8 pt-3.5">
      <h3 className="title text-[18px] leading-snug">{sentence(finding.message)}</h3>
      <p className="mt-1.5 text-[13.5px] text-soft">{finding.why}</p>
      {finding.evidence.length > 0 && (
        <table className="mt-3 w-full text-[13.5px]">
          <thead>
            <tr className="text-right text-[12.5px] text-soft">
              <th scope="col" colSpan={2}>
                <span className="sr-only">What</span>
              </th>
              <th scope="col" className="pb-1 pl-2 font-normal">
                now
              </th>
              <th scope="col" className="pb-1 pl-2 font-normal">
                brief
              </th>
            </tr>
          </thead>
          <tbody>
            {finding.evidence.map((e) => (
              <tr key={e.label} className="border-t border-rule">
                <td className="py-1.5 pr-2" colSpan={2}>
                  {e.label}
                </td>
                <td
                  className={clsx(
                    'mono py-1.5 pl-3.5 text-right',
                    oneLine(e.now),
                    finding.check !== 'units' &&
                      e.brief !== '—' &&
                      e.now !== e.brief &&
                      { stops: 'text-stops', worth: 'text-worth', note: '' }[finding.gravity],
                  )}
                >
                  {withUnit(e.now, e.unit)}
                </td>
                <td className={clsx('mono py-1.5 pl-3.5 text-right', oneLine(e.brief))}>
                  {withUnit(e.brief, typeof e.brief === 'string' ? '' : e.unit)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {finding.remedies.map((call, i) =>
        call.id === 'rename' ? (
          <RenameForm key={i} call={call} />
        ) : (
          <RemedyBox key={i} call={call} brief={brief} active={i === active} onActive={() => setActive(i)} />
        ),
      )}
      {finding.remedies.length === 0 && (
        <p className="mt-3 rounded-lg border border-rule px-3 py-2 text-[13px] text-soft">
          {ADVICE[finding.check] ??
            'This one is mended where it was made: note it for the supplier; the report names it.'}
        </p>
      )}
    </section>
  );
}

const ADVICE: Record<string, string> = {
  apart:
    'Where the skeleton has another size, bring it to the body’s first; a single joint that lies outside is moved in Skeleton.',
  'bone-budget':
    'Moving to the game’s skeleton in Crosswalk leaves out every bone that carries nothing; each skin then lists only the bones it needs.',
  'idle-bones': 'Nothing to do if you know why. Crosswalk releases bones that carry nothing.',
  parents: 'Moving to a skeleton that has the order, in Crosswalk, hangs every joint where it belongs.',
  quads: 'Polygons are mended where they were modelled; note it for the supplier. The report names them.',
};
