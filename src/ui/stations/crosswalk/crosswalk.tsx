'use client';

import { useEffect, useMemo, useRef, useState } from 'react';
import { inUnit } from '@/core/contracts/units';
import { Chip } from '../../kit/button';
import { figure as fig } from '../../kit/format';
import type { Stage } from '../../stage/stage';
import { StageView } from '../../stage/stage-view';
import { useDesk } from '../../desk/store';
import { Pairs } from './pairs';
import { ProofChart } from './proof-chart';
import { chooseByTarget, choosePair, openWalk, useWalk } from './state';

/** The crosswalk room: the figure as it is, the pairing, and the figure as it will be. */
export function Crosswalk() {
  const { sheet, figure } = useDesk();
  const { source, skeleton, targetFigure, crosswalk, chosen, chosenTarget, trial, trying, error } = useWalk();
  const [left, setLeft] = useState<Stage | null>(null);
  const [right, setRight] = useState<Stage | null>(null);
  const [picture, setPicture] = useState<'figure' | 'difference' | 'skeleton'>('figure');
  const head = sheet?.head;
  useEffect(() => {
    if (head) void openWalk();
  }, [head]);

  useEffect(() => {
    if (left && figure) left.show(figure);
  }, [left, figure]);
  const shown = picture === 'skeleton' || !trial ? targetFigure : trial.figure;
  const first = useRef<unknown>(null);
  useEffect(() => {
    if (!right || !shown) return;
    right.show(shown, first.current === right);
    first.current = right;
  }, [right, shown]);
  useEffect(() => {
    if (!right || !trial) return;
    const most = Math.max(trial.proof.max, 1e-6);
    right.surface(picture === 'difference' ? 'difference' : 'clay', false, false);
    if (picture === 'difference')
      right.values(new Map(trial.proof.worst.map((w) => [w.node, w.distance.map((d) => d / most)])));
  }, [right, trial, picture, shown]);
  useEffect(() => {
    const node = chosen >= 0 ? source?.bones[chosen]?.node : undefined;
    left?.choose(new Set(node === undefined ? [] : [node]));
  }, [left, chosen, source, figure]);
  useEffect(() => {
    if (!right || !skeleton) return;
    const name =
      chosenTarget >= 0
        ? skeleton.bones[chosenTarget]?.name
        : chosen >= 0 && crosswalk?.[chosen].kind === 'keep'
          ? source?.bones[chosen].name
          : undefined;
    right.choose(new Set(shown?.bones.filter((b) => b.name === name).map((b) => b.node) ?? []));
  }, [right, chosenTarget, chosen, skeleton, shown, crosswalk, source]);

  const counts = useMemo(() => {
    if (!source || !crosswalk) return null;
    return { bones: source.bones.length, carrying: source.bones.filter((b) => b.weight > 0).length };
  }, [source, crosswalk]);

  return (
    <main className="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(366px,1.02fr)_minmax(0,1fr)]">
      <section aria-label="As it is" className="flex min-w-0 flex-col">
        <div className="relative min-h-0 flex-1">
          <StageView
            label="The character on its own skeleton"
            onStage={(s) => {
              if (s) s.margin = 1.1;
              setLeft(s);
            }}
            onPick={(hit) => {
              if (hit?.kind === 'bone' && source)
                choosePair(source.bones.findIndex((b) => b.node === hit.node));
            }}
          />
          <div className="pointer-events-none absolute left-[18px] top-3.5">
            <h2 className="title text-[19px]">as it is</h2>
            {counts && (
              <p className="text-[13px] text-soft">
                {counts.bones} bones · {counts.carrying} carry weight
              </p>
            )}
          </div>
        </div>
        <Arrives />
      </section>
      <section aria-label="Pairing" className="flex min-h-0 min-w-0 flex-col border-x border-rule bg-sheet">
        {error ? (
          <p role="alert" className="p-5 text-stops">
            {error}
          </p>
        ) : (
          <Pairs />
        )}
      </section>
      <section aria-label="As it will be" className="flex min-w-0 flex-col">
        <div className="relative min-h-0 flex-1">
          <StageView
            label="The character on the target's skeleton"
            onStage={(s) => {
              if (s) s.margin = 1.1;
              setRight(s);
            }}
            onPick={(hit) => {
              if (hit?.kind === 'bone' && skeleton) {
                const name = shown?.bones.find((b) => b.node === hit.node)?.name;
                const t = skeleton.bones.findIndex((b) => b.name === name);
                if (t >= 0) chooseByTarget(t);
                else if (source) choosePair(source.bones.findIndex((b) => b.name === name));
              }
            }}
          />
          <div className="pointer-events-none absolute right-[18px] top-3.5 text-right">
            <h2 className="title text-[19px]">{skeleton?.title ?? '…'}</h2>
            {skeleton && (
              <p className="text-[13px] text-soft">
                {skeleton.bones.length} bones{trying ? ' · trying it on …' : ''}
              </p>
            )}
          </div>
          <div
            className="absolute bottom-3 right-3 flex gap-1.5"
            role="group"
            aria-label="What the right picture shows"
          >
            <Chip on={picture === 'figure'} onClick={() => setPicture('figure')}>
              Figure
            </Chip>
            <Chip on={picture === 'difference'} disabled={!trial} onClick={() => setPicture('difference')}>
              Differences
            </Chip>
            <Chip on={picture === 'skeleton'} onClick={() => setPicture('skeleton')}>
              Skeleton
            </Chip>
          </div>
        </div>
        <ProofChart />
      </section>
    </main>
  );
}

/** What arrives on the other side, in numbers. */
function Arrives() {
  const { trial, limit, trying } = useWalk();
  const brief = useDesk((s) => s.brief);
  const r = trial?.report;
  const unit = brief.unit === 'm' ? 'mm' : brief.unit;
  const rows: [string, string, boolean | null][] = r
    ? [
        ['Weight before', r.weight.before.toFixed(2), null],
        [
          'Weight after',
          r.weight.after.toFixed(2),
          Math.abs(r.weight.after - r.weight.before) < 1e-4 * Math.max(1, r.weight.before),
        ],
        [`Points that lose a bone (limit ${limit})`, fig(r.vertices.trimmed), null],
        ['Points without weight', fig(r.vertices.unweighted), r.vertices.unweighted === 0],
        [
          'Farthest from before, all poses',
          `${inUnit(trial.proof.max, unit).toFixed(2)} ${unit}`,
          trial.proof.max <= brief.proofTolerance,
        ],
        [
          '95 of 100 points stay within',
          `${inUnit(trial.proof.p95, unit).toFixed(2)} ${unit}`,
          trial.proof.p95 <= brief.proofTolerance,
        ],
      ]
    : [];
  return (
    <div
      className="h-[232px] shrink-0 overflow-y-auto border-t border-rule bg-sheet px-[18px] py-3"
      data-testid="arrives"
    >
      <h3 className="font-semibold">
        What arrives {trying && <span className="font-normal text-soft">counting …</span>}
      </h3>
      <table className="mt-1 w-full text-[13.5px]">
        <tbody>
          {rows.map(([label, value, good]) => (
            <tr key={label} className="border-b border-rule">
              <td className="py-1">{label}</td>
              <td
                className={`mono whitespace-nowrap py-1 text-right ${good === null ? '' : good ? 'text-fine' : 'text-stops'}`}
              >
                {value}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
