'use client';

import { useEffect, useId, useState } from 'react';
import { smallLengthText } from '@/core/contracts/units';
import { characterHeight } from '@/core/character/measure';
import type { MergeFigures } from '@/core/rooms/surface/figures';
import { messageOf } from '../../kit/api';
import { Button } from '../../kit/button';
import { countOf, numberText } from '../../kit/format';
import { choosePicked, frameChosen } from '../../state/choose';
import { applyRemedy } from '../../state/steps';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';

/** The slider goes from a millionth of the height to a hundredth, in powers. */
const FINEST = -6;
const COARSEST = -2;
const STEP = 0.05;

/** What would merge at a distance; null until the worker has told. */
function useMerges(distance: number): readonly MergeFigures[] | null {
  const revision = useDesk((state) => state.revision);
  const [told, setTold] = useState<{ readonly of: string; readonly merges: readonly MergeFigures[] } | null>(
    null,
  );
  const asked = `${revision} ${distance}`;
  useEffect(() => {
    let isOpen = true;
    deskWorker()
      .merges(distance)
      .then((merges) => isOpen && setTold({ of: `${revision} ${distance}`, merges }))
      .catch((error: unknown) => isOpen && setDesk({ error: messageOf(error) }));
    return () => {
      isOpen = false;
    };
  }, [revision, distance]);
  return told?.of === asked ? told.merges : null;
}

/** What would merge at which distance: a slider, and for each mesh how many points, in which parts, and what stays apart. */
export function MergePage() {
  const character = useDesk((state) => state.character);
  const wanted = useDesk((state) => state.brief.surface.coincident);
  if (!character) return null;
  const height = characterHeight(character);
  return <Distances key={height} height={height} wanted={wanted} />;
}

function Distances({ height, wanted }: { height: number; wanted: number }) {
  const { unit } = useDesk((state) => state.brief);
  const id = useId();
  const [power, setPower] = useState(() =>
    Math.min(COARSEST, Math.max(FINEST, Math.log10(Math.max(wanted, 1e-9) / height))),
  );
  const distance = height * 10 ** power;
  const merges = useMerges(distance);
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <label htmlFor={id} className="flex items-baseline justify-between text-[13px]">
        <span>Points closer than</span>
        <span className="mono">
          {smallLengthText(distance, unit)}, {Number((10 ** power * 100).toPrecision(2))} % of the height
        </span>
      </label>
      <input
        id={id}
        type="range"
        min={FINEST}
        max={COARSEST}
        step={STEP}
        value={power}
        aria-valuetext={smallLengthText(distance, unit)}
        onChange={(event) => setPower(Number(event.target.value))}
        className="mt-1.5 w-full accent-[var(--damson)]"
      />
      <button
        type="button"
        className="text-[12.5px] font-semibold text-leaf underline"
        onClick={() => setPower(Math.log10(Math.max(wanted, 1e-9) / height))}
      >
        as the brief has it: {smallLengthText(wanted, unit)}
      </button>
      <div aria-live="polite" className="mt-3">
        {merges === null && <p className="text-[13px] text-soft">looking …</p>}
        {merges?.length === 0 && <p className="text-[13px]">No two points lie so near to each other.</p>}
        <ul>
          {merges?.map((merge) => (
            <MergeRow key={merge.node} merge={merge} distance={distance} />
          ))}
        </ul>
      </div>
    </div>
  );
}

function MergeRow({ merge, distance }: { merge: MergeFigures; distance: number }) {
  const busy = useDesk((state) => state.busy);
  const { node, name, together, points, apart, vertices, apartVertices, parts, partCount } = merge;
  const show = (ids: Uint32Array) => {
    choosePicked({ vertices: new Map([[node, ids]]), polygons: new Map(), bones: new Set() });
    frameChosen();
  };
  const more = partCount > parts.length ? ` and ${partCount - parts.length} more` : '';
  return (
    <li className="border-t border-rule py-2 text-[13px]">
      <p className="mono">{name}</p>
      {together > 0 && (
        <p>
          <button type="button" className="underline" onClick={() => show(vertices)}>
            {countOf(together, 'point')} together
          </button>
          , {numberText(points)} would go
        </p>
      )}
      {apart > 0 && (
        <p className="text-soft">
          <button type="button" className="underline" onClick={() => show(apartVertices)}>
            {countOf(apart, 'pair')}
          </button>{' '}
          on separate surfaces stay apart
        </p>
      )}
      <p className="text-[12.5px] text-soft">
        in {parts.join(', ')}
        {more}
      </p>
      {points > 0 && (
        <Button
          small
          className="mt-1.5"
          disabled={!!busy}
          onClick={() => void applyRemedy('merge-points', { node, distance }, `Merge points of “${name}”`)}
        >
          Merge {countOf(points, 'point')}
        </Button>
      )}
    </li>
  );
}
