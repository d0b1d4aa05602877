'use client';

import {
  type SortingState,
  type Table,
  createColumnHelper,
  getCoreRowModel,
  getSortedRowModel,
  useReactTable,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import clsx from 'clsx';
import { type CSSProperties, useEffect, useMemo, useRef, useState } from 'react';
import { BONE_KIND_WORDS } from '@/core/character/bone-kinds';
import { lengthText } from '@/core/contracts/units';
import type { ElementSet } from '@/core/character/model';
import { type Finding, GRAVITIES, type Gravity } from '@/core/contracts/finding';
import { type Vec3, distance, quatConjugate, quatRotate, subtract } from '@/core/geometry/matrix';
import { nameFinder } from '@/core/rooms/skeleton/choosing';
import { afterPicture } from '../kit/after-picture';
import { numberText } from '../kit/format';
import { FindField } from '../kit/find-field';
import { MiddleCut } from '../kit/middle-cut';
import { type RovingItem, useRoving } from '../kit/roving';
import { SortHead } from '../kit/sort-head';
import { Mark } from '../kit/gravity';
import type { Figure, FigureBone } from '../worker/figure';
import { chooseBone } from '../state/choose';
import { useDesk } from '../state/store';
import type { BoneRow } from './bone-row';
import { BoneRowForm } from './bone-row-form';

const NO_SETS: readonly ElementSet[] = [];
const NO_FINDINGS: readonly Finding[] = [];

const ROW = 26;
const COLUMNS =
  'grid grid-cols-[minmax(182px,1.4fr)_84px_minmax(0,1fr)_58px_minmax(0,0.7fr)_66px_58px_34px_40px] items-center gap-2.5';

const column = createColumnHelper<BoneRow>();

/** Unsorted they stand as the tree has them. */
const FIELDS = [
  column.accessor('name', { sortingFn: 'alphanumeric' }),
  column.accessor('kind', {}),
  column.accessor('parent', { sortingFn: 'alphanumeric' }),
  column.accessor('side', {}),
  column.accessor('sets', { sortingFn: 'alphanumeric' }),
  column.accessor('length', { sortDescFirst: true }),
  column.accessor('weight', { sortDescFirst: true }),
  column.accessor('axis', {}),
  column.accessor('open', { sortDescFirst: true }),
];

const HEADS = ['Bone', 'kind', 'hangs under', 'side', 'sets', 'length', 'weight', 'axis', 'open'];

const NUMBERS = new Set(['length', 'weight', 'axis', 'open']);

/** A mark of its own shape in the side’s colour; the word in ink, since the colour alone is too pale to be read. */
const SIDE_MARKS = { left: '′', right: '•', middle: '' } as const;

/** The own axis that lies nearest to where a bone points, with its direction. */
function axisOf({ from, to, rotation }: FigureBone): string {
  const way = subtract(to as Vec3, from as Vec3);
  if (Math.hypot(...way) < 1e-9) return '—';
  const own = quatRotate(quatConjugate(rotation), way);
  const k = own.reduce((best, x, i) => (Math.abs(x) > Math.abs(own[best]) ? i : best), 0);
  return `${own[k] < 0 ? '−' : '+'}${'XYZ'[k]}`;
}

/** How many findings speak of each bone, and the gravest of them. */
function openAt(findings: readonly Finding[]): Map<number, { count: number; gravity: Gravity }> {
  const out = new Map<number, { count: number; gravity: Gravity }>();
  for (const { elements, gravity } of findings)
    for (const element of elements)
      if (element.kind === 'bone')
        for (const node of element.ids) {
          const before = out.get(node);
          const graver = before && GRAVITIES.indexOf(before.gravity) <= GRAVITIES.indexOf(gravity);
          out.set(node, { count: (before?.count ?? 0) + 1, gravity: graver ? before.gravity : gravity });
        }
  return out;
}

function rowsOf(
  { bones, tree }: Figure,
  sets: readonly ElementSet[],
  findings: readonly Finding[],
): BoneRow[] {
  const open = openAt(findings);
  const setsOf = new Map<number, string[]>();
  for (const { name, bones: held } of sets)
    for (const node of held) setsOf.set(node, [...(setsOf.get(node) ?? []), name]);
  const kinds = new Map(tree.map(({ node, kind }) => [node, kind]));
  const names = new Map(bones.map((bone) => [bone.node, bone.name]));
  return bones.map((bone) => {
    const { node, name, parent, weight, side, from, to } = bone;
    return {
      node,
      name,
      parent: names.get(parent) ?? '',
      kind: kinds.get(node) ?? 'helper',
      length: distance(from, to),
      weight,
      side,
      axis: axisOf(bone),
      sets: setsOf.get(node)?.join(', ') ?? '',
      open: open.get(node)?.count ?? 0,
      gravity: open.get(node)?.gravity ?? null,
    };
  });
}

/**
 * All bones with their parents, sides, sets and weights: one stop for Tab, arrows inside. F2 or a double press edits the row
 * in place: its name, its kind, what it hangs under.
 */
export function BonesTable() {
  const figure = useDesk((state) => state.figure);
  const bone = useDesk((state) => state.bone);
  const [find, setFind] = useState('');
  const [sorting, setSorting] = useState<SortingState>([]);
  const box = useRef<HTMLDivElement>(null);
  const sets = useDesk((state) => state.character?.sets ?? NO_SETS);
  const findings = useDesk((state) => state.findings ?? NO_FINDINGS);
  const [edited, setEdited] = useState(-1);
  const all = useMemo(() => (figure ? rowsOf(figure, sets, findings) : []), [figure, sets, findings]);
  const data = useMemo(() => {
    const isFound = nameFinder(find);
    return all.filter(({ name }) => isFound(name));
  }, [all, find]);
  const table = useReactTable({
    data,
    columns: FIELDS,
    state: { sorting },
    onSortingChange: setSorting,
    getRowId: ({ node }) => String(node),
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const rows = table.getRowModel().rows.map(({ original }) => original);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const at = rows.findIndex((row) => row.node === bone);
  // Where it was chosen elsewhere the table goes there.
  useEffect(() => {
    if (at < 0) return undefined;
    return afterPicture(() => virtual.scrollToIndex(at, { align: 'auto' }));
  }, [at, virtual]);
  const roving = useRoving(
    rows.length,
    at,
    (i) => {
      virtual.scrollToIndex(i, { align: 'auto' });
      chooseBone(rows[i].node);
    },
    (event) => {
      if (event.key !== 'F2' || at < 0) return;
      event.preventDefault();
      setEdited(rows[at].node);
    },
  );
  const editedAt = edited < 0 ? -1 : rows.findIndex((row) => row.node === edited);
  const endEditing = () => {
    setEdited(-1);
    if (at >= 0) roving.focus(at);
  };
  return (
    <div className="px-4 pb-2">
      <TableHead table={table} find={find} setFind={setFind} />
      <div className="relative overflow-hidden">
        <div
          ref={box}
          className="scroll h-[176px] overflow-y-auto"
          role="listbox"
          aria-label="Bones"
          {...roving.list}
        >
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {virtual.getVirtualItems().map((item) => (
              <Row
                key={rows[item.index].node}
                row={rows[item.index]}
                isChosen={item.index === at}
                style={{ position: 'absolute', top: item.start, height: ROW, left: 0, right: 0 }}
                roving={roving.item(item.index)}
                onEdit={() => setEdited(rows[item.index].node)}
              />
            ))}
          </div>
        </div>
        {editedAt >= 0 && (
          <BoneRowForm
            key={edited}
            row={rows[editedAt]}
            bones={all}
            // Over its row and no child of the list, which holds nothing but options.
            style={{
              position: 'absolute',
              top: editedAt * ROW - (virtual.scrollOffset ?? 0),
              height: ROW,
              left: 0,
              right: 10,
            }}
            onEnd={endEditing}
          />
        )}
      </div>
    </div>
  );
}

function TableHead({
  table,
  find,
  setFind,
}: {
  table: Table<BoneRow>;
  find: string;
  setFind: (find: string) => void;
}) {
  return (
    <div className={`${COLUMNS} border-b border-rule pb-1 text-[12.5px]`}>
      {table.getAllLeafColumns().map((column, i) => (
        <span
          key={column.id}
          className={clsx('flex items-center gap-3', NUMBERS.has(column.id) && 'justify-end')}
        >
          <SortHead column={column} words={HEADS[i]} />
          {i === 0 && <FindField label="Find a bone" value={find} onChange={setFind} className="h-6 w-32" />}
        </span>
      ))}
    </div>
  );
}

function Row({
  row,
  isChosen,
  style,
  roving,
  onEdit,
}: {
  row: BoneRow;
  isChosen: boolean;
  style: CSSProperties;
  roving: RovingItem;
  onEdit: () => void;
}) {
  const unit = useDesk((state) => state.brief.unit);
  const place = row.parent ? `under ${row.parent}` : 'a root';
  const found = row.open > 0 ? `, ${row.open} open` : '';
  const carries = row.weight > 0 ? `weight ${Math.round(row.weight)}` : 'no weight';
  return (
    <button
      type="button"
      role="option"
      aria-selected={isChosen}
      aria-label={`${row.name}, ${BONE_KIND_WORDS[row.kind]}, ${place}, ${row.side}, ${carries}${found}`}
      {...roving}
      onClick={() => chooseBone(row.node)}
      onDoubleClick={onEdit}
      title="F2 or a double press edits it here"
      style={style}
      className={clsx(`mono ${COLUMNS} text-left`, isChosen ? 'bg-damson-wash' : 'hover:bg-wash')}
    >
      <MiddleCut text={row.name} />
      <span className="text-soft">{BONE_KIND_WORDS[row.kind]}</span>
      <MiddleCut text={row.parent} className="text-soft" />
      <span>
        {row.side !== 'middle' && (
          <span aria-hidden="true" className="mr-1 font-bold" style={{ color: `var(--${row.side})` }}>
            {SIDE_MARKS[row.side]}
          </span>
        )}
        {row.side}
      </span>
      <MiddleCut text={row.sets} className="text-soft" />
      <span className="text-right">{lengthText(row.length, unit)}</span>
      <span className="text-right">{row.weight > 0 ? numberText(Math.round(row.weight)) : '—'}</span>
      <span className="text-right">{row.axis}</span>
      <span className="flex items-center justify-end gap-1">
        {row.gravity && <Mark gravity={row.gravity} size={9} />}
        {row.open > 0 ? row.open : ''}
      </span>
    </button>
  );
}
