'use client';

import { isTried } from '../state/document';
import clsx from 'clsx';
import type { Character } from '@/core/character/model';
import { type Finding, GRAVITIES, GRAVITY_WORDS, type Gravity } from '@/core/contracts/finding';
import { Mark } from '../kit/gravity';
import { type RovingItem, useRoving } from '../kit/roving';
import type { Room } from '../parts/room';
import { ROOM_LIST } from '../rooms/list';
import { goToRoom } from '../state/choose';
import { useDesk } from '../state/store';

/** Where buds sit on the drawn branch, pixels from its left; the branch sways. */
const SWAY = [34, 40, 34, 37, 40, 35, 33];

/** The part of the branch's height that buds sit along. */
const FIRST = 0.09;
const LAST = 0.87;

const TONES: Readonly<Record<Gravity, string>> = {
  stops: 'text-stops',
  worth: 'text-worth',
  note: 'text-note',
};

interface Open {
  /** The worst that is open in a room, and how much of it; null where nothing is. */
  readonly worst: { readonly gravity: Gravity; readonly count: number } | null;
  readonly isClean: boolean;
}

/** What is open in a room. One without checks, or with nothing to examine, is never clean. */
function openIn(
  room: Room,
  findings: readonly Finding[] | null,
  character: Character | null,
  wasMoved: boolean,
): Open {
  const mine = findings?.filter((finding) => finding.room === room.id) ?? [];
  const gravity = GRAVITIES.find((gravity) => mine.some((finding) => finding.gravity === gravity));
  const worst = gravity
    ? { gravity, count: mine.filter((finding) => finding.gravity === gravity).length }
    : null;
  const isExamined =
    !room.isUnaudited && (wasMoved || !room.isInMotion) && character !== null && !room.idle?.(character);
  return { worst, isClean: isExamined && findings !== null && mine.length === 0 };
}

/** The rooms as buds along a branch, in the order of the work; each with what is still open in it. */
export function Bough() {
  const current = useDesk((state) => state.room);
  const findings = useDesk((state) => state.findings);
  const character = useDesk((state) => state.character);
  const wasMoved = useDesk(isTried);
  const at = ROOM_LIST.findIndex((room) => room.id === current);
  const roving = useRoving(ROOM_LIST.length, at, (i) => goToRoom(ROOM_LIST[i].id));
  return (
    <nav
      aria-label="Rooms"
      className="relative w-[160px] shrink-0 border-r border-rule bg-sheet max-[1000px]:flex max-[1000px]:w-full max-[1000px]:flex-wrap max-[1000px]:border-b max-[1000px]:border-r-0"
      {...roving.list}
    >
      <Branch />
      {ROOM_LIST.map((room, i) => (
        <Bud
          key={room.id}
          room={room}
          index={i}
          isCurrent={i === at}
          open={openIn(room, findings, character, wasMoved)}
          roving={roving.item(i)}
        />
      ))}
    </nav>
  );
}

function Branch() {
  return (
    <svg
      className="absolute inset-0 h-full w-full max-[1000px]:hidden"
      viewBox="0 0 160 748"
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <path
        d="M30 24C36 90 24 150 24 220C24 300 37 330 32 420C28 500 22 560 30 640C33 680 28 720 30 748"
        fill="none"
        stroke="var(--bark)"
        strokeWidth="4"
        strokeLinecap="round"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

function stateText({ worst, isClean }: Open): string {
  if (worst) return `, ${worst.count} ${GRAVITY_WORDS[worst.gravity]}`;
  return isClean ? ', clean' : '';
}

function Bud({
  room,
  index,
  isCurrent,
  open,
  roving,
}: {
  room: Room;
  index: number;
  isCurrent: boolean;
  open: Open;
  roving: RovingItem;
}) {
  const x = SWAY[index % SWAY.length];
  const share = FIRST + ((LAST - FIRST) * index) / Math.max(1, ROOM_LIST.length - 1);
  return (
    <button
      type="button"
      onClick={() => goToRoom(room.id)}
      {...roving}
      aria-current={isCurrent ? 'page' : undefined}
      title={`${room.hint} (${index + 1})`}
      aria-label={`${room.title}${stateText(open)}`}
      className="group absolute left-0 flex h-10 w-full -translate-y-1/2 items-center pr-3 text-left max-[1000px]:static max-[1000px]:w-auto max-[1000px]:translate-y-0 max-[1000px]:gap-1.5"
      style={{ top: `${share * 100}%` }}
    >
      <svg width="50" height="34" viewBox="0 0 50 34" className="shrink-0" aria-hidden="true">
        {isCurrent ? <Leaf x={x} /> : <Closed x={x} isClean={open.isClean} />}
      </svg>
      <span className={clsx('flex-1 text-[13.5px] font-semibold', isCurrent ? 'text-damson' : 'text-ink')}>
        {room.title}
      </span>
      {open.worst && (
        <span className={`flex items-center gap-1 text-[13px] font-semibold ${TONES[open.worst.gravity]}`}>
          <Mark gravity={open.worst.gravity} size={10} />
          {open.worst.count}
        </span>
      )}
      {open.isClean && (
        <span className="text-fine" aria-hidden="true">
          ✓
        </span>
      )}
    </button>
  );
}

function Leaf({ x }: { x: number }) {
  return (
    <>
      <path
        d={`M${x - 7} 25C${x - 6} 12 ${x + 3} 5 ${x + 13} 4C${x + 13} 16 ${x + 6} 25 ${x - 7} 25Z`}
        fill="var(--leaf)"
        stroke="var(--ink)"
        strokeWidth="1"
      />
      <path d={`M${x - 6} 24L${x + 8} 9`} stroke="var(--sheet)" strokeWidth="1" fill="none" />
    </>
  );
}

function Closed({ x, isClean }: { x: number; isClean: boolean }) {
  return (
    <ellipse
      cx={x}
      cy="17"
      rx="5"
      ry="8"
      transform={`rotate(22 ${x} 17)`}
      fill={isClean ? 'var(--bud)' : 'var(--sheet)'}
      stroke="var(--bark)"
      strokeWidth="1.4"
      className="transition-transform group-hover:scale-110"
    />
  );
}
