'use client';

import clsx from 'clsx';
import { Box, Ruler } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { Measure } from '@/core/contracts/measure';
import { Button } from '../../kit/button';
import { numberText } from '../../kit/format';
import { changeLook, chooseBone, frame } from '../../state/choose';
import { placesOfNode } from '../../state/findings-places';
import { toggleMeasuring, useMeasuring } from '../../state/measuring';
import { desk, useDesk } from '../../state/store';
import { BodyKindField } from '../../parts/body-kind';
import { deskWorker } from '../../state/worker';
import { PinnedMeasures } from './pinned';

/** What is said beside the heading of a group. */
const ASIDES: Readonly<Record<string, string>> = {
  Proportions: 'beside Drillis & Contini: an aid, not a rule',
};

function valueText({ unit }: Measure, x: number | string): string {
  if (typeof x === 'string') return x;
  if (unit === '°' || unit.startsWith('%')) return x.toFixed(1).replace(/^-(?=0\.0$)/, '');
  return numberText(Number(x.toFixed(4)));
}

function shortUnit(unit: string): string {
  if (unit.startsWith('%')) return ' %';
  if (unit === '°') return '°';
  return unit && ` ${unit}`;
}

function wantedText(measure: Measure): string {
  if (measure.target === null) return '—';
  return `${valueText(measure, measure.target)}${measure.tolerance ? ` ± ${valueText(measure, measure.tolerance)}` : ''}`;
}

/** The measures of the character on the desk; null until they are there. */
function useMeasures(): readonly Measure[] | null {
  const revision = useDesk((state) => state.revision);
  const brief = useDesk((state) => state.brief);
  const [measures, setMeasures] = useState<readonly Measure[] | null>(null);
  useEffect(() => {
    let isOpen = true;
    void deskWorker()
      .measures(brief)
      .then((measures) => isOpen && setMeasures(measures));
    return () => {
      isOpen = false;
    };
  }, [revision, brief]);
  return measures;
}

/** Chooses what a measure was taken on, and brings it into the picture. */
function goToMeasure({ node }: Measure): void {
  const { character, figure } = desk();
  if (!character || !figure) return;
  if (character.nodes[node].kind === 'bone') chooseBone(node);
  const places = placesOfNode(node, figure);
  if (places.length > 0) frame(places);
}

/**
 * All measures of placement at once, each beside what the brief wants of it; the pinned ones; and rescaling
 * by what one has measured.
 */
export function MeasuresPage() {
  const measures = useMeasures();
  const groups = [...new Set(measures?.map((measure) => measure.group))];
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <MeasureTools />
      <BodyKindField />
      <PinnedMeasures />
      {measures === null && <p className="mt-3 text-soft">measuring …</p>}
      {groups.map((group) => (
        <MeasureGroup
          key={group}
          group={group}
          measures={measures?.filter((measure) => measure.group === group) ?? []}
        />
      ))}
    </div>
  );
}

function MeasureTools() {
  const isMeasuring = useDesk((state) => state.tool === 'measure');
  const hasFirst = useMeasuring((measuring) => measuring.from !== null);
  const boxOn = useDesk((state) => state.boxOn);
  const taking = hasFirst ? 'Take the second point' : 'Take the first point';
  return (
    <div className="flex flex-wrap gap-2">
      <Button
        small
        kind={isMeasuring ? 'leaf' : 'plain'}
        aria-pressed={isMeasuring}
        onClick={toggleMeasuring}
        title="Measure between two points (M)"
      >
        <Ruler size={14} />
        {isMeasuring ? taking : 'Measure two points'}
      </Button>
      <Button
        small
        kind={boxOn ? 'leaf' : 'plain'}
        aria-pressed={boxOn}
        onClick={() => changeLook({ boxOn: !boxOn })}
        title="A box of a known side beside the figure (X)"
      >
        <Box size={14} />
        Known box
      </Button>
    </div>
  );
}

function MeasureGroup({ group, measures }: { group: string; measures: readonly Measure[] }) {
  return (
    <section aria-label={group} className="mt-3">
      <h3 className="title flex items-baseline justify-between text-[16px]">
        {group}
        {ASIDES[group] && (
          <span className="font-sans text-[12px] font-normal text-soft">{ASIDES[group]}</span>
        )}
      </h3>
      <table className="w-full text-[13px]">
        <thead className="sr-only">
          <tr>
            <th scope="col">What</th>
            <th scope="col">Measured</th>
            <th scope="col">Wanted</th>
          </tr>
        </thead>
        <tbody>
          {measures.map((measure) => (
            <MeasureRow key={measure.id} measure={measure} />
          ))}
        </tbody>
      </table>
    </section>
  );
}

function MeasureRow({ measure }: { measure: Measure }) {
  const value = 'mono py-1 pl-2 text-right whitespace-nowrap';
  return (
    <tr className="border-t border-rule align-top">
      <td className="py-1 pr-2 leading-snug [overflow-wrap:anywhere]">
        {measure.node >= 0 ? (
          <button type="button" className="text-left hover:underline" onClick={() => goToMeasure(measure)}>
            {measure.label}
          </button>
        ) : (
          measure.label
        )}
        {measure.hint && <span className="block text-[12px] text-soft">{measure.hint}</span>}
      </td>
      <td className={clsx(value, measure.state === 'off' && 'font-semibold text-stops')}>
        {valueText(measure, measure.value)}
        {shortUnit(measure.unit)}
      </td>
      <td className={clsx(value, 'text-soft')}>{wantedText(measure)}</td>
      <td className="w-5 py-1 pl-1.5 text-right">
        <StateMark state={measure.state} />
      </td>
    </tr>
  );
}

function StateMark({ state }: Pick<Measure, 'state'>) {
  if (state === 'told') return null;
  const isMet = state === 'met';
  return (
    <span className={isMet ? 'text-fine' : 'text-stops'} role="img" aria-label={isMet ? 'as wanted' : 'off'}>
      {isMet ? '✓' : '✗'}
    </span>
  );
}
