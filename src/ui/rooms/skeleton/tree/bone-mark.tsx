'use client';

import clsx from 'clsx';
import { memo } from 'react';
import { GRAVITY_WORDS, type Gravity } from '@/core/contracts/finding';
import { BONE_KIND_WORDS } from '@/core/character/bone-kinds';
import type { TreeBone } from '@/core/rooms/skeleton/tree/bones';
import {
  type EmptyPlace,
  type PlacedBone,
  type PlacedBud,
  labelBox,
} from '@/core/rooms/skeleton/tree/layout';
import { OpenMark, SIDE_COLOURS, budPath, leafPath } from './marks';
import { setFold } from './tree-view';

export type TreeItem = PlacedBone | PlacedBud;

export const isBud = (item: TreeItem): item is PlacedBud => 'nodes' in item;

const Label = ({
  text,
  x,
  y,
  className,
  isBold = false,
}: {
  text: string;
  x: number;
  y: number;
  className: string;
  isBold?: boolean;
}) => (
  <text
    x={x}
    y={y}
    textAnchor="middle"
    dominantBaseline="central"
    className={clsx('pointer-events-none', className)}
    style={{ fontFamily: 'var(--font-mono)', fontSize: 10, fontWeight: isBold ? 700 : 450 }}
  >
    {text}
  </text>
);

const LABEL_SIDE = { 1: 'left', [-1]: 'right', 0: 'middle' } as const;

/** Where bones are missing that the other side has. */
export const Missing = ({ places }: { places: readonly EmptyPlace[] }) => (
  <g aria-hidden="true">
    {places.map((place) => {
      const { key, x, y, label } = place;
      const [left, top, right, bottom] = labelBox(place);
      return (
        <g key={key}>
          <path
            d={leafPath(Math.sign(x))}
            transform={`translate(${x} ${y})`}
            fill="none"
            stroke="var(--stops)"
            strokeDasharray="2 2"
          />
          <Label text={label} x={(left + right) / 2} y={(top + bottom) / 2} className="fill-stops" />
        </g>
      );
    })}
  </g>
);

interface MarkProps {
  readonly isChosen: boolean;
  readonly isFound: boolean;
  readonly gravity: Gravity | null;
  readonly isStop: boolean;
  readonly press: (item: TreeItem, isAdded: boolean) => void;
}

/** What stands behind a name that is chosen, or looked for. */
function Behind({ placed, isChosen, isFound }: { placed: TreeItem; isChosen: boolean; isFound: boolean }) {
  const [left, top, right, bottom] = labelBox(placed);
  if (!isChosen && !isFound) return null;
  return (
    <rect
      x={left - 3}
      y={top - 2}
      width={right - left + 6}
      height={bottom - top + 4}
      rx={4}
      fill={isChosen ? 'var(--damson-wash)' : 'none'}
      stroke={isFound ? 'var(--damson)' : 'none'}
    />
  );
}

/** A leaf where nothing hangs on it, else a knot; filled where it carries weight. */
function Joint({
  placed: { x, y, isTip },
  carries,
  colour,
}: {
  placed: PlacedBone;
  carries: boolean;
  colour: string;
}) {
  const fill = carries ? colour : 'var(--sheet)';
  return isTip ? (
    <path
      d={leafPath(Math.sign(x))}
      transform={`translate(${x} ${y})`}
      fill={fill}
      stroke={colour}
      strokeWidth={1.3}
    />
  ) : (
    <circle cx={x} cy={y} r={3.6} fill={fill} stroke={colour} strokeWidth={1.4} />
  );
}

export const BoneMark = memo(function BoneMark({
  placed,
  bone,
  isChosen,
  isFound,
  gravity,
  isStop,
  press,
}: MarkProps & { placed: PlacedBone; bone: TreeBone }) {
  const { x, y, label, isFaint, depth } = placed;
  const [left, top, right, bottom] = labelBox(placed);
  const colour = isChosen ? 'var(--damson)' : SIDE_COLOURS[placed.side];
  const carries = bone.weight > 0;
  const words = [
    bone.name,
    ...(bone.isSideNamed ? [LABEL_SIDE[placed.side]] : []),
    BONE_KIND_WORDS[bone.kind],
    carries ? `weight ${Math.round(bone.weight)}` : 'no weight',
    ...(gravity ? [GRAVITY_WORDS[gravity]] : []),
  ];
  return (
    <g
      role="treeitem"
      data-key={placed.key}
      tabIndex={isStop ? 0 : -1}
      aria-selected={isChosen}
      aria-level={depth}
      aria-expanded={placed.canFold ? !placed.isFolded : undefined}
      aria-label={words.join(', ')}
      className="cursor-pointer outline-none [&:focus-visible>.halo]:opacity-100"
      opacity={isFaint ? 0.45 : 1}
      onClick={(event) => press(placed, event.shiftKey || event.ctrlKey || event.metaKey)}
      onDoubleClick={() => placed.canFold && setFold(placed.foldKey, !placed.isFolded)}
    >
      <title>{`${bone.name}: ${BONE_KIND_WORDS[bone.kind]}, ${bone.why}`}</title>
      <Behind placed={placed} isChosen={isChosen} isFound={isFound} />
      <circle
        className="halo opacity-0"
        cx={x}
        cy={y}
        r={8}
        fill="none"
        stroke="var(--damson)"
        strokeWidth={2}
      />
      {/* What can be pressed is larger than what is drawn. */}
      <rect
        x={Math.min(left, x - 8)}
        y={Math.min(top, y - 8)}
        width={Math.max(right, x + 8) - Math.min(left, x - 8)}
        height={Math.max(bottom, y + 8) - Math.min(top, y - 8)}
        fill="transparent"
      />
      <Joint placed={placed} carries={carries} colour={colour} />
      <Label
        text={label}
        x={(left + right) / 2}
        y={(top + bottom) / 2}
        className={isChosen ? 'fill-damson' : 'fill-ink'}
        isBold={isChosen}
      />
      {gravity && (
        <OpenMark gravity={gravity} x={x + (x < 0 ? 9 : -9)} y={y + (placed.labelAt === 'above' ? 7 : -7)} />
      )}
    </g>
  );
});

export const BudMark = memo(function BudMark({
  bud,
  isChosen,
  isFound,
  gravity,
  isStop,
  press,
}: MarkProps & { bud: PlacedBud }) {
  const { x, y, nodes } = bud;
  const way = x < 0 ? -1 : 1;
  const [left, , right] = labelBox(bud);
  const words = [
    `${nodes.length} folded${bud.label.includes('·') ? `: ${bud.label.split(' · ')[0]}` : ''}`,
    ...(bud.side === 0 ? [] : [LABEL_SIDE[bud.side]]),
    ...(gravity ? [GRAVITY_WORDS[gravity]] : []),
  ];
  return (
    <g
      role="treeitem"
      data-key={bud.key}
      tabIndex={isStop ? 0 : -1}
      aria-selected={isChosen}
      aria-expanded={false}
      aria-label={words.join(', ')}
      className="cursor-pointer outline-none [&:focus-visible>.halo]:opacity-100"
      onClick={() => press(bud, false)}
    >
      <title>{`Show these ${nodes.length} bones`}</title>
      <circle
        className="halo opacity-0"
        cx={x + way * 6}
        cy={y}
        r={10}
        fill="none"
        stroke="var(--damson)"
        strokeWidth={2}
      />
      <rect x={Math.min(left, x - 4)} y={y - 10} width={right - left + 26} height={20} fill="transparent" />
      <path
        d={budPath(way)}
        transform={`translate(${x} ${y})`}
        fill={isChosen || isFound ? 'var(--damson-wash)' : 'var(--sheet)'}
        stroke={isChosen || isFound ? 'var(--damson)' : 'var(--bark)'}
        strokeWidth={1.6}
      />
      <Label
        text={bud.label}
        x={(left + right) / 2 + way * 9}
        y={y}
        className={isChosen ? 'fill-damson' : 'fill-soft'}
        isBold={isChosen}
      />
      {gravity && <OpenMark gravity={gravity} x={x + way * 6} y={y - 11} />}
    </g>
  );
});
