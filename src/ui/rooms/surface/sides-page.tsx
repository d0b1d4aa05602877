'use client';

import clsx from 'clsx';
import { useEffect, useState } from 'react';
import type { Brief } from '@/core/house/brief';
import { smallLengthText } from '@/core/contracts/units';
import type { SideFigures } from '@/core/rooms/surface/figures';
import { Chip } from '../../kit/button';
import { numberText } from '../../kit/format';
import { choosePicked, frameChosen } from '../../state/choose';
import { showSides } from '../../state/parts';
import { useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { useFigures } from '../../parts/use-figures';

const askSides = (brief: Brief) => deskWorker().sides(brief);

/** What differs left and right, region by region, and a picture of it. */
export function SidesPage() {
  const sides = useFigures(askSides);
  const isShown = useDesk((state) => state.heat !== null);
  useEffect(
    () => () => {
      void showSides(false);
    },
    [],
  );
  if (!sides) return <p className="px-[18px] py-3 text-soft">looking …</p>;
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <PlaneText sides={sides} />
      {sides.plane && (
        <div className="mt-2">
          <Chip on={isShown} onClick={() => void showSides(!isShown)}>
            Picture of it
          </Chip>
        </div>
      )}
      {sides.differences.length > 0 && <Differences sides={sides} />}
      {sides.oneSided.length > 0 && (
        <p className="mt-3 text-[12.5px] text-soft">
          On one side only, and not asked: {sides.oneSided.join(', ')}.
        </p>
      )}
    </div>
  );
}

function PlaneText({ sides: { plane, share, tolerance, differences } }: { sides: SideFigures }) {
  const { unit } = useDesk((state) => state.brief);
  if (!plane)
    return (
      <p className="text-[13px]">
        The body is not the same on both sides of any plane; left and right cannot be compared.
      </p>
    );
  return (
    <p className="text-[13px]">
      <span className="mono">{(share * 100).toFixed(1)} %</span> of the body’s points have a twin within{' '}
      <span className="mono">{smallLengthText(tolerance, unit)}</span> on the other side.
      {differences.length === 0 && ' Every region is alike.'}
    </p>
  );
}

function Differences({ sides: { differences } }: { sides: SideFigures }) {
  const { unit } = useDesk((state) => state.brief);
  const [chosen, setChosen] = useState(-1);
  return (
    <table className="mt-3 w-full text-[12.5px]">
      <thead>
        <tr className="border-b border-rule text-left text-soft">
          <th scope="col" className="py-1 font-normal">
            where
          </th>
          <th scope="col" className="py-1 text-right font-normal">
            without a twin
          </th>
          <th scope="col" className="py-1 text-right font-normal">
            farthest off
          </th>
        </tr>
      </thead>
      <tbody>
        {differences.map(({ node, region, points, without, farthest, vertices }, i) => (
          <tr key={`${node} ${region}`} className="border-b border-rule/60">
            <th scope="row" className="py-1 text-left font-normal">
              <button
                type="button"
                className={clsx('text-left underline', chosen === i && 'font-semibold text-damson')}
                onClick={() => {
                  setChosen(i);
                  choosePicked({
                    vertices: new Map([[node, vertices]]),
                    polygons: new Map(),
                    bones: new Set(),
                  });
                  frameChosen();
                }}
              >
                {region}
              </button>
            </th>
            <td className="mono py-1 text-right">
              {numberText(without)} of {numberText(points)}
            </td>
            <td className="mono py-1 text-right">{smallLengthText(farthest, unit)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
