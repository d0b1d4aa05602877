'use client';

import { SlidersHorizontal } from 'lucide-react';
import { Popover } from 'radix-ui';
import { Chip } from '../kit/button';
import { drawFinely, drawsFinely } from '../stage/drawing';
import { VIEWS, type Surface } from '../stage/view';
import {
  changeLook,
  frameChosen,
  lookAtOwners,
  lookAtWeights,
  lookFrom,
  toggleIsolation,
} from '../state/choose';
import { useDesk } from '../state/store';

const SURFACES: readonly { readonly surface: Surface; readonly word: string; choose(): void }[] = [
  { surface: 'clay', word: 'Clay', choose: () => changeLook({ surface: 'clay', heat: null }) },
  { surface: 'weights', word: 'Weights', choose: lookAtWeights },
  { surface: 'owners', word: 'Owners', choose: lookAtOwners },
  { surface: 'parts', word: 'Meshes', choose: () => changeLook({ surface: 'parts', heat: null }) },
];

/** What the surface shows, how twigs are drawn, and from where one looks. */
export function StageChips() {
  return (
    <div className="@container shrink-0">
      <div className="flex flex-wrap justify-end gap-x-3 gap-y-2 px-3 pb-1 pt-2.5 @max-[560px]:gap-1">
        <SurfaceChips />
        <ViewChips />
      </div>
    </div>
  );
}

function SurfaceChips() {
  const surface = useDesk((state) => state.surface);
  const edges = useDesk((state) => state.edges);
  const sheer = useDesk((state) => state.sheer);
  // Two revisions beside each other have a picture of their own.
  const isCompared = useDesk((state) => state.compared !== null);
  const isHeat = useDesk((state) => state.heat !== null);
  return (
    <div className="flex gap-1 @max-[560px]:contents" role="group" aria-label="What the surface shows">
      {SURFACES.map((otherSurface) => (
        <Chip
          key={otherSurface.surface}
          on={!isCompared && !isHeat && surface === otherSurface.surface}
          disabled={isCompared}
          onClick={otherSurface.choose}
        >
          {otherSurface.word}
        </Chip>
      ))}
      <Chip on={edges} onClick={() => changeLook({ edges: !edges })}>
        Edges
      </Chip>
      <Chip on={sheer} onClick={() => changeLook({ sheer: !sheer })}>
        Sheer
      </Chip>
    </div>
  );
}

function ViewChips() {
  const twigs = useDesk((state) => state.twigs);
  const view = useDesk((state) => state.view);
  const isIsolated = useDesk((state) => state.isolated !== null);
  return (
    <div className="flex gap-1 @max-[560px]:contents" role="group" aria-label="Views">
      <Chip on={twigs} onClick={() => changeLook({ twigs: !twigs })}>
        Twigs
      </Chip>
      <TwigSettings />
      {VIEWS.map((otherView) => (
        <Chip key={otherView} on={view === otherView} onClick={() => lookFrom(otherView)}>
          {otherView[0].toUpperCase() + otherView.slice(1)}
        </Chip>
      ))}
      <Chip on={false} onClick={frameChosen} title="Bring the camera to what is chosen (Q)">
        Go to it
      </Chip>
      <Chip on={isIsolated} onClick={() => void toggleIsolation()}>
        Isolate
      </Chip>
    </div>
  );
}

function TwigSettings() {
  const through = useDesk((state) => state.through);
  const twigSize = useDesk((state) => state.twigSize);
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label="How twigs are drawn"
          className="grid h-7 w-7 place-items-center rounded-full border border-rule bg-sheet hover:bg-wash"
        >
          <SlidersHorizontal size={13} />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          className="z-20 w-56 rounded-lg border border-rule bg-sheet p-3 shadow-lg"
        >
          <label className="block text-[13px]">
            Size of the twigs
            <input
              type="range"
              min={0.4}
              max={2.5}
              step={0.1}
              value={twigSize}
              onChange={(event) => changeLook({ twigSize: Number(event.target.value) })}
              className="mt-1 w-full accent-[var(--leaf)]"
            />
          </label>
          <label className="mt-2 flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              checked={through}
              onChange={(event) => changeLook({ through: event.target.checked })}
              className="accent-[var(--leaf)]"
            />
            Drawn through the mesh
          </label>
          <SmoothEdges />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A component of its own, so that the graphics card is asked only once the box is open, in a browser. */
function SmoothEdges() {
  return (
    <label className="mt-2 flex items-center gap-2 border-t border-rule pt-2 text-[13px]">
      <input
        type="checkbox"
        defaultChecked={drawsFinely()}
        onChange={(event) => {
          drawFinely(event.target.checked);
          window.location.reload();
        }}
        className="accent-[var(--leaf)]"
      />
      Smooth edges (slow without a graphics card)
    </label>
  );
}
