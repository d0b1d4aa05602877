'use client';

import clsx from 'clsx';
import { Eye, EyeOff, Focus } from 'lucide-react';
import { useState } from 'react';
import { PART_KINDS, PART_KIND_WORDS } from '@/core/character/part-kinds';
import { type LengthUnit, inUnit, lengthText, unitSign } from '@/core/contracts/units';
import type { PartFigures } from '@/core/rooms/surface/figures';
import { Button } from '../../kit/button';
import { countOf, numberText } from '../../kit/format';
import { IconButton } from '../../kit/icon-button';
import { MiddleCut } from '../../kit/middle-cut';
import { changeLook, frameChosen, isolate, openByHand } from '../../state/choose';
import { chooseParts, hideParts, isPartHidden, showAllParts } from '../../state/parts';
import { applyRemedy } from '../../state/steps';
import { useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { useFigures } from '../../parts/use-figures';

/** More are taken along by the buttons, and not listed one by one. */
const MOST_ROWS = 300;

const askParts = () => deskWorker().parts();

/** The connected pieces of all meshes: what each is, how large, what drives it; chosen, hidden, shown alone, said to be something. */
export function PartsPage() {
  const parts = useFigures(askParts);
  const [opened, setOpened] = useState<string | null>(null);
  if (!parts) return <p className="px-[18px] py-3 text-soft">looking …</p>;
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <Summary parts={parts} />
      <ul aria-label="Parts">
        {parts.slice(0, MOST_ROWS).map((part) => {
          const key = `${part.node} ${part.polygons[0]}`;
          return (
            <PartRow
              key={key}
              part={part}
              isOpen={opened === key}
              onOpen={() => {
                setOpened(opened === key ? null : key);
                chooseParts([part]);
                frameChosen();
              }}
            />
          );
        })}
      </ul>
      {parts.length > MOST_ROWS && (
        <p className="py-1 text-[12.5px] text-soft">
          and {parts.length - MOST_ROWS} more, the smallest of their meshes
        </p>
      )}
    </div>
  );
}

function Summary({ parts }: { parts: readonly PartFigures[] }) {
  const hidden = useDesk((state) => state.hiddenPolygons);
  const unknown = parts.filter(({ kind }) => kind === null).length;
  return (
    <p className="flex flex-wrap items-baseline gap-x-3 pb-1.5 text-[13px] text-soft">
      <span>
        {countOf(parts.length, 'part')}
        {unknown > 0 && `, ${unknown} of which nothing tells what they are`}
      </span>
      {hidden.size > 0 && (
        <button type="button" className="font-semibold text-leaf underline" onClick={showAllParts}>
          Show all parts
        </button>
      )}
    </p>
  );
}

function PartRow({ part, isOpen, onOpen }: { part: PartFigures; isOpen: boolean; onOpen: () => void }) {
  const isHidden = useDesk((state) => isPartHidden(state.hiddenPolygons, part));
  const isAlone = useDesk((state) => state.isolated !== null);
  const showAlone = () => {
    if (isAlone) changeLook({ isolated: null });
    else
      void isolate({
        nodes: [],
        bones: [],
        vertices: new Map(),
        polygons: new Map([[part.node, part.polygons]]),
      });
  };
  return (
    <li className={clsx('border-t border-rule', isHidden && 'opacity-60')}>
      <div className="flex items-center gap-2">
        <button
          type="button"
          aria-expanded={isOpen}
          aria-label={[part.name, kindText(part), aboutText(part)].join(', ')}
          onClick={onOpen}
          className="min-w-0 flex-1 py-1.5 text-left"
        >
          <span className="flex items-baseline gap-2">
            <MiddleCut text={part.name} className={clsx('mono min-w-0 flex-1', isOpen && 'font-semibold')} />
            <span className={clsx('shrink-0 text-[12.5px]', part.kind ? '' : 'text-soft')}>
              {kindText(part)}
            </span>
          </span>
          <span className="block text-[12px] leading-tight text-soft">{aboutText(part)}</span>
        </button>
        <IconButton label={isAlone ? 'Show all again' : `Isolate ${part.name}`} onClick={showAlone}>
          <Focus size={14} />
        </IconButton>
        <IconButton
          label={`${isHidden ? 'Show' : 'Hide'} ${part.name}`}
          aria-pressed={isHidden}
          onClick={() => void hideParts([part], !isHidden)}
        >
          {isHidden ? <EyeOff size={14} className="text-damson" /> : <Eye size={14} />}
        </IconButton>
      </div>
      {isOpen && <PartLeaf part={part} />}
    </li>
  );
}

const kindText = ({ kind }: PartFigures): string =>
  kind ? PART_KIND_WORDS[kind].replace(/,.*/, '') : 'not known';

function aboutText({ points, drivers, drivenBy, isRigid, isOneSided }: PartFigures): string {
  const [first] = drivers;
  const others = drivenBy > 1 ? ` and ${drivenBy - 1} more` : '';
  return [
    `${numberText(points)} points`,
    first ? `${first.bone}${others}` : 'not bound',
    isRigid && 'rigid',
    isOneSided && 'needs no twin',
  ]
    .filter(Boolean)
    .join(' · ');
}

function PartLeaf({ part }: { part: PartFigures }) {
  const { unit } = useDesk((state) => state.brief);
  const busy = useDesk((state) => state.busy);
  // Any polygon of it stands for the part.
  const polygons = [{ node: part.node, ids: [part.polygons[0]] }];
  const said = {
    kind: part.isSaid && part.kind ? part.kind : 'same',
    rigid: part.isSaidRigid,
    oneSided: part.isOneSided,
  };
  const isByKind = part.isRigid && !part.isSaidRigid;
  const say = (change: Partial<typeof said>) =>
    void applyRemedy('mark-parts', { polygons, ...said, ...change }, `Say what “${part.name}” is`);
  // A step in between let go of what was chosen.
  const byHand = (remedy: string) => {
    chooseParts([part]);
    openByHand(remedy);
  };
  const rows: [string, string][] = [
    ['faces', facesText(part)],
    ['surface', `${part.isClosed ? 'closed' : 'open'}, ${genusText(part)}`],
    ['size', part.size.map((x) => lengthText(x, unit)).join(' × ')],
    ['area', areaText(part.area, unit)],
    ...(part.material ? ([['material', part.material]] as [string, string][]) : []),
    ...part.drivers.map(({ bone, share }): [string, string] => [bone, `${(share * 100).toFixed(0)} %`]),
  ];
  return (
    <div className="pb-3">
      <p className="text-[12.5px] text-soft">{part.why}</p>
      <div className="mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <select
          aria-label={`Kind of ${part.name}`}
          value={said.kind}
          disabled={!!busy}
          onChange={(event) => say({ kind: event.target.value as typeof said.kind })}
          className="h-7 rounded-md border border-rule bg-sheet px-1.5 text-[12.5px]"
        >
          <option value="same">as it is read</option>
          {PART_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {PART_KIND_WORDS[kind]}
            </option>
          ))}
        </select>
        <Flag
          label={isByKind ? 'rigid, as its kind is' : 'rigid'}
          isOn={part.isRigid}
          isFixed={isByKind}
          onChange={(rigid) => say({ rigid })}
        />
        <Flag label="needs no twin" isOn={part.isOneSided} onChange={(oneSided) => say({ oneSided })} />
      </div>
      <dl className="mt-2 text-[12.5px]">
        {rows.map(([label, value], i) => (
          <div key={i} className="flex justify-between gap-4 border-b border-rule/60 py-0.5">
            <dt className="text-soft">{label}</dt>
            <dd className="mono text-right">{value}</dd>
          </div>
        ))}
      </dl>
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Button small onClick={() => byHand('separate-parts')}>
          Separate …
        </Button>
        <Button small onClick={() => byHand('remove-parts')}>
          Remove …
        </Button>
      </div>
    </div>
  );
}

function Flag({
  label,
  isOn,
  isFixed = false,
  onChange,
}: {
  label: string;
  isOn: boolean;
  isFixed?: boolean;
  onChange: (isOn: boolean) => void;
}) {
  const busy = useDesk((state) => state.busy);
  return (
    <label className="flex items-center gap-1.5 text-[12.5px]">
      <input
        type="checkbox"
        checked={isOn}
        disabled={isFixed || !!busy}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}

const areaText = (area: number, unit: LengthUnit): string =>
  `${numberText(area * inUnit(1, unit) ** 2)} ${unitSign(unit)}²`;

const facesText = ({ quads, triangles, ngons }: PartFigures): string =>
  [
    quads > 0 && countOf(quads, 'quad'),
    triangles > 0 && countOf(triangles, 'triangle'),
    ngons > 0 && countOf(ngons, 'n-gon'),
  ]
    .filter(Boolean)
    .join(', ');

function genusText({ genus }: PartFigures): string {
  if (genus === null) return 'not sound';
  return genus === 0 ? 'no handle' : countOf(genus, 'handle');
}
