'use client';

import { isTried } from '../state/document';
import { memo, useDeferredValue, useEffect, useMemo, useRef } from 'react';
import { type Finding, countGravity } from '@/core/contracts/finding';
import { Chip } from '../kit/button';
import { UnderWay } from '../kit/progress';
import { SidePanel } from '../kit/side-panel';
import { NotAsked } from '../parts/body-kind';
import { ChosenFinding, FindingList } from '../parts/findings';
import type { Room } from '../parts/room';
import { ByHandPage } from './by-hand';
import { WaivedList } from '../parts/waive';
import { BY_HAND } from '../state/selection';
import { type DeskState, setDesk, useDesk } from '../state/store';

/**
 * The room's findings, and the one that is chosen with its evidence and remedies; or another of the room's
 * pages.
 */
export const Notebook = memo(function Notebook({ room }: { room: Room }) {
  const findings = useDesk((state) => state.findings);
  const wanted = useDesk((state) => state.page);
  const mine = useMemo(() => findings?.filter((finding) => finding.room === room.id) ?? [], [findings, room]);
  const page = room.pages?.find((candidate) => candidate.id === wanted);
  const isByHand = wanted === BY_HAND;
  const isKnown = useIsKnown(room);
  return (
    <SidePanel label="Notebook">
      <div className="flex items-baseline justify-between gap-3 px-[18px] pb-1.5 pt-4">
        <h2 className="title text-[22px]">{room.title}</h2>
        <p className="text-[13px] text-soft">{stateText(room, findings, mine, isKnown)}</p>
      </div>
      <PageChips room={room} current={isByHand ? BY_HAND : (page?.id ?? 'findings')} />
      <Auditing />
      {isByHand && <ByHandPage room={room} />}
      {!isByHand && (page ? <page.Page /> : <FindingsPage room={room} findings={findings} mine={mine} />)}
    </SidePanel>
  );
});

/** Whether the room has been examined: of what was not, nothing is said. */
function useIsKnown(room: Room): boolean {
  const isIdle = useDesk((state) => state.character !== null && !!room.idle?.(state.character));
  const isMoved = useDesk((state) => !room.isInMotion || (isTried(state) && state.brief.trials !== null));
  return !room.isUnaudited && !isIdle && isMoved;
}

function stateText(
  room: Room,
  findings: readonly Finding[] | null,
  mine: readonly Finding[],
  isKnown: boolean,
): string {
  if (findings === null) return 'auditing …';
  // Of what was not examined nothing is said.
  if (mine.length === 0) return isKnown ? 'nothing open' : '';
  const { stops, worth, note } = countGravity(mine);
  return [
    stops > 0 && `${stops} stop`,
    worth > 0 && `${worth} worth fixing`,
    note > 0 && `${note} for your eyes`,
  ]
    .filter(Boolean)
    .join(' · ');
}

function PageChips({ room, current }: { room: Room; current: string }) {
  const chip = (id: string, title: string) => (
    <Chip key={id} on={current === id} onClick={() => setDesk({ page: id })}>
      {title}
    </Chip>
  );
  return (
    <div
      role="group"
      aria-label="Pages of the notebook"
      className="flex flex-wrap gap-1 border-b border-rule px-[18px] pb-2.5 pt-1"
    >
      {chip('findings', 'Findings')}
      {chip(BY_HAND, 'By hand')}
      {room.pages?.map((page) => chip(page.id, page.title))}
    </div>
  );
}

/** How far an audit has come, where one has to be made. */
function Auditing() {
  const auditing = useDesk((state) => state.auditing);
  if (!auditing) return null;
  return (
    <UnderWay
      stage={auditing.stage}
      share={auditing.share}
      label="Audited so far"
      onCancel={() => auditing.cancel.abort()}
      className="px-[18px] pb-2.5 pt-1"
    />
  );
}

function FindingsPage({
  room,
  findings,
  mine,
}: {
  room: Room;
  findings: readonly Finding[] | null;
  mine: readonly Finding[];
}) {
  // The row is lit at once; the finding's leaf is written in pieces while the page stays at hand. Until it is
  // there nobody can press what the leaf before offers.
  const wanted = useDesk((state) => state.chosen);
  const chosen = useDeferredValue(wanted);
  const revision = useDesk((state) => state.revision);
  const waived = useDesk((state) => state.waived);
  const open = mine.find((finding) => finding.key === chosen);
  const finding =
    open ??
    waived.find((finding) => finding.finding.key === chosen && finding.finding.room === room.id)?.finding;
  const isNothingOpen = findings !== null && mine.length === 0;
  // On another revision the same finding may speak of a node that counts otherwise: its remedies begin anew.
  const leaf = finding && (
    <div inert={wanted !== chosen}>
      <ChosenFinding key={`${finding.key} on ${revision}`} finding={finding} forms={room.forms} />
    </div>
  );
  return (
    <>
      {isNothingOpen ? (
        <NothingOpen room={room} />
      ) : (
        <FindingList findings={mine}>{open && leaf}</FindingList>
      )}
      <NotAsked room={room.id} />
      <WaivedList room={room.id} />
      {!open && leaf}
    </>
  );
}

/** Where nothing is open; the focus comes here when the last finding was mended. */
function NothingOpen({ room }: { room: Room }) {
  const words = useRef<HTMLParagraphElement>(null);
  const wantsFocus = useDesk((state) => state.wantsFocus);
  const idle = useDesk((state) => (state.character ? room.idle?.(state.character) : null));
  const isKnown = useIsKnown(room);
  const unmoved = useDesk((state) => (room.isInMotion ? whyNotMoved(state) : null));
  useEffect(() => {
    if (!wantsFocus) return;
    words.current?.focus();
    setDesk({ wantsFocus: false });
  }, [wantsFocus]);
  return (
    <p ref={words} tabIndex={-1} className="px-[18px] py-3 text-soft outline-none">
      {isKnown && <span className="text-fine">✓ </span>}
      {idle ?? unmoved ?? room.empty}
    </p>
  );
}

/** Why nothing is known of a figure in motion, as a sentence; null where it is. */
function whyNotMoved(state: DeskState): string | null {
  if (state.brief.trials === null)
    return 'The brief asks nothing of a figure in motion. Joints has the figures all the same; a limit stands in the brief, under In motion.';
  return isTried(state) ? null : 'What shows in motion stands here as soon as every joint was turned.';
}
