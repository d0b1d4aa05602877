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
import { BONE_KIND_WORDS, type BoneKind } from '@/core/character/bone-kinds';
import { lengthText } from '@/core/contracts/units';
import { distance } from '@/core/geometry/matrix';
import { nameFinder } from '@/core/rooms/skeleton/choosing';
import { afterPicture } from '../kit/after-picture';
import { numberText } from '../kit/format';
import { FindField } from '../kit/find-field';
import { MiddleCut } from '../kit/middle-cut';
import { type RovingItem, useRoving } from '../kit/roving';
import { SortHead } from '../kit/sort-head';
import type { Figure } from '../worker/figure';
import { chooseBone } from '../state/choose';
import { useDesk } from '../state/store';

interface BoneRow {
  readonly node: number;
  readonly name: string;
  readonly parent: string;
  readonly kind: BoneKind;
  /** From its joint to where it points, metres. */
  readonly length: number;
  readonly weight: number;
  readonly side: 'left' | 'right' | 'middle';
}

const ROW = 26;
const COLUMNS = 'grid grid-cols-[1.2fr_90px_1fr_64px_76px_70px] items-center gap-3';

const column = createColumnHelper<BoneRow>();

/** Unsorted they stand as the tree has them. */
const FIELDS = [
  column.accessor('name', { sortingFn: 'alphanumeric' }),
  column.accessor('kind', {}),
  column.accessor('parent', { sortingFn: 'alphanumeric' }),
  column.accessor('side', {}),
  column.accessor('length', { sortDescFirst: true }),
  column.accessor('weight', { sortDescFirst: true }),
];

const HEADS = ['Bone', 'kind', 'hangs under', 'side', 'length', 'weight'];

const NUMBERS = new Set(['length', 'weight']);

/** A mark of its own shape in the side’s colour; the word in ink, since the colour alone is too pale to be read. */
const SIDE_MARKS = { left: '′', right: '•', middle: '' } as const;

function rowsOf({ bones, tree }: Figure): BoneRow[] {
  const kinds = new Map(tree.map(({ node, kind }) => [node, kind]));
  const names = new Map(bones.map((bone) => [bone.node, bone.name]));
  return bones.map(({ node, name, parent, weight, side, from, to }) => ({
    node,
    name,
    parent: names.get(parent) ?? '',
    kind: kinds.get(node) ?? 'helper',
    length: distance(from, to),
    weight,
    side,
  }));
}

/** All bones with their parents, sides and weights: one stop for Tab, arrows inside. */
export function BonesTable() {
  const figure = useDesk((state) => state.figure);
  const bone = useDesk((state) => state.bone);
  const [find, setFind] = useState('');
  const [sorting, setSorting] = useState<SortingState>([]);
  const box = useRef<HTMLDivElement>(null);
  const all = useMemo(() => (figure ? rowsOf(figure) : []), [figure]);
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
  const roving = useRoving(rows.length, at, (i) => {
    virtual.scrollToIndex(i, { align: 'auto' });
    chooseBone(rows[i].node);
  });
  return (
    <div className="px-4 pb-2">
      <TableHead table={table} find={find} setFind={setFind} />
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
            />
          ))}
        </div>
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
}: {
  row: BoneRow;
  isChosen: boolean;
  style: CSSProperties;
  roving: RovingItem;
}) {
  const unit = useDesk((state) => state.brief.unit);
  const place = row.parent ? `under ${row.parent}` : 'a root';
  const carries = row.weight > 0 ? `weight ${Math.round(row.weight)}` : 'no weight';
  return (
    <button
      type="button"
      role="option"
      aria-selected={isChosen}
      aria-label={`${row.name}, ${BONE_KIND_WORDS[row.kind]}, ${place}, ${row.side}, ${carries}`}
      {...roving}
      onClick={() => chooseBone(row.node)}
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
      <span className="text-right">{lengthText(row.length, unit)}</span>
      <span className="text-right">{row.weight > 0 ? numberText(Math.round(row.weight)) : '—'}</span>
    </button>
  );
}
