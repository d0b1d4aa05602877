'use client';

import { useEffect, useMemo, useState } from 'react';
import { inUnit, unitSign } from '@/core/contracts/units';
import { meshNodesOf } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { heldBy } from '@/core/character/held-by';
import type { CopyAsked, CopyCounts } from '@/core/rooms/weights/remedies/copy-weights';
import { messageOf } from '../../kit/api';
import { Button, Chip } from '../../kit/button';
import { countOf } from '../../kit/format';
import { changeLook } from '../../state/choose';
import { applyOnChoice } from '../../state/steps';
import { setDesk, useDesk } from '../../state/store';
import { solveWorker } from '../../state/worker';

const BY = [
  { by: 'surface', word: 'Surface' },
  { by: 'order', word: 'Point order' },
  { by: 'uv', word: 'Texture' },
] as const;

interface Told {
  readonly of: string;
  readonly answer: { readonly values: Map<number, Float32Array>; readonly counts: CopyCounts } | string;
}

/** Where the weights would be found; null while it is looked for. */
function useCopy(asked: CopyAsked | null): Told['answer'] | null {
  const revision = useDesk((state) => state.revision);
  const character = useDesk((state) => state.character);
  const key = `${revision} ${JSON.stringify(asked)}`;
  const [told, setTold] = useState<Told | null>(null);
  useEffect(() => {
    if (!asked || !character) return;
    let isOpen = true;
    solveWorker(character)
      .copyPicture(asked)
      .then((answer) => isOpen && setTold({ of: key, answer }))
      .catch((error: unknown) => isOpen && setDesk({ error: messageOf(error) }));
    return () => {
      isOpen = false;
    };
  }, [key, asked, character]);
  return told?.of === key ? told.answer : null;
}

const isBound = (character: Character, node: number): boolean => heldBy(character, node) === 'bound';

/** Weights of one mesh copied onto another: from where, how near, and a picture of what is found and what is a guess. */
export function CopyPage() {
  const character = useDesk((state) => state.character);
  if (!character) return null;
  const meshes = meshNodesOf(character);
  if (!meshes.some((node) => isBound(character, node)) || meshes.length < 2)
    return (
      <p className="px-[18px] py-3 text-[13px]">
        There is nothing to copy from: it takes a mesh that is bound and another beside it. Add a garment or a
        new version of the body in Placement, Scene.
      </p>
    );
  return <Copying key={meshes.join()} character={character} meshes={meshes} />;
}

function Copying({ character, meshes }: { character: Character; meshes: readonly number[] }) {
  const brief = useDesk((state) => state.brief);
  const busy = useDesk((state) => state.busy);
  const picked = useDesk((state) => state.picked);
  const isShown = useDesk((state) => state.heat !== null);
  const nameOf = (node: number) => character.nodes[node].name || `mesh ${node}`;
  const pointsOf = (node: number) => character.meshes[character.nodes[node].mesh].vertexCount;
  const bound = meshes.filter((node) => isBound(character, node));
  const [from, setFrom] = useState(() =>
    bound.reduce((most, node) => (pointsOf(node) > pointsOf(most) ? node : most)),
  );
  const [onto, setOnto] = useState(
    () =>
      meshes.find((node) => heldBy(character, node) === 'loose') ??
      (meshes.find((node) => node !== from) as number),
  );
  const [by, setBy] = useState<CopyAsked['by']>('surface');
  const [distance, setDistance] = useState(0.05);
  const [angle, setAngle] = useState(70);
  const asked = useMemo(
    () => (from === onto ? null : { node: onto, from, by, distance, angle, limit: brief.limits.influences }),
    [from, onto, by, distance, angle, brief],
  );
  const answer = useCopy(asked);
  useEffect(() => () => changeLook({ heat: null }), []);
  const made = answer !== null && typeof answer !== 'string' ? answer : null;
  // Another answer, another picture.
  useEffect(() => {
    if (made && isShown) show(made.values);
  }, [made, isShown]);
  const only = picked.vertices.get(onto);
  const select = (label: string, value: number, list: readonly number[], take: (node: number) => void) => (
    <label className="mt-1.5 flex items-center gap-2">
      <span className="w-[70px] text-soft">{label}</span>
      <select
        aria-label={label}
        value={value}
        onChange={(event) => take(Number(event.target.value))}
        className="mono h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2"
      >
        {list.map((node) => (
          <option key={node} value={node}>
            {nameOf(node)}
            {isBound(character, node) ? '' : ' (not bound)'}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <div className="px-[18px] pb-8 pt-1.5 text-[13px]">
      {select('From', from, bound, setFrom)}
      {select('Onto', onto, meshes, setOnto)}
      <div className="mt-2 flex flex-wrap items-center gap-1" role="group" aria-label="By">
        <span className="w-[70px] text-soft">by</span>
        {BY.map(({ by: way, word }) => (
          <Chip key={way} on={by === way} onClick={() => setBy(way)}>
            {word}
          </Chip>
        ))}
      </div>
      {by === 'surface' && (
        <>
          <NumberRow
            label="no farther than"
            unit={unitSign(brief.unit)}
            value={Number(inUnit(distance, brief.unit).toPrecision(4))}
            onTake={(value) => value > 0 && setDistance(value / inUnit(1, brief.unit))}
          />
          <NumberRow
            label="facing within"
            unit="°"
            value={angle}
            onTake={(value) => setAngle(Math.min(180, Math.max(0, value)))}
          />
        </>
      )}
      <div className="mt-2.5 flex flex-wrap items-center gap-2">
        <Button
          kind="leaf"
          disabled={!!busy || !made || !asked}
          onClick={() =>
            void applyOnChoice(
              'copy-weights',
              { ...asked, ...(only ? { vertices: [{ node: onto, ids: only }] } : {}) },
              `Copy weights from ${nameOf(from)}`,
            )
          }
        >
          Copy weights
        </Button>
        <Chip
          on={isShown}
          disabled={!made}
          onClick={() => (isShown ? changeLook({ heat: null }) : made && show(made.values))}
        >
          Picture of it
        </Chip>
      </div>
      {from === onto && <p className="mt-2 text-soft">Choose two meshes.</p>}
      {asked && answer === null && <p className="mt-2 text-soft">looking …</p>}
      {typeof answer === 'string' && (
        <p role="alert" className="mt-2 text-stops">
          {answer}
        </p>
      )}
      {only && (
        <p className="mt-2 text-soft">
          Only the {countOf(only.length, 'vertex', 'vertices')} that are chosen get other weights.
        </p>
      )}
      {made && <Counts counts={made.counts} />}
    </div>
  );
}

const show = (values: ReadonlyMap<number, Float32Array>) =>
  changeLook({
    heat: { title: 'where weights come from', values, most: 1, ticks: ['found', 'filled in', 'guessed'] },
  });

function Counts({ counts: { found, filled, guessed } }: { counts: CopyCounts }) {
  const all = Math.max(1, found + filled + guessed);
  const row = (label: string, count: number, hint: string) => (
    <tr className="border-b border-rule/60">
      <th scope="row" className="py-1 text-left font-normal" title={hint}>
        {label}
      </th>
      <td className="mono text-right">{countOf(count, 'point')}</td>
      <td className="mono w-16 text-right text-soft">{((count / all) * 100).toFixed(1)} %</td>
    </tr>
  );
  return (
    <table className="mt-3 w-full">
      <tbody>
        {row('Found on the other mesh', found, 'near enough, and facing the same way')}
        {row('Filled in', filled, 'smoothly from those that were found on the same part')}
        {row('Guessed', guessed, 'nothing of their part is near enough: they take what lies closest')}
      </tbody>
    </table>
  );
}

function NumberRow({
  label,
  unit,
  value,
  onTake,
}: {
  label: string;
  unit: string;
  value: number;
  onTake: (value: number) => void;
}) {
  return (
    <label className="mt-1.5 flex items-center gap-2">
      <span className="flex-1 text-soft">{label}</span>
      <input
        type="number"
        value={value}
        min={0}
        step="any"
        onChange={(event) =>
          Number.isFinite(event.target.valueAsNumber) && onTake(event.target.valueAsNumber)
        }
        className="mono h-7 w-24 rounded-md border border-rule bg-sheet px-2 text-right"
      />
      <span className="mono w-7 text-soft">{unit}</span>
    </label>
  );
}
