'use client';

import { useMemo } from 'react';
import { Popover } from 'radix-ui';
import { SlidersHorizontal } from 'lucide-react';
import { inUnit, lengthText } from '@/core/contracts/units';
import { bodyBox } from '@/core/character/measure';
import { entriesOf } from '@/core/geometry/influences';
import { placeOfEnd } from '@/core/character/pin';
import { Button, Chip } from '../kit/button';
import { drawFinely, drawsFinely } from '../stage/drawing';
import type { Hit, Snap } from '../stage/stage';
import { type DrawnLine, type Staff, StageView } from '../stage/stage-view';
import {
  chooseBone,
  chooseFinding,
  isolateChosen,
  knownSide,
  look,
  lookAtWeights,
  refreshSurface,
  setLook,
  takePoint,
  useDesk,
} from './store';

/** The stage with its controls above and its read-out line below. */
export function MainStage() {
  const { character, brief, sheet, busy, measuring, compared, arriving } = useDesk();
  const staff = useMemo((): Staff | null => {
    if (!character) return null;
    const box = bodyBox(character);
    const perMetre = inUnit(1, brief.unit);
    return {
      perMetre,
      unit: brief.unit,
      target: brief.height?.target ?? null,
      tolerance: brief.height?.tolerance ?? 0,
      top: box ? box.max[1] : null,
      text: box ? lengthText(box.max[1] - box.min[1], brief.unit) : '',
      boxText: `${Number(inUnit(knownSide(brief.unit), brief.unit).toPrecision(3))} ${brief.unit}`,
    };
  }, [character, brief]);
  const lines = useMemo((): DrawnLine[] => {
    if (!character || compared) return [];
    const length = (a: readonly number[], b: readonly number[]) =>
      lengthText(Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]), brief.unit);
    const pinned =
      sheet?.pins.flatMap((p): DrawnLine[] => {
        const from = placeOfEnd(character, p.from);
        const to = placeOfEnd(character, p.to);
        return from && to ? [{ from, to, text: length(from, to) }] : [];
      }) ?? [];
    const { from, over } = measuring ?? { from: null, over: null };
    const at = over ?? from;
    if (!at) return pinned;
    return [
      ...pinned,
      {
        from: (from ?? at).point,
        to: at.point,
        text: from && over && from !== over ? length(from.point, over.point) : '',
        live: true,
      },
    ];
  }, [character, brief, sheet, measuring, compared]);
  const measure = useMemo(
    () =>
      measuring
        ? {
            onMove: (over: Snap | null) =>
              useDesk.setState((s) => (s.measuring ? { measuring: { ...s.measuring, over } } : {})),
            onTake: (at: Snap) => void takePoint(at),
          }
        : null,
    [measuring],
  );
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <Tools />
      <div className="relative min-h-0 flex-1">
        <StageView
          label={character ? `${sheet?.name} on the stage` : 'The stage'}
          staff={compared ? null : staff}
          lines={lines}
          measuring={measure}
          onStage={(stage) => {
            useDesk.setState({ stage });
            const { figure, chosen, bone: held } = useDesk.getState();
            if (!stage || !figure) return;
            stage.show(figure);
            refreshSurface();
            if (held >= 0) chooseBone(held);
            if (chosen) chooseFinding(chosen, false);
          }}
          onHover={(hover) => useDesk.setState({ hover })}
          onPick={(hit) => pick(hit)}
        />
        {busy && !character && (
          <div className="absolute inset-0 grid place-items-center">
            <div className="w-64 text-center text-soft">
              <p>{busy}</p>
              {arriving && (
                <>
                  <div
                    role="progressbar"
                    aria-label="Opened so far"
                    aria-valuenow={Math.round(arriving.share * 100)}
                    className="mt-2 h-1 overflow-hidden rounded bg-wash"
                  >
                    <div className="h-full bg-leaf" style={{ width: `${arriving.share * 100}%` }} />
                  </div>
                  <Button
                    small
                    className="mt-3"
                    onClick={() => {
                      arriving.cancel.abort();
                      window.location.assign('/');
                    }}
                  >
                    Cancel
                  </Button>
                </>
              )}
            </div>
          </div>
        )}
      </div>
      <ReadOut />
    </div>
  );
}

/** A component of its own, so that the graphics card is asked only once the box is open, in a browser. */
function SmoothEdges() {
  return (
    <label className="mt-2 flex items-center gap-2 border-t border-rule pt-2 text-[13px]">
      <input
        type="checkbox"
        defaultChecked={drawsFinely()}
        onChange={(e) => {
          drawFinely(e.target.checked);
          window.location.reload();
        }}
        className="accent-[var(--leaf)]"
      />
      Smooth edges (slow without a graphics card)
    </label>
  );
}

/** What the surface shows, how twigs are drawn, and from where one looks. */
function Tools() {
  const { surface, edges, seeThrough, twigs, through, twigSize, view, isolated } = useDesk();
  return (
    <div className="flex shrink-0 flex-wrap justify-end gap-x-3 gap-y-2 px-3 pb-1 pt-2.5">
      <div className="flex gap-1" role="group" aria-label="What the surface shows">
        <Chip on={surface === 'clay'} onClick={() => setLook({ surface: 'clay' })}>
          Clay
        </Chip>
        <Chip on={surface === 'weights'} onClick={lookAtWeights}>
          Weights
        </Chip>
        <Chip on={surface === 'parts'} onClick={() => setLook({ surface: 'parts' })}>
          Meshes
        </Chip>
        <Chip on={edges} onClick={() => setLook({ edges: !edges })}>
          Edges
        </Chip>
        <Chip on={seeThrough} onClick={() => setLook({ seeThrough: !seeThrough })}>
          See-through
        </Chip>
      </div>
      <div className="flex gap-1" role="group" aria-label="Views">
        <Chip on={twigs} onClick={() => setLook({ twigs: !twigs })}>
          Twigs
        </Chip>
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
                  onChange={(e) => setLook({ twigSize: Number(e.target.value) })}
                  className="mt-1 w-full accent-[var(--leaf)]"
                />
              </label>
              <label className="mt-2 flex items-center gap-2 text-[13px]">
                <input
                  type="checkbox"
                  checked={through}
                  onChange={(e) => setLook({ through: e.target.checked })}
                  className="accent-[var(--leaf)]"
                />
                Drawn through the mesh
              </label>
              <SmoothEdges />
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
        {(['front', 'left', 'top', 'free'] as const).map((v) => (
          <Chip key={v} on={view === v} onClick={() => look(v)}>
            {v[0].toUpperCase() + v.slice(1)}
          </Chip>
        ))}
        <Chip on={isolated !== null} onClick={isolateChosen}>
          Isolate
        </Chip>
      </div>
    </div>
  );
}

function pick(hit: Hit | null): void {
  if (hit?.kind === 'bone') chooseBone(hit.node);
}

/** What is under the pointer: bone, vertex with its whole list of weights, place. */
function ReadOut() {
  const { hover, character, bone, brief, surface, isolated, hidden } = useDesk();
  const parts: string[] = [];
  let lead = 'here';
  if (character && hover?.kind === 'bone') {
    parts.push(character.nodes[hover.node].name);
  } else if (character && hover) {
    const n = character.nodes[hover.node];
    const f = character.meshes[n.mesh].influences;
    parts.push(n.name, `vertex ${hover.vertex}`);
    if (f && n.skin >= 0)
      parts.push(
        ...entriesOf(f, hover.vertex)
          .slice(0, 6)
          .map(
            (e) => `${e.weight.toFixed(2)} ${character.nodes[character.skins[n.skin].joints[e.joint]].name}`,
          ),
      );
    else parts.push('not bound');
    parts.push(hover.point.map((x) => inUnit(x, brief.unit).toFixed(brief.unit === 'm' ? 3 : 1)).join(' '));
  } else if (character && bone >= 0) {
    lead = 'chosen';
    parts.push(character.nodes[bone].name);
  }
  return (
    <div className="relative shrink-0 border-t border-rule bg-sheet/95">
      {surface === 'weights' && bone >= 0 && character && (
        <div className="absolute bottom-[40px] right-4 w-[220px] text-[12px] text-soft">
          <p>
            weight of <span className="mono text-ink">{character.nodes[bone]?.name}</span>
          </p>
          <div
            className="mt-1 h-3 rounded-sm border border-rule"
            style={{
              background:
                'linear-gradient(90deg, var(--ramp-0), var(--ramp-1) 25%, var(--ramp-2) 50%, var(--ramp-3) 75%, var(--ramp-4))',
            }}
          />
          <div className="mono flex justify-between text-[11px]">
            <span>0</span>
            <span>.25</span>
            <span>.5</span>
            <span>.75</span>
            <span>1</span>
          </div>
        </div>
      )}
      <p
        className="flex h-8 items-center gap-4 overflow-hidden px-4 whitespace-nowrap"
        data-testid="read-out"
      >
        <span className="text-[12.5px] text-soft">{lead}</span>
        {parts.length === 0 ? (
          <span className="text-[12.5px] text-soft">
            point at the figure to read it; click a twig to choose its bone
          </span>
        ) : (
          parts.map((p, i) => (
            <span key={i} className="mono">
              {p}
            </span>
          ))
        )}
        <span className="ml-auto flex shrink-0 gap-4 text-[12.5px] text-damson">
          {hidden.size > 0 && (
            <button
              type="button"
              className="font-semibold underline"
              onClick={() => setLook({ hidden: new Set() })}
            >
              {hidden.size} hidden: show all
            </button>
          )}
          {isolated && <span>isolated: press I to see all</span>}
        </span>
      </p>
    </div>
  );
}
