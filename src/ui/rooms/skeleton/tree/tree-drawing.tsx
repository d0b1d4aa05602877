'use client';

import { type KeyboardEvent, useCallback, useEffect, useRef } from 'react';
import type { Gravity } from '@/core/contracts/finding';
import type { TreeBone } from '@/core/rooms/skeleton/tree/bones';
import type { PlacedBranch, TreeDrawing } from '@/core/rooms/skeleton/tree/layout';
import { afterPicture } from '../../../kit/after-picture';
import { BoneMark, BudMark, Missing, type TreeItem, isBud } from './bone-mark';
import { branchPath, thickness } from './marks';
import { setFold } from './tree-view';

/** Round the picture, pixels. */
const MARGIN = 14;

/** It fills its ground as far as its letters stay readable, and no farther than they need. */
const LEAST_SCALE = 0.86;
const MOST_SCALE = 1.12;

/** What is open at bones, and which of them are chosen and found. */
export interface TreeMarks {
  readonly open: ReadonlyMap<number, Gravity>;
  readonly chosen: ReadonlySet<number>;
  readonly found: ReadonlySet<number>;
}

const elementOf = (svg: SVGSVGElement | null, key: string) =>
  svg?.querySelector<SVGGElement>(`[data-key="${CSS.escape(key)}"]`);

/** Where an arrow leads: to the nearest in its direction, what lies straight ahead before what lies aside. */
function nearest(items: readonly TreeItem[], from: TreeItem, key: string): TreeItem | null {
  const [wayX, wayY] = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
    key
  ] ?? [0, 0];
  let best: TreeItem | null = null;
  let least = Infinity;
  for (const item of items) {
    const ahead = (item.x - from.x) * wayX + (item.y - from.y) * wayY;
    const aside = Math.abs((item.x - from.x) * wayY) + Math.abs((item.y - from.y) * wayX);
    const cost = ahead + 2.5 * aside;
    if (ahead > 1 && cost < least) [best, least] = [item, cost];
  }
  return best;
}

/** The tree, drawn: one stop for Tab, arrows inside it, Space folds and opens. */
export function TreeDrawn({
  drawing,
  bones,
  marks,
  choose,
}: {
  drawing: TreeDrawing;
  bones: ReadonlyMap<number, TreeBone>;
  marks: TreeMarks;
  choose: (node: number, isAdded: boolean) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const items: readonly TreeItem[] = [...drawing.bones, ...drawing.buds];
  const isChosen = (item: TreeItem) =>
    isBud(item) ? item.nodes.some((node) => marks.chosen.has(node)) : marks.chosen.has(item.node);
  const current = items.find(isChosen) ?? drawing.bones[0];
  useInSight(svg, current?.key);
  const press = useCallback(
    (item: TreeItem, isAdded: boolean) => {
      if (isBud(item)) setFold(item.foldKey, false);
      else choose(item.node, isAdded);
    },
    [choose],
  );
  const onKeyDown = useTreeKeys(svg, items, press, choose);
  const { left, right, top, bottom } = drawing.box;
  // As far to both sides, so that the trunk stands in the middle.
  const half = Math.max(-left, right) + MARGIN;
  return (
    <svg
      ref={svg}
      role="tree"
      aria-label="Tree of the bones"
      aria-multiselectable="true"
      viewBox={`${-half} ${top - MARGIN} ${2 * half} ${bottom - top + 2 * MARGIN + 8}`}
      className="mx-auto block"
      style={{ width: '100%', minWidth: 2 * half * LEAST_SCALE, maxWidth: 2 * half * MOST_SCALE }}
      onKeyDown={onKeyDown}
      tabIndex={-1}
    >
      <Branches branches={drawing.branches} count={bones.size} />
      <Missing places={drawing.missing} />
      {drawing.bones.map((placed) => {
        const bone = bones.get(placed.node);
        return (
          bone && (
            <BoneMark
              key={placed.key + placed.node}
              placed={placed}
              bone={bone}
              isChosen={marks.chosen.has(placed.node)}
              isFound={marks.found.has(placed.node)}
              gravity={marks.open.get(placed.node) ?? null}
              isStop={placed === current}
              press={press}
            />
          )
        );
      })}
      {drawing.buds.map((bud) => (
        <BudMark
          key={bud.key}
          bud={bud}
          isChosen={isChosen(bud)}
          isFound={bud.nodes.some((node) => marks.found.has(node))}
          gravity={worstOf(bud.nodes, marks.open)}
          isStop={bud === current}
          press={press}
        />
      ))}
    </svg>
  );
}

/** Arrows lead to what lies in their direction, Space folds, Enter chooses. */
function useTreeKeys(
  svg: { readonly current: SVGSVGElement | null },
  items: readonly TreeItem[],
  press: (item: TreeItem, isAdded: boolean) => void,
  choose: (node: number, isAdded: boolean) => void,
) {
  const goTo = (item: TreeItem | null, isAdded: boolean) => {
    if (!item) return;
    if (!isBud(item)) choose(item.node, isAdded);
    afterPicture(() => elementOf(svg.current, item.key)?.focus());
  };
  const act = (item: TreeItem, key: string, isAdded: boolean) => {
    if (key === ' ' && !isBud(item) && item.canFold) setFold(item.foldKey, !item.isFolded);
    else if (key === ' ' || key === 'Enter') press(item, isAdded);
    else goTo(nearest(items, item, key), isAdded);
  };
  return (event: KeyboardEvent) => {
    const item = items.find(({ key }) => key === (event.target as Element).getAttribute('data-key'));
    if (!item || !/^( |Enter|Arrow.*)$/.test(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    act(item, event.key, event.shiftKey);
  };
}

/** Brings the chosen bone into the picture where it was chosen elsewhere. */
function useInSight(svg: { readonly current: SVGSVGElement | null }, key: string | undefined): void {
  useEffect(() => {
    if (!key) return undefined;
    return afterPicture(() => {
      const element = elementOf(svg.current, key);
      const frame = svg.current?.parentElement;
      if (!element || !frame) return;
      const box = element.getBoundingClientRect();
      const seen = frame.getBoundingClientRect();
      const past = (low: number, high: number, from: number, to: number) => {
        if (low < from) return low - from - 20;
        return high > to ? high - to + 20 : 0;
      };
      frame.scrollBy(
        past(box.left, box.right, seen.left, seen.right),
        past(box.top, box.bottom, seen.top, seen.bottom),
      );
    });
  }, [svg, key]);
}

function Branches({ branches, count }: { branches: readonly PlacedBranch[]; count: number }) {
  return (
    <g aria-hidden="true" fill="none" stroke="var(--bark)" strokeLinecap="round">
      {branches.map((branch) => (
        <path
          key={`${branch.kind} ${branch.key}`}
          d={branchPath(branch)}
          strokeWidth={branch.kind === 'missing' ? 1.2 : thickness(branch.size, count)}
          stroke={branch.kind === 'astray' ? 'var(--stops)' : undefined}
          strokeDasharray={branch.kind === 'missing' || branch.kind === 'astray' ? '3 4' : undefined}
        />
      ))}
    </g>
  );
}

function worstOf(nodes: readonly number[], open: ReadonlyMap<number, Gravity>): Gravity | null {
  const all = nodes.map((node) => open.get(node));
  return (['stops', 'worth', 'note'] as const).find((gravity) => all.includes(gravity)) ?? null;
}
