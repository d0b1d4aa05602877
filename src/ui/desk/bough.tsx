'use client';

import clsx from 'clsx';
import { GRAVITY_WORDS, type Gravity } from '@/core/contracts/finding';
import { ROOM_IDS, type RoomId } from '@/core/contracts/rooms';
import { Mark } from '../kit/gravity';
import { setRoom, useDesk } from './store';

export const ROOM_TITLES: Readonly<Record<RoomId, string>> = {
  placement: 'Placement',
  skeleton: 'Skeleton',
  surface: 'Surface',
  weights: 'Weights',
  trials: 'Trials',
  crosswalk: 'Crosswalk',
  docket: 'Docket',
};
const HINTS: Readonly<Record<RoomId, string>> = {
  placement: 'Size, ground, scale',
  skeleton: 'Tree and names of the bones',
  surface: 'Polygons and points',
  weights: 'Which bone carries which point',
  trials: 'The character in motion',
  crosswalk: 'From its skeleton to the game’s',
  docket: 'What is handed over',
};
/** Where each bud sits on the drawn branch: x in pixels, y as a share of its height. */
const BUDS = [
  [34, 0.09],
  [40, 0.22],
  [34, 0.35],
  [37, 0.48],
  [40, 0.61],
  [35, 0.74],
  [33, 0.87],
] as const;

/** The seven rooms as buds along a branch, in the order of the work; each with what is still open in it. */
export function Bough() {
  const { room, findings } = useDesk();
  return (
    <nav aria-label="Rooms" className="relative w-[160px] shrink-0 border-r border-rule bg-sheet">
      <svg
        className="absolute inset-0 h-full w-full"
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
      {ROOM_IDS.map((r, i) => {
        const open = findings?.filter((f) => f.room === r) ?? [];
        const worst = (['stops', 'worth', 'note'] as Gravity[]).find((g) =>
          open.some((f) => f.gravity === g),
        );
        const n = worst ? open.filter((f) => f.gravity === worst).length : 0;
        const on = r === room;
        const clean = findings && open.length === 0 && !['trials', 'crosswalk', 'docket'].includes(r);
        return (
          <button
            key={r}
            type="button"
            onClick={() => setRoom(r)}
            aria-current={on ? 'page' : undefined}
            title={`${HINTS[r]} (${i + 1})`}
            aria-label={`${ROOM_TITLES[r]}${worst ? `, ${n} ${GRAVITY_WORDS[worst]}` : clean ? ', clean' : ''}`}
            className="group absolute left-0 flex h-10 w-full -translate-y-1/2 items-center pr-3 text-left"
            style={{ top: `${BUDS[i][1] * 100}%` }}
          >
            <svg width="50" height="34" viewBox="0 0 50 34" className="shrink-0" aria-hidden="true">
              {on ? (
                <>
                  <path
                    d={`M${BUDS[i][0] - 7} 25C${BUDS[i][0] - 6} 12 ${BUDS[i][0] + 3} 5 ${BUDS[i][0] + 13} 4C${BUDS[i][0] + 13} 16 ${BUDS[i][0] + 6} 25 ${BUDS[i][0] - 7} 25Z`}
                    fill="var(--leaf)"
                    stroke="var(--ink)"
                    strokeWidth="1"
                  />
                  <path
                    d={`M${BUDS[i][0] - 6} 24L${BUDS[i][0] + 8} 9`}
                    stroke="var(--sheet)"
                    strokeWidth="1"
                    fill="none"
                  />
                </>
              ) : (
                <ellipse
                  cx={BUDS[i][0]}
                  cy="17"
                  rx="5"
                  ry="8"
                  transform={`rotate(22 ${BUDS[i][0]} 17)`}
                  fill={clean ? 'var(--bud)' : 'var(--sheet)'}
                  stroke="var(--bark)"
                  strokeWidth="1.4"
                  className="transition-transform group-hover:scale-110"
                />
              )}
            </svg>
            <span className={clsx('flex-1 text-[13.5px] font-semibold', on ? 'text-damson' : 'text-ink')}>
              {ROOM_TITLES[r]}
            </span>
            {worst ? (
              <span
                className={clsx(
                  'flex items-center gap-1 text-[13px] font-semibold',
                  { stops: 'text-stops', worth: 'text-worth', note: 'text-note' }[worst],
                )}
              >
                <Mark gravity={worst} size={10} />
                {n}
              </span>
            ) : clean ? (
              <span className="text-fine" aria-hidden="true">
                ✓
              </span>
            ) : null}
          </button>
        );
      })}
    </nav>
  );
}
