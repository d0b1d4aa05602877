'use client';

import clsx from 'clsx';
import { useMemo, useState } from 'react';
import { type TrialLimits, USUAL_LIMITS } from '@/core/contracts/trials';
import { type LengthUnit, lengthText } from '@/core/contracts/units';
import type { MotionFigures } from '@/core/rooms/trials/rows';
import { Chip } from '../../kit/button';
import { percentText } from '../../kit/format';
import { MiddleCut } from '../../kit/middle-cut';
import { useRoving } from '../../kit/roving';
import { isTried } from '../../state/document';
import { useDesk } from '../../state/store';
import { type TriedJoint, triedJoints } from './joints';
import { lookAtMotion } from './look';

/** A figure that the cells show. */
interface FigureColumn {
  readonly id: string;
  readonly title: string;
  /** The figure in words; a dash where it cannot be told. */
  readonly tell: (row: MotionFigures, unit: LengthUnit) => string;
  /** 0 where nothing happens, 1 at the limit of the brief. */
  readonly shareOfLimit: (row: MotionFigures, limits: TrialLimits) => number;
}

const ratio = (value: number, limit: number): number =>
  limit > 0 ? value / limit : Math.min(value * 1e6, 2);

const FIGURES: readonly FigureColumn[] = [
  {
    id: 'volume',
    title: 'Volume',
    tell: ({ volume }) => percentText(volume),
    shareOfLimit: ({ volume }, limits) => (volume === null ? 0 : ratio(1 - volume, 1 - limits.volume)),
  },
  {
    id: 'stretch',
    title: 'Stretch',
    tell: ({ stretch }) => `${stretch.toFixed(1)} ×`,
    shareOfLimit: ({ stretch }, limits) => ratio(stretch - 1, limits.stretch - 1),
  },
  {
    id: 'inverted',
    title: 'Turned inside out',
    tell: ({ inverted }) => `${(inverted * 100).toFixed(1)} %`,
    shareOfLimit: ({ inverted }, limits) => ratio(inverted, limits.inverted),
  },
  {
    id: 'torn',
    title: 'Flies off',
    tell: ({ torn }) => `${torn.toFixed(2)} ×`,
    shareOfLimit: ({ torn }, limits) => ratio(torn, limits.torn),
  },
  {
    id: 'through',
    title: 'Goes through',
    tell: ({ through, throughShare }, unit) => (throughShare > 0 ? lengthText(through, unit) : '—'),
    shareOfLimit: ({ throughShare }, limits) => ratio(throughShare, limits.through),
  },
];

interface JointLine extends TriedJoint {
  /** The place of its first cell among all cells. */
  readonly first: number;
}

function linesOf(rows: readonly MotionFigures[], badness: (row: MotionFigures) => number): JointLine[] {
  let first = 0;
  return triedJoints(rows, badness).map((joint) => {
    const line = { ...joint, first };
    first += joint.motions.length;
    return line;
  });
}

/** Every joint with all of its motions, each in the chosen figure: how near it comes to the limit of the brief. */
export function MotionsTable() {
  const rows = useDesk((state) => (isTried(state) ? (state.tried?.rows ?? null) : null));
  const limits = useDesk((state) => state.brief.trials) ?? USUAL_LIMITS;
  const [id, setId] = useState('volume');
  const figure = FIGURES.find((one) => one.id === id) ?? FIGURES[0];
  const lines = useMemo(
    () => linesOf(rows ?? [], (row) => figure.shareOfLimit(row, limits)),
    [rows, figure, limits],
  );
  if (!rows)
    return (
      <p className="px-4 pb-3 text-[13px] text-soft">
        The motions stand here as soon as every joint was turned; Trials does that when it is entered.
      </p>
    );
  if (rows.length === 0)
    return (
      <p className="px-4 pb-3 text-[13px] text-soft">Nothing bends here, so there is nothing to tell.</p>
    );
  return (
    <div className="px-4 pb-2">
      <div role="group" aria-label="Figure in the cells" className="flex flex-wrap items-center gap-1 pb-1.5">
        {FIGURES.map((one) => (
          <Chip key={one.id} on={one.id === figure.id} onClick={() => setId(one.id)}>
            {one.title}
          </Chip>
        ))}
        <span className="flex-1" />
        <span className="text-[12.5px] text-soft">
          {lines.length} joints · {rows.length} motions · press one to stand in it
        </span>
      </div>
      <Lines lines={lines} figure={figure} limits={limits} />
    </div>
  );
}

function Lines({
  lines,
  figure,
  limits,
}: {
  lines: readonly JointLine[];
  figure: FigureColumn;
  limits: TrialLimits;
}) {
  const [at, setAt] = useState(-1);
  const cells = useMemo(() => lines.flatMap(({ motions }) => motions), [lines]);
  const stand = (index: number) => {
    setAt(index);
    lookAtMotion(cells[index]);
  };
  const roving = useRoving(cells.length, Math.min(at, cells.length - 1), stand, undefined, true);
  return (
    <div
      role="group"
      aria-label="Motions of the joints"
      className="max-h-[190px] overflow-y-auto"
      {...roving.list}
    >
      {lines.map(({ node, name, motions, first }) => (
        <div key={node} className="flex items-start gap-2 border-t border-rule/60 py-1">
          <span className="mono w-[136px] shrink-0 pt-1 text-[12px]">
            <MiddleCut text={name} />
          </span>
          <div className="flex min-w-0 flex-1 flex-wrap gap-1">
            {motions.map((row, i) => (
              <MotionCell
                key={row.motion}
                row={row}
                figure={figure}
                limits={limits}
                isChosen={first + i === at}
                item={roving.item(first + i)}
                onPress={() => stand(first + i)}
              />
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}

/** From here on it is near its limit. */
const NEAR = 0.75;
/** From here on something is seen. */
const SEEN = 0.4;

/** How a cell looks that has come so far towards its limit. */
function lookOf(share: number): string {
  if (share > 1) return 'border-stops bg-stops text-paper font-semibold';
  if (share > NEAR) return 'border-worth bg-wash text-worth font-semibold';
  return share > SEEN ? 'border-rule bg-wash text-ink' : 'border-rule bg-sheet text-soft';
}

function MotionCell({
  row,
  figure,
  limits,
  isChosen,
  item,
  onPress,
}: {
  row: MotionFigures;
  figure: FigureColumn;
  limits: TrialLimits;
  isChosen: boolean;
  item: ReturnType<ReturnType<typeof useRoving>['item']>;
  onPress: () => void;
}) {
  const unit = useDesk((state) => state.brief.unit);
  const share = figure.shareOfLimit(row, limits);
  return (
    <button
      type="button"
      {...item}
      onClick={onPress}
      aria-pressed={isChosen}
      aria-label={`${row.bone}, ${row.words}: ${figure.title.toLowerCase()} ${figure.tell(row, unit)}${share > 1 ? ', beyond the brief' : ''}`}
      className={clsx(
        'flex items-center gap-1.5 rounded-[5px] border px-1.5 py-0.5 text-[12px]',
        lookOf(share),
        isChosen && 'outline outline-2 outline-damson',
      )}
    >
      <span>{row.motion}</span>
      <span className="mono">{figure.tell(row, unit)}</span>
    </button>
  );
}
