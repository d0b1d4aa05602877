'use client';

import clsx from 'clsx';
import { useEffect, useState } from 'react';
import type { Brief } from '@/core/house/brief';
import { lengthText } from '@/core/contracts/units';
import type { LoopFigures } from '@/core/rooms/surface/figures';
import { Chip } from '../../kit/button';
import { chooseBone, choosePicked, frame } from '../../state/choose';
import { placesOfNode } from '../../state/findings-places';
import { showLoopWays } from '../../state/parts';
import { desk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { LoopChart } from './loop-chart';
import { useFigures } from '../../parts/use-figures';

const askLoops = (brief: Brief) => deskWorker().loops(brief);

/** The joints of limbs with the loops across them; a chart of where the loops of the chosen one lie. */
export function LoopsPage() {
  const joints = useFigures(askLoops);
  const [chosen, setChosen] = useState(-1);
  const isShown = useDesk((state) => state.heat !== null);
  useEffect(
    () => () => {
      void showLoopWays(false);
    },
    [],
  );
  if (!joints) return <p className="px-[18px] py-3 text-soft">looking …</p>;
  if (joints.length === 0)
    return (
      <p className="px-[18px] py-3 text-[13px] text-soft">
        No limb here is of quads and bends at a joint: there are no loops to count.
      </p>
    );
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <p className="text-[13px] text-soft">
        Loops that go round a limb at its joint. Press one to see where they lie.
      </p>
      <div className="mt-2">
        <Chip on={isShown} onClick={() => void showLoopWays(!isShown)}>
          Picture of the way to the next
        </Chip>
      </div>
      <table className="mt-2 w-full text-[12.5px]">
        <thead>
          <tr className="border-b border-rule text-left text-soft">
            <th scope="col" className="py-1 font-normal">
              joint
            </th>
            <th scope="col" className="py-1 text-right font-normal">
              loops
            </th>
            <th scope="col" className="py-1 text-right font-normal">
              above, below
            </th>
            <th scope="col" className="py-1 text-right font-normal">
              wanted
            </th>
          </tr>
        </thead>
        <tbody>
          {joints.map((joint) => (
            <JointRow
              key={joint.node}
              joint={joint}
              isOpen={joint.node === chosen}
              onOpen={() => {
                setChosen(joint.node === chosen ? -1 : joint.node);
                showLoops(joint);
              }}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Lights the loops of a joint up, and brings it into the picture. */
function showLoops({ node, loops }: LoopFigures): void {
  const { figure } = desk();
  chooseBone(node);
  const edges = new Map<number, number[]>();
  for (const { node: shows, vertices } of loops) {
    const own = edges.get(shows) ?? [];
    vertices.forEach((vertex, i) => own.push(vertex, vertices[(i + 1) % vertices.length]));
    edges.set(shows, own);
  }
  choosePicked({
    vertices: new Map(),
    polygons: new Map(),
    bones: new Set([node]),
    edges: new Map([...edges].map(([shows, ids]) => [shows, Uint32Array.from(ids)])),
  });
  if (figure) frame(placesOfNode(node, figure));
}

function JointRow({ joint, isOpen, onOpen }: { joint: LoopFigures; isOpen: boolean; onOpen: () => void }) {
  const isFew = joint.near < joint.wanted;
  return (
    <>
      <tr className="border-b border-rule/60">
        <th scope="row" className="py-1 text-left font-normal">
          <button
            type="button"
            aria-expanded={isOpen}
            onClick={onOpen}
            className={clsx('mono text-left underline', isOpen && 'font-semibold')}
          >
            {joint.bone}
          </button>
        </th>
        <td className={clsx('mono py-1 text-right', isFew && 'font-semibold text-damson')}>{joint.near}</td>
        <td className="mono py-1 text-right">
          {joint.above}, {joint.below}
        </td>
        <td className="mono py-1 text-right">{joint.wanted}</td>
      </tr>
      {isOpen && (
        <tr>
          <td colSpan={4} className="pb-3 pt-1">
            <JointLeaf joint={joint} />
          </td>
        </tr>
      )}
    </>
  );
}

function JointLeaf({ joint }: { joint: LoopFigures }) {
  const { unit } = useDesk((state) => state.brief);
  const { spacing, reach } = joint;
  return (
    <>
      <LoopChart joint={joint} />
      <p className="mt-1 text-[12px] text-soft">
        within {lengthText(reach, unit)} of the joint
        {spacing &&
          `; from one to the next ${lengthText(spacing.least, unit)} to ${lengthText(spacing.most, unit)}`}
      </p>
    </>
  );
}
