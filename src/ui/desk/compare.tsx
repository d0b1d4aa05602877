'use client';

import clsx from 'clsx';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import { GRAVITIES, GRAVITY_WORDS } from '@/core/contracts/finding';
import type { Measure } from '@/core/contracts/measure';
import { type LengthUnit, inUnit, unitSign } from '@/core/contracts/units';
import type { Revision } from '@/routes/characters';
import { Button, Chip } from '../kit/button';
import { numberText } from '../kit/format';
import { Mark } from '../kit/gravity';
import { Ramp } from '../kit/ramp';
import { SidePanel } from '../kit/side-panel';
import { compareRevisions, endComparison, showCompared } from '../state/compare';
import type { ComparedPicture } from '../state/document';
import { moveTo } from '../state/steps';
import { useDesk } from '../state/store';
import type { Comparison, ThingCounts } from '../worker/compare';
import { CompareInMotion } from './compare-in-motion';

/** Below this a point lies where it lay, metres. */
const FELT = 1e-6;

/** Most names that are listed. */
const MOST = 30;

const COUNTS: readonly (readonly [keyof ThingCounts, string])[] = [
  ['nodes', 'Nodes'],
  ['bones', 'Bones'],
  ['meshes', 'Meshes'],
  ['vertices', 'Vertices'],
  ['polygons', 'Polygons'],
  ['clips', 'Clips'],
];

const PICTURES: readonly (readonly [ComparedPicture, string])[] = [
  ['difference', 'Difference'],
  ['first', 'First'],
  ['second', 'Second'],
];

const lengthIn = (metres: number, unit: LengthUnit) =>
  `${numberText(Number(inUnit(metres, unit).toFixed(4)))} ${unitSign(unit)}`;

/**
 * Two revisions beside each other: their numbers here, both on the stage, what lies between them as a
 * picture.
 */
export function Compare() {
  const compared = useDesk((state) => state.compared);
  const record = useDesk((state) => state.record);
  if (!compared || !record) return null;
  const { a, b, data, show } = compared;
  const { revisions } = record;
  const of = (id: string) => revisions.find((revision) => revision.id === id);
  return (
    <SidePanel label="Comparison" className="px-[18px] py-4">
      <div className="flex items-start justify-between">
        <h2 className="title text-[22px]">Two revisions</h2>
        <button
          type="button"
          aria-label="End the comparison"
          onClick={endComparison}
          className="text-soft hover:text-ink"
        >
          <X size={18} />
        </button>
      </div>
      <div className="mt-2 flex gap-2">
        <RevisionChoice
          word="first"
          value={a}
          revisions={revisions}
          onChoose={(id) => void compareRevisions(id, b)}
        />
        <RevisionChoice
          word="second"
          value={b}
          revisions={revisions}
          onChoose={(id) => void compareRevisions(a, id)}
        />
      </div>
      {data ? (
        <Difference data={data} show={show} first={of(a)} second={of(b)} />
      ) : (
        <p className="mt-4 text-soft">laying them beside each other …</p>
      )}
      {data && <CompareInMotion />}
      {data && <Ends first={a} isHead={a === record.head} />}
    </SidePanel>
  );
}

function RevisionChoice({
  word,
  value,
  revisions,
  onChoose,
}: {
  word: string;
  value: string;
  revisions: readonly Revision[];
  onChoose: (id: string) => void;
}) {
  return (
    <label className="flex min-w-0 flex-1 flex-col text-[12.5px] text-soft">
      {word}
      <select
        value={value}
        onChange={(event) => onChoose(event.target.value)}
        className="h-8 rounded-[7px] border border-rule bg-sheet px-1.5 text-[13px] text-ink"
      >
        {revisions.map((revision) => (
          <option key={revision.id} value={revision.id}>
            {revision.number}, {revision.label}
          </option>
        ))}
      </select>
    </label>
  );
}

function Ends({ first, isHead }: { first: string; isHead: boolean }) {
  const goToFirst = () => {
    endComparison();
    void moveTo(first, 'Gone back');
  };
  return (
    <div className="mt-4 flex gap-2">
      <Button small onClick={goToFirst} disabled={isHead}>
        Go to the first
      </Button>
      <Button small onClick={endComparison}>
        End the comparison
      </Button>
    </div>
  );
}

function Difference({
  data,
  show,
  first,
  second,
}: {
  data: Comparison;
  show: ComparedPicture;
  first: Revision | undefined;
  second: Revision | undefined;
}) {
  const unit = useDesk((state) => state.brief.unit);
  return (
    <>
      <div role="group" aria-label="What the stage shows" className="mt-3 flex gap-1">
        {PICTURES.map(([picture, word]) => (
          <Chip key={picture} on={show === picture} onClick={() => showCompared(picture)}>
            {word}
          </Chip>
        ))}
      </div>
      <Farthest data={data} unit={unit} />
      {show === 'difference' && data.most >= FELT && (
        <div className="mt-2 text-[12px] text-soft">
          <Ramp ticks={['0', lengthIn(data.most, unit)]} />
        </div>
      )}
      <Numbers data={data} first={first} second={second} />
      <NameList word="Only in the first" names={data.lost} />
      <NameList word="Only in the second" names={data.came} />
    </>
  );
}

function Farthest({ data, unit }: { data: Comparison; unit: LengthUnit }) {
  return (
    <p className="mt-2 text-[13px] [overflow-wrap:anywhere]">
      {data.most < FELT ? (
        'Every point that both have lies where it lay.'
      ) : (
        <>
          The farthest point lies <span className="mono text-damson">{lengthIn(data.most, unit)}</span> from
          where it was, on {data.where}; {numberText(data.points)} vertices lie elsewhere.
        </>
      )}{' '}
      <span className="text-soft">The other one is drawn in damson rims.</span>
    </p>
  );
}

function NameList({ word, names }: { word: string; names: readonly string[] }) {
  if (names.length === 0) return null;
  return (
    <p className="mt-2 text-[13px]">
      {word}:{' '}
      <span className="mono [overflow-wrap:anywhere]">
        {names.slice(0, MOST).join(', ')}
        {names.length > MOST ? ' …' : ''}
      </span>
    </p>
  );
}

interface Pair {
  readonly id: string;
  readonly first: Measure | undefined;
  readonly second: Measure | undefined;
}

function isSame({ first, second }: Pair): boolean {
  const [a, b] = [first?.value, second?.value];
  if (typeof a !== 'number' || typeof b !== 'number') return a === b;
  return Math.abs(a - b) < 1e-6 * Math.max(1, Math.abs(a));
}

function pairsOf([first, second]: Comparison['measures']): Pair[] {
  const ids = [...new Set([...first, ...second].map((measure) => measure.id))];
  return ids.map((id) => ({
    id,
    first: first.find((measure) => measure.id === id),
    second: second.find((measure) => measure.id === id),
  }));
}

/** All numbers in which the two differ; of those that are the same, only how many there are. */
function Numbers({
  data,
  first,
  second,
}: {
  data: Comparison;
  first: Revision | undefined;
  second: Revision | undefined;
}) {
  const pairs = pairsOf(data.measures);
  const changed = pairs.filter((pair) => !isSame(pair));
  return (
    <>
      <table className="mt-3 w-full text-[13px]">
        <thead>
          <tr className="text-right text-[12px] text-soft">
            <th scope="col" className="text-left font-normal">
              numbers
            </th>
            <th scope="col" className="pl-2 font-normal">
              {first?.number}
            </th>
            <th scope="col" className="pl-2 font-normal">
              {second?.number}
            </th>
          </tr>
        </thead>
        <tbody>
          {GRAVITIES.map((gravity) => (
            <NumberRow key={gravity} a={first?.counts?.[gravity] ?? '—'} b={second?.counts?.[gravity] ?? '—'}>
              <span className="inline-flex items-center gap-1.5">
                <Mark gravity={gravity} />
                {GRAVITY_WORDS[gravity]}
              </span>
            </NumberRow>
          ))}
          {COUNTS.map(([key, word]) => (
            <NumberRow key={key} a={data.counts[0][key]} b={data.counts[1][key]}>
              {word}
            </NumberRow>
          ))}
          {changed.map((pair) => (
            <MeasureRow key={pair.id} pair={pair} />
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-[12.5px] text-soft">
        {pairs.length - changed.length} measures are the same in both.
      </p>
    </>
  );
}

const cell = 'mono py-1 pl-2 text-right whitespace-nowrap';

function NumberRow({ a, b, children }: { a: number | string; b: number | string; children: ReactNode }) {
  return (
    <tr className={clsx('border-t border-rule', a !== b && 'font-semibold text-damson')}>
      <td className="py-1 pr-2">{children}</td>
      <td className={cell}>{numberText(a)}</td>
      <td className={cell}>{numberText(b)}</td>
    </tr>
  );
}

function valueText(measure: Measure | undefined): string {
  if (measure === undefined) return '—';
  if (typeof measure.value !== 'number') return measure.value;
  if (measure.unit === '°') return `${numberText(Number(measure.value.toFixed(1)))}°`;
  if (measure.unit.startsWith('%')) return `${numberText(Number(measure.value.toFixed(1)))} %`;
  return `${numberText(Number(measure.value.toFixed(4)))}${measure.unit ? ` ${measure.unit}` : ''}`;
}

const TONES: Readonly<Record<Measure['state'], string>> = { off: 'text-stops', met: 'text-fine', told: '' };

function MeasureRow({ pair: { first, second } }: { pair: Pair }) {
  return (
    <tr className="border-t border-rule">
      <td className="py-1 pr-2 leading-snug [overflow-wrap:anywhere]">{(second ?? first)?.label}</td>
      <td className={clsx(cell, first?.state === 'off' && 'text-stops')}>{valueText(first)}</td>
      <td className={clsx(cell, 'font-semibold', second && TONES[second.state])}>{valueText(second)}</td>
    </tr>
  );
}
