'use client';

import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { WorstPoint } from '@/core/rooms/crosswalk/worst';
import { Chip } from '../../kit/button';
import type { Stage } from '../../stage/stage';
import { StageCanvas } from '../../stage/stage-canvas';
import type { Tool } from '../../stage/tools/tool';
import { turnTool } from '../../stage/tools/turn';
import { EMPTY_VIEW, type Marks, type StageView } from '../../stage/view';
import { useDesk } from '../../state/store';
import { chooseOnTarget, choosePairs, followBone, namedOn } from './choice';
import { leadersOnTarget } from './leaders';
import { pairOnTarget } from './pair-tool';
import { CannotPair, Pairs } from './pairs';
import { ProofPanel } from './proof-panel';
import type { BothPosed } from '../../worker/moving';
import { type RemapTrial, openCrosswalk, useCrosswalkSession } from './session';

type Picture = 'figure' | 'difference' | 'skeleton';

/** Below this nothing differs, metres. */
const LEAST = 1e-6;

/** The crosswalk room beside the character: the pairing, and the figure as it will be. */
export function CrosswalkPage() {
  const revision = useDesk((state) => state.revision);
  const brief = useDesk((state) => state.brief);
  const bone = useDesk((state) => state.bone);
  const error = useCrosswalkSession((session) => session.error);
  useEffect(() => {
    void openCrosswalk();
  }, [revision, brief]);
  useEffect(() => followBone(bone), [bone]);
  useBox();
  return (
    <>
      <section
        aria-label="Pairing"
        tabIndex={-1}
        className="flex outline-none min-h-0 min-w-[366px] flex-[1.02] flex-col border-x border-rule bg-sheet"
      >
        {error ? <CannotPair error={error} /> : <Pairs />}
      </section>
      <AsItWillBe />
    </>
  );
}

/** Bones that a box was dragged over on the figure are chosen in the table. */
function useBox(): void {
  const nodes = useDesk((state) => state.picked.bones);
  useEffect(() => {
    if (nodes.size < 2) return;
    const bones =
      useCrosswalkSession.getState().source?.bones.flatMap((bone, i) => (nodes.has(bone.node) ? [i] : [])) ??
      [];
    if (bones.length > 1) choosePairs(new Set(bones), bones[0]);
  }, [nodes]);
}

/**
 * How far points lie apart, as a share of the farthest of all poses: in the pose that is shown, or in their
 * worst.
 */
const differenceValues = ({ proof }: RemapTrial, both: BothPosed | null) => {
  const most = Math.max(proof.max, LEAST);
  const shown = both?.apart ?? proof.worst;
  return new Map(
    shown.map((mesh) => [mesh.node, mesh.distance.map((distance) => Math.min(1, distance / most))]),
  );
};

/** What the right stage shows. */
function useTargetView(picture: Picture): StageView {
  const trial = useCrosswalkSession((session) => session.trial);
  const both = useCrosswalkSession((session) => session.both);
  const place = useCrosswalkSession((session) => session.place);
  const stance = useCrosswalkSession(
    (session) => session.triedHow && `${session.triedHow.mode} ${session.triedHow.lengths}`,
  );
  const targetFigure = useCrosswalkSession((session) => session.targetFigure);
  const name = useCrosswalkSession((session) => chosenName(session));
  const key = useCrosswalkSession((session) => session.target?.key ?? null);
  const figure = picture === 'skeleton' ? targetFigure : (trial?.figure ?? targetFigure);
  return useMemo(() => {
    const bones = figure?.bones.filter((bone) => bone.name === name).map((bone) => bone.node) ?? [];
    const isDifference = picture === 'difference' && !!trial?.figure;
    return {
      ...EMPTY_VIEW,
      margin: 1.1,
      figure,
      // The target by itself may have another size than the figure on it: each is framed when it first comes.
      subject: figure && `${key} ${figure === targetFigure ? 'alone' : stance}`,
      surface: isDifference ? 'difference' : 'clay',
      values: isDifference ? differenceValues(trial, both) : null,
      chosenBones: new Set(bones),
      marks: place && picture !== 'skeleton' ? marksAt(place) : null,
    };
  }, [figure, targetFigure, name, picture, trial, key, both, place, stance]);
}

const marksAt = ({ node, vertex }: WorstPoint): Marks => ({
  vertices: new Map([[node, Uint32Array.of(vertex)]]),
  polygons: new Map(),
  bones: new Set(),
});

/** Name of the target's bone that is chosen, or of the kept bone that comes along. */
function chosenName({
  skeleton,
  chosenTarget,
  chosen,
  crosswalk,
  source,
}: ReturnType<typeof useCrosswalkSession.getState>) {
  if (chosenTarget >= 0) return skeleton?.bones[chosenTarget]?.name;
  return crosswalk?.[chosen]?.kind === 'keep' ? source?.bones[chosen].name : undefined;
}

/** What the right stage shows by itself: the figure on its new skeleton, or the skeleton alone. */
const figureFor = (picture: Picture) => {
  const { trial, targetFigure } = useCrosswalkSession.getState();
  return picture === 'skeleton' ? targetFigure : (trial?.figure ?? targetFigure);
};

function AsItWillBe() {
  const [picture, setPicture] = useState<Picture>('figure');
  const hasTrial = useCrosswalkSession((session) => !!session.trial?.figure);
  const isPairing = useDesk((state) => state.tool === 'pair');
  const view = useTargetView(picture);
  const stage = useRef<Stage | null>(null);
  const pose = useCrosswalkSession((session) => session.both?.after ?? null);
  const trialFigure = useCrosswalkSession((session) => session.trial?.figure);
  useEffect(() => stage.current?.update(view));
  useEffect(() => {
    if (trialFigure) stage.current?.pose(trialFigure, pose);
  }, [trialFigure, pose, picture]);
  useGoingThere(stage);
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
      <ProofPanel />
    </section>
  );
}

/** The camera goes to the place that was chosen among the worst, and back to the whole figure. */
function useGoingThere(stage: RefObject<Stage | null>): void {
  const place = useCrosswalkSession((session) => session.place);
  const wasThere = useRef(false);
  useEffect(() => {
    if (!place && !wasThere.current) return;
    wasThere.current = place !== null;
    const points = useCrosswalkSession
      .getState()
      .both?.after.meshes.find((mesh) => mesh.node === place?.node)?.points;
    const at = place && points ? [Array.from(points.subarray(place.vertex * 3, place.vertex * 3 + 3))] : [];
    stage.current?.obey({ kind: 'frame', places: at });
  }, [place, stage]);
}

/** The hand that turns the right figure and chooses a pair by its twig. */
const turnOnTarget =
  (picture: Picture) =>
  (stage: Stage): Tool =>
    turnTool(stage, {
      hover: () => {},
      choose: ({ hit }) => chooseOnTarget(namedOn(figureFor(picture), hit.node)),
    });

function TargetTitle() {
  const skeleton = useCrosswalkSession((session) => session.skeleton);
  const isTrying = useCrosswalkSession((session) => session.isTrying);
  const pose = useCrosswalkSession((session) =>
    session.pose < 0 ? null : session.trial?.proof.poses[session.pose]?.label,
  );
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
