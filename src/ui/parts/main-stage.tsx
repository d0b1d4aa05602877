'use client';

import { useCallback, useMemo, useRef } from 'react';
import type { Figure } from '../worker/figure';
import type { Character } from '@/core/character/model';
import { type Pin, placeOfEnd } from '@/core/character/pin';
import { type LengthUnit, inUnit, lengthText, unitSign } from '@/core/contracts/units';
import { distance } from '@/core/geometry/matrix';
import type { Brief } from '@/core/house/brief';
import { Button } from '../kit/button';
import { ProgressBar } from '../kit/progress';
import type { DrawnLine, Staff } from '../stage/overlay';
import type { Stage } from '../stage/stage';
import { StageCanvas } from '../stage/stage-canvas';
import { camera, posing, touching } from '../state/pointer';
import { knownSide, stageViewOf } from '../state/stage-view-of';
import { desk, setDesk, useDesk } from '../state/store';
import { COMMON_TOOLS } from './common-tools';
import { ReadOut } from './read-out';
import type { Room } from './room';
import { StageChips } from './stage-chips';
import { ToolTray } from './tool-tray';

/** Hands the view of the state to the stage, from now until it goes: the one place that touches it. */
function attachStage(stage: Stage): () => void {
  const show = () => stage.update(stageViewOf(desk()));
  show();
  const ends = [
    useDesk.subscribe(show),
    posing.listen((now) => now && stage.pose(now.figure, now.pose)),
    touching.listen((now) => now && stage.touch(now.figure, now.touched)),
    camera.listen((wish) => wish && stage.obey(wish)),
  ];
  const now = posing.value;
  if (now) stage.pose(now.figure, now.pose);
  stage.rig.onTurned = () => setDesk({ view: 'free' });
  return () => {
    for (const end of ends) end();
  };
}

const NO_LINES: readonly DrawnLine[] = [];

/** The stage with its controls above and its read-out line below. It stays alive across the rooms. */
export function MainStage({ room }: { room: Room }) {
  const character = useDesk((state) => state.character);
  const figure = useDesk((state) => state.figure);
  const brief = useDesk((state) => state.brief);
  const pins = useDesk((state) => state.record?.pins);
  const name = useDesk((state) => state.record?.name);
  const held = useDesk((state) => state.tool);
  const isCompared = useDesk((state) => state.compared !== null);
  const isPlain = !isCompared && !room.wide;
  const staff = useMemo(() => (figure ? staffOf(figure, brief) : null), [figure, brief]);
  const lines = useMemo(
    () => (character && pins ? pinnedLines(character, pins, brief.unit) : NO_LINES),
    [character, pins, brief],
  );
  const tools = useMemo(() => [...COMMON_TOOLS, ...room.tools], [room]);
  const tool = tools.find((tool) => tool.id === held) ?? COMMON_TOOLS[0];
  const onStage = useStage();
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col">
      {!room.wide && <StageChips />}
      <div className="relative min-h-0 flex-1">
        <StageCanvas
          label={character ? `${name} on the stage` : 'The stage'}
          staff={isPlain ? staff : null}
          lines={isPlain ? lines : NO_LINES}
          makeTool={tool.make}
          drawing={room.drawing}
          layers={room.layers}
          onStage={onStage}
        />
        {room.Over && <room.Over />}
        {isPlain && character && <ToolTray tools={tools} />}
        <Arriving />
      </div>
      {!room.wide && <ReadOut />}
    </div>
  );
}

/** Attaches the stage when it comes and lets go when it goes. */
function useStage(): (stage: Stage | null) => void {
  const detach = useRef<(() => void) | null>(null);
  return useCallback((stage: Stage | null) => {
    detach.current?.();
    detach.current = stage ? attachStage(stage) : null;
  }, []);
}

/** How far a large character has come. */
function Arriving() {
  const busy = useDesk((state) => state.busy);
  const arriving = useDesk((state) => state.arriving);
  const isThere = useDesk((state) => state.character !== null);
  if (!busy || isThere) return null;
  const cancel = () => {
    arriving?.cancel.abort();
    window.location.assign('/');
  };
  return (
    <div className="absolute inset-0 grid place-items-center">
      <div className="w-64 text-center text-soft">
        <p className="mb-2">{busy}</p>
        {arriving && <ProgressBar share={arriving.share} label="Opened so far" />}
        {arriving && (
          <Button small className="mt-3" onClick={cancel}>
            Cancel
          </Button>
        )}
      </div>
    </div>
  );
}

/** A figure lower than this has no height to show, metres. */
const FLAT = 1e-6;

function staffOf({ body }: Figure, { unit, height }: Brief): Staff {
  const box = body && body.max[1] - body.min[1] > FLAT ? body : null;
  return {
    perMetre: inUnit(1, unit),
    target: height?.target ?? null,
    tolerance: height?.tolerance ?? 0,
    top: box ? box.max[1] : null,
    text: box ? lengthText(box.max[1] - box.min[1], unit) : '',
    boxText: `${Number(inUnit(knownSide(unit), unit).toPrecision(3))} ${unitSign(unit)}`,
  };
}

const pinnedLines = (character: Character, pins: readonly Pin[], unit: LengthUnit): DrawnLine[] =>
  pins.flatMap((pin) => {
    const from = placeOfEnd(character, pin.from);
    const to = placeOfEnd(character, pin.to);
    return from && to ? [{ from, to, text: lengthText(distance(from, to), unit) }] : [];
  });
