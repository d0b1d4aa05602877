'use client';

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { inUnit } from '@/core/contracts/units';
import { Chip } from '../../kit/button';
import { numberText } from '../../kit/format';
import type { Stage } from '../../stage/stage';
import { StageCanvas } from '../../stage/stage-canvas';
import type { Tool } from '../../stage/tools/tool';
import { turnTool } from '../../stage/tools/turn';
import { EMPTY_VIEW, type StageView } from '../../stage/view';
import { useDesk } from '../../state/store';
import { chooseOnTarget, choosePairs, followBone, namedOn } from './choice';
import { leadersOnTarget } from './leaders';
import { pairOnTarget } from './pair-tool';
import { CannotPair, Pairs } from './pairs';
import { ProofChart } from './proof-chart';
import { type RemapTrial, openWalk, useWalk } from './walk';

type Picture = 'figure' | 'difference' | 'skeleton';

/** Below this nothing differs, metres. */
const LEAST = 1e-6;

/** The crosswalk room beside the character: the pairing, and the figure as it will be. */
export function CrosswalkPage() {
  const revision = useDesk((s) => s.revision);
  const brief = useDesk((s) => s.brief);
  const bone = useDesk((s) => s.bone);
  const error = useWalk((s) => s.error);
  useEffect(() => {
    void openWalk();
  }, [revision, brief]);
  useEffect(() => followBone(bone), [bone]);
  useBox();
  return (
    <>
      <section
        aria-label="Pairing"
        className="flex min-h-0 min-w-[366px] flex-[1.02] flex-col border-x border-rule bg-sheet"
      >
        {error ? <CannotPair error={error} /> : <Pairs />}
      </section>
      <AsItWillBe />
    </>
  );
}

/** Bones that a box was dragged over on the figure are chosen in the table. */
function useBox(): void {
  const nodes = useDesk((s) => s.picked.bones);
  useEffect(() => {
    if (nodes.size < 2) return;
    const bones = useWalk.getState().source?.bones.flatMap((b, i) => (nodes.has(b.node) ? [i] : [])) ?? [];
    if (bones.length > 1) choosePairs(new Set(bones), bones[0]);
  }, [nodes]);
}

const differenceValues = ({ proof }: RemapTrial) => {
  const most = Math.max(proof.max, LEAST);
  return new Map(proof.worst.map((w) => [w.node, w.distance.map((d) => d / most)]));
};

/** What the right stage shows. */
function useTargetView(picture: Picture): StageView {
  const trial = useWalk((s) => s.trial);
  const targetFigure = useWalk((s) => s.targetFigure);
  const name = useWalk((s) => chosenName(s));
  const key = useWalk((s) => s.target?.key ?? null);
  const figure = picture === 'skeleton' || !trial ? targetFigure : trial.figure;
  return useMemo(() => {
    const bones = figure?.bones.filter((b) => b.name === name).map((b) => b.node) ?? [];
    const isDifference = picture === 'difference' && trial !== null;
    return {
      ...EMPTY_VIEW,
      margin: 1.1,
      figure,
      // The target by itself may have another size than the figure on it: each is framed when it first comes.
      subject: figure && `${key} ${figure === targetFigure ? 'alone' : 'with the figure'}`,
      surface: isDifference ? 'difference' : 'clay',
      values: isDifference ? differenceValues(trial) : null,
      chosenBones: new Set(bones),
    };
  }, [figure, targetFigure, name, picture, trial, key]);
}

/** Name of the target's bone that is chosen, or of the kept bone that comes along. */
function chosenName({
  skeleton,
  chosenTarget,
  chosen,
  crosswalk,
  source,
}: ReturnType<typeof useWalk.getState>) {
  if (chosenTarget >= 0) return skeleton?.bones[chosenTarget]?.name;
  return crosswalk?.[chosen]?.kind === 'keep' ? source?.bones[chosen].name : undefined;
}

/** What the right stage shows by itself: the figure on its new skeleton, or the skeleton alone. */
const figureFor = (picture: Picture) => {
  const { trial, targetFigure } = useWalk.getState();
  return picture === 'skeleton' || !trial ? targetFigure : trial.figure;
};

function AsItWillBe() {
  const [picture, setPicture] = useState<Picture>('figure');
  const hasTrial = useWalk((s) => s.trial !== null);
  const isPairing = useDesk((s) => s.tool === 'pair');
  const view = useTargetView(picture);
  const stage = useRef<Stage | null>(null);
  const pose = useWalk((s) => s.targetPose);
  const trialFigure = useWalk((s) => s.trial?.figure);
  useEffect(() => stage.current?.update(view));
  useEffect(() => {
    if (trialFigure) stage.current?.pose(trialFigure, pose);
  }, [trialFigure, pose, picture]);
  const onStage = useCallback((made: Stage | null) => {
    stage.current = made;
  }, []);
  const drawing = useMemo(() => leadersOnTarget(() => figureFor(picture)), [picture]);
  const makeTool = useMemo(
    () => (isPairing ? pairOnTarget(() => figureFor(picture)) : turnOnTarget(picture)),
    [isPairing, picture],
  );
  const chip = (of: Picture, word: string, isOff = false) => (
    <Chip on={picture === of} disabled={isOff} onClick={() => setPicture(of)}>
      {word}
    </Chip>
  );
  return (
    <section aria-label="As it will be" className="flex min-w-0 flex-1 flex-col">
      <div className="relative min-h-0 flex-1">
        <StageCanvas
          label="The character on the target's skeleton"
          makeTool={makeTool}
          onStage={onStage}
          drawing={drawing}
        />
        <TargetTitle />
        <div
          className="absolute bottom-3 right-3 flex gap-1.5"
          role="group"
          aria-label="What the right picture shows"
        >
          {chip('figure', 'Figure')}
          {chip('difference', 'Differences', !hasTrial)}
          {chip('skeleton', 'Skeleton')}
        </div>
      </div>
      <ProofChart />
    </section>
  );
}

/** The hand that turns the right figure and chooses a pair by its twig. */
const turnOnTarget =
  (picture: Picture) =>
  (stage: Stage): Tool =>
    turnTool(stage, {
      hover: () => {},
      choose: (node) => chooseOnTarget(namedOn(figureFor(picture), node)),
    });

function TargetTitle() {
  const skeleton = useWalk((s) => s.skeleton);
  const isTrying = useWalk((s) => s.isTrying);
  const pose = useWalk((s) => (s.pose < 0 ? null : s.trial?.proof.poses[s.pose]?.label));
  return (
    <div className="pointer-events-none absolute right-[18px] top-3.5 text-right">
      <h2 className="title text-[19px]">{skeleton?.title ?? '…'}</h2>
      {skeleton && (
        <p className="text-[13px] text-soft">
          {skeleton.bones.length} bones{isTrying ? ' · trying it on …' : ''}
        </p>
      )}
      {pose && <p className="max-w-[220px] truncate text-[13px] text-damson">in the pose “{pose}”</p>}
    </div>
  );
}

interface ArrivesRow {
  readonly label: string;
  readonly value: string;
  /** Null where it is neither good nor bad. */
  readonly isGood: boolean | null;
}

function rowsOf({ report, proof }: RemapTrial, limit: number, unit: 'mm' | 'cm' | 'in', allowed: number) {
  const { weight, vertices } = report;
  const kept = Math.abs(weight.after - weight.before) < 1e-4 * Math.max(1, weight.before);
  const length = (metres: number) => `${inUnit(metres, unit).toFixed(2)} ${unit}`;
  const rows: ArrivesRow[] = [
    { label: 'Weight before', value: weight.before.toFixed(2), isGood: null },
    { label: 'Weight after', value: weight.after.toFixed(2), isGood: kept },
    {
      label: `Points that lose a bone (limit ${limit})`,
      value: numberText(vertices.trimmed),
      isGood: null,
    },
    {
      label: 'Points without weight',
      value: numberText(vertices.unweighted),
      isGood: vertices.unweighted === 0,
    },
    {
      label: skinLabel(report.skin),
      value: numberText(report.skin.listed),
      isGood: null,
    },
    { label: 'Farthest from before, all poses', value: length(proof.max), isGood: proof.max <= allowed },
    { label: '95 of 100 points stay within', value: length(proof.p95), isGood: proof.p95 <= allowed },
  ];
  return rows;
}

/** What a skin lists, and what of it it could do without. */
const skinLabel = ({ listed, needed }: RemapTrial['report']['skin']) =>
  listed === needed ? 'Bones that a skin lists' : `Bones that a skin lists (${needed} carry weight)`;

function toneOf({ isGood }: ArrivesRow): string {
  if (isGood === null) return '';
  return isGood ? 'text-fine' : 'text-stops';
}

/** What arrives on the other side, in numbers. */
export function Arrives() {
  const trial = useWalk((s) => s.trial);
  const limit = useWalk((s) => s.limit);
  const isTrying = useWalk((s) => s.isTrying);
  const brief = useDesk((s) => s.brief);
  const unit = brief.unit === 'm' ? 'mm' : brief.unit;
  const isBare = trial?.proof.compared === 0;
  const rows = trial && !isBare ? rowsOf(trial, limit, unit, brief.proofTolerance) : [];
  return (
    <div
      className="min-h-[238px] shrink-0 border-t border-rule bg-sheet px-[18px] py-2.5"
      data-testid="arrives"
    >
      <h3 className="font-semibold">
        What arrives {isTrying && <span className="font-normal text-soft">counting …</span>}
      </h3>
      {isBare && (
        <p className="mt-1 text-[13px] text-soft">
          A skeleton without a mesh: its bones move over, and no weights with them.
        </p>
      )}
      <table className="mt-1 w-full text-[13.5px]">
        <tbody>
          {rows.map((r) => (
            <tr key={r.label} className="border-b border-rule">
              <td className="py-[2px]">{r.label}</td>
              <td className={`mono whitespace-nowrap py-[2px] text-right ${toneOf(r)}`}>{r.value}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
