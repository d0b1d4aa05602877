'use client';

import clsx from 'clsx';
import { Lock, LockOpen } from 'lucide-react';
import { useEffect, useId, useMemo, useState } from 'react';
import type { ElementsOf } from '@/core/character/model';
import type { Pull, Pulls } from '@/core/rooms/weights/figures';
import { messageOf } from '../../kit/api';
import { Button } from '../../kit/button';
import { countOf, numberText } from '../../kit/format';
import { IconButton } from '../../kit/icon-button';
import { MiddleCut } from '../../kit/middle-cut';
import { changeLook, choosePicked, chosenOf, lookAtBone, openByHand } from '../../state/choose';
import { marksOf } from '../../state/findings-places';
import { withNodes } from '../../state/look';
import { applyOnChoice } from '../../state/steps';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { BrushPanel } from './brush-panel';
import { copyRow, paramsOfPaste, useCopiedRow } from './copied-row';

/** The points that are meant: what is chosen by hand, or what the chosen finding is about. */
function useMeantPoints(): readonly ElementsOf[] {
  const character = useDesk((state) => state.character);
  const lastChosen = useDesk((state) => state.lastChosen);
  const picked = useDesk((state) => state.picked);
  const chosenSet = useDesk((state) => state.chosenSet);
  const chosen = useDesk((state) => state.chosen);
  const findings = useDesk((state) => state.findings);
  const figure = useDesk((state) => state.figure);
  return useMemo(() => {
    if (picked.vertices.size + picked.polygons.size > 0 && character) {
      const { vertices, polygons } = chosenOf({
        character,
        lastChosen: 'picked',
        picked,
        bone: -1,
        chosenSet,
      });
      return [
        ...vertices,
        ...polygons.map((faces) => verticesOf(character.meshes[character.nodes[faces.node].mesh], faces)),
      ];
    }
    const finding = findings?.find(({ key }) => key === chosen);
    if (lastChosen !== 'finding' || !finding || !figure) return [];
    return [...marksOf(finding, figure).vertices].map(([node, ids]) => ({ node, ids }));
  }, [character, lastChosen, picked, chosenSet, chosen, findings, figure]);
}

function verticesOf(
  { polygonOffsets, corners }: { readonly polygonOffsets: Uint32Array; readonly corners: Uint32Array },
  { node, ids }: ElementsOf,
): ElementsOf {
  const vertices = new Set<number>();
  for (const face of ids)
    for (let k = polygonOffsets[face]; k < polygonOffsets[face + 1]; k++) vertices.add(corners[k]);
  return { node, ids: Uint32Array.from(vertices) };
}

/** What the worker tells of them; null until it has. */
function usePulls(points: readonly ElementsOf[]): Pulls | null {
  const revision = useDesk((state) => state.revision);
  const draft = useDesk((state) => state.draft);
  const [told, setTold] = useState<{ readonly of: readonly ElementsOf[]; readonly pulls: Pulls } | null>(
    null,
  );
  useEffect(() => {
    if (points.length === 0) return;
    let isOpen = true;
    deskWorker()
      .pulls(points)
      .then((pulls) => isOpen && setTold({ of: points, pulls }))
      .catch((error: unknown) => isOpen && setDesk({ error: messageOf(error) }));
    return () => {
      isOpen = false;
    };
  }, [points, revision, draft]);
  return told?.of === points ? told.pulls : null;
}

/** Which bones pull what is chosen, and exact weights for it. */
export function PullsPage() {
  const points = useMeantPoints();
  const pulls = usePulls(points);
  const isBrushing = useDesk((state) => state.tool === 'brush');
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      {isBrushing && <BrushPanel />}
      <ByWeight />
      {points.length === 0 && (
        <p className="mt-3 text-[13px] text-soft">
          No points are chosen: press Choose above, or go over the surface with box or brush (S), for the
          bones that pull there.
        </p>
      )}
      {pulls?.points === 0 && (
        <p className="mt-3 text-[13px]">What is chosen is bound to no bone; bind it on the page Bind.</p>
      )}
      {pulls && pulls.points > 0 && (
        <>
          <Exactly points={points} pulls={pulls} />
          <PullTable points={points} pulls={pulls} />
        </>
      )}
    </div>
  );
}

/** Chooses the points that the chosen bone pulls between two weights. */
function ByWeight() {
  const bone = useDesk((state) => state.bone);
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  const [range, setRange] = useState<readonly [number, number]>([0.01, 1]);
  const id = useId();
  if (name === undefined)
    return <p className="text-[13px] text-soft">No bone is chosen: press a twig, or a name below.</p>;
  const choose = async () => {
    const found = await deskWorker().pointsPulled(bone, ...range);
    choosePicked({
      vertices: new Map(found.map(({ node, ids }) => [node, ids])),
      polygons: new Map(),
      bones: new Set(),
    });
  };
  const field = (at: 0 | 1, label: string) => (
    <input
      type="number"
      aria-label={label}
      min={0}
      max={1}
      step={0.05}
      value={range[at]}
      onChange={(event) => {
        const value = Math.min(1, Math.max(0, Number(event.target.value)));
        setRange(at === 0 ? [value, range[1]] : [range[0], value]);
      }}
      className="mono h-7 w-[62px] rounded-md border border-rule bg-sheet px-1.5 text-right"
    />
  );
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-[13px]" role="group" aria-labelledby={id}>
      <span id={id} className="flex w-full min-w-0 gap-1">
        <span className="shrink-0 text-soft">Points pulled by</span>
        <MiddleCut text={name} className="mono min-w-0 font-semibold" />
      </span>
      <span className="text-soft">by</span>
      {field(0, 'From this weight')}
      <span className="text-soft">to</span>
      {field(1, 'To this weight')}
      <Button small onClick={() => void choose()}>
        Choose
      </Button>
    </div>
  );
}

const HOW = [
  { how: 'set', word: 'Set' },
  { how: 'add', word: 'Add' },
  { how: 'take', word: 'Take away' },
  { how: 'scale', word: 'Multiply' },
] as const;

function Exactly({ points, pulls }: { points: readonly ElementsOf[]; pulls: Pulls }) {
  const bone = useDesk((state) => state.bone);
  const name = useDesk((state) => state.character?.nodes[state.bone]?.name);
  const busy = useDesk((state) => state.busy);
  const held = useDesk((state) => state.heldBones);
  const copied = useCopiedRow((state) => state.row);
  const [value, setValue] = useState(0.5);
  const params = { vertices: points, bone, value, locked: [...held] };
  return (
    <>
      <h3 className="title mt-4 text-[16px]">Exactly</h3>
      <div
        className="mt-1.5 flex flex-wrap items-center gap-1.5 text-[13px]"
        role="group"
        aria-label="Weight of the chosen bone, exactly"
      >
        <input
          type="number"
          aria-label="Weight"
          min={0}
          max={10}
          step={0.05}
          value={value}
          onChange={(event) => setValue(Math.min(10, Math.max(0, Number(event.target.value))))}
          className="mono h-7 w-[62px] rounded-md border border-rule bg-sheet px-1.5 text-right"
        />
        {HOW.map(({ how, word }) => (
          <Button
            key={how}
            small
            disabled={!!busy || name === undefined || held.has(bone)}
            onClick={() =>
              void applyOnChoice('edit-weights', { ...params, how }, `${word} ${value} of ${name}`)
            }
          >
            {word}
          </Button>
        ))}
      </div>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Button
          small
          disabled={!!busy}
          onClick={() =>
            void applyOnChoice(
              'smooth-weights',
              { vertices: points, locked: [...held] },
              'Smooth the weights',
            )
          }
        >
          Smooth
        </Button>
        <Button
          small
          disabled={!!busy}
          onClick={() =>
            void applyOnChoice('average-weights', { vertices: points }, 'Give all the same weights')
          }
        >
          All the same
        </Button>
        <Button
          small
          disabled={!!busy}
          title="Take its list of bones and weights along"
          onClick={() => copyRow(pulls.pulls)}
        >
          Copy the list
        </Button>
        <Button
          small
          disabled={!!busy || !copied}
          onClick={() =>
            copied &&
            void applyOnChoice('brush-weights', paramsOfPaste(copied, points), 'Paste a list of weights')
          }
        >
          Paste it
        </Button>
        <Button small kind="quiet" onClick={() => openByHand()}>
          More by hand …
        </Button>
      </div>
    </>
  );
}

/** Every bone that pulls what is chosen: to look at, to hold, to take out. */
function PullTable({ points, pulls }: { points: readonly ElementsOf[]; pulls: Pulls }) {
  const held = useDesk((state) => state.heldBones);
  return (
    <>
      <h3 className="title mt-4 text-[16px]">Who pulls {numberText(pulls.points)} points</h3>
      <table className="mt-1 w-full text-[12.5px]">
        <thead>
          <tr className="border-b border-rule text-right text-soft">
            <th scope="col" className="py-1 text-left font-normal">
              bone
            </th>
            <th scope="col" className="font-normal">
              points
            </th>
            <th scope="col" className="font-normal">
              mean
            </th>
            <th scope="col" className="font-normal">
              most
            </th>
            <th scope="col">
              <span className="sr-only">held or taken out</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {pulls.pulls.map((pull) => (
            <PullRow key={pull.bone} pull={pull} points={points} />
          ))}
        </tbody>
      </table>
      {held.size > 0 && (
        <p className="mt-2 flex items-baseline justify-between text-[12.5px] text-soft">
          {countOf(held.size, 'bone')} held: {held.size === 1 ? 'its' : 'their'} weights stay.
          <button
            type="button"
            className="font-semibold text-leaf underline"
            onClick={() => changeLook({ heldBones: new Set() })}
          >
            let all go
          </button>
        </p>
      )}
    </>
  );
}

function PullRow({
  pull: { bone, name, points: count, mean, most },
  points,
}: {
  pull: Pull;
  points: readonly ElementsOf[];
}) {
  const isChosen = useDesk((state) => state.bone === bone);
  const held = useDesk((state) => state.heldBones);
  const busy = useDesk((state) => state.busy);
  const isHeld = held.has(bone);
  return (
    <tr className="border-b border-rule/60">
      <th scope="row" className="max-w-0 py-1 text-left font-normal" style={{ width: '46%' }}>
        <button
          type="button"
          className={clsx('mono block w-full text-left', isChosen && 'font-semibold text-damson')}
          onClick={() => lookAtBone(bone)}
        >
          <MiddleCut text={name} />
          <span
            aria-hidden="true"
            className="mt-0.5 block h-1 rounded-sm"
            style={{ width: `${Math.max(1, mean * 100)}%`, background: 'var(--leaf)' }}
          />
        </button>
      </th>
      <td className="mono text-right">{numberText(count)}</td>
      <td className="mono pl-2 text-right">{mean.toFixed(3)}</td>
      <td className="mono pl-2 text-right">{most.toFixed(2)}</td>
      <td className="pl-1">
        <span className="flex items-center justify-end">
          <IconButton
            label={isHeld ? `Let ${name} change` : `Hold ${name}`}
            aria-pressed={isHeld}
            onClick={() => changeLook({ heldBones: withNodes(held, [bone], !isHeld) })}
          >
            {isHeld ? <Lock size={13} className="text-damson" /> : <LockOpen size={13} />}
          </IconButton>
          <Button
            small
            kind="quiet"
            aria-label={`Take ${name} out here`}
            disabled={!!busy || isHeld}
            onClick={() =>
              void applyOnChoice(
                'take-bone-out',
                { vertices: points, bone, locked: [...held] },
                `Take ${name} out`,
              )
            }
          >
            out
          </Button>
        </span>
      </td>
    </tr>
  );
}
