'use client';

import { useEffect, useMemo, useState } from 'react';
import type { Brief } from '@/core/house/brief';
import { BINDING_WAYS, type BindingWay } from '@/core/rooms/weights/binding';
import type { BindableMesh, BindingFigures, PartBinding } from '@/core/rooms/weights/figures';
import { messageOf } from '../../kit/api';
import { Button, Chip } from '../../kit/button';
import { countOf, numberText } from '../../kit/format';
import { MiddleCut } from '../../kit/middle-cut';
import { useFigures } from '../../parts/use-figures';
import { choosePicked, frameChosen, goToRoom } from '../../state/choose';
import { applyRemedy } from '../../state/steps';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker, solveWorker } from '../../state/worker';

const askMeshes = () => deskWorker().bindable();

/** The look before a bind; null while it is made. */
function useLook(
  nodes: readonly number[],
  brief: Brief,
  bones: readonly number[] | null,
): BindingFigures | null {
  const revision = useDesk((state) => state.revision);
  const character = useDesk((state) => state.character);
  const key = `${revision} ${nodes.join(' ')} ${bones?.join(' ') ?? ''}`;
  const [told, setTold] = useState<{ readonly key: string; readonly look: BindingFigures } | null>(null);
  useEffect(() => {
    if (nodes.length === 0 || !character) return;
    let isOpen = true;
    solveWorker(character)
      .bindingLook(nodes, brief, bones)
      .then((look) => isOpen && setTold({ key, look }))
      .catch((error: unknown) => isOpen && setDesk({ error: messageOf(error) }));
    return () => {
      isOpen = false;
    };
  }, [key, nodes, brief, bones, character]);
  return told?.key === key ? told.look : null;
}

/** Meshes bound to the bones anew: which ones, a look at every part beforehand, and the run. */
export function BindPage() {
  const meshes = useFigures(askMeshes);
  if (!meshes) return <p className="px-[18px] py-3 text-soft">looking …</p>;
  if (meshes.length === 0) return <p className="px-[18px] py-3 text-[13px]">There is no mesh to bind.</p>;
  return <Binding key={meshes.map(({ node }) => node).join()} meshes={meshes} />;
}

const HELD = { bound: 'bound', hung: 'hangs on a bone', loose: 'not bound' } as const;

function Binding({ meshes }: { meshes: readonly BindableMesh[] }) {
  const brief = useDesk((state) => state.brief);
  const busy = useDesk((state) => state.busy);
  const sets = useDesk((state) => state.character?.sets);
  // Those that hang on nothing are what one comes for.
  const [chosen, setChosen] = useState<ReadonlySet<number>>(
    () => new Set(meshes.filter(({ held }) => held === 'loose').map(({ node }) => node)),
  );
  const [method, setMethod] = useState<'heat' | 'near'>('heat');
  const [setName, setSetName] = useState('');
  const [said, setSaid] = useState<ReadonlyMap<string, BindingWay>>(new Map());
  const nodes = useMemo(() => [...chosen].sort((a, b) => a - b), [chosen]);
  const bones = useMemo(() => sets?.find(({ name }) => name === setName)?.bones ?? null, [sets, setName]);
  const look = useLook(nodes, brief, bones);
  const bind = () => {
    const ways = [...said].flatMap(([key, way]) => {
      const [node, island] = key.split('/').map(Number);
      return chosen.has(node) ? [{ node, island, way }] : [];
    });
    void applyRemedy(
      'bind',
      { nodes, method, limit: brief.limits.influences, ways, ...(bones ? { bones: [...bones] } : {}) },
      `Bind ${countOf(nodes.length, 'mesh', 'meshes')}`,
    );
  };
  return (
    <div className="px-[18px] pb-8 pt-2.5 text-[13px]">
      <ul aria-label="Meshes">
        {meshes.map(({ node, name, points, held, parts }) => (
          <li key={node} className="border-b border-rule/60">
            <label className="flex items-baseline gap-2 py-1">
              <input
                type="checkbox"
                // Names that are cut in the middle are read as a whole.
                aria-label={name}
                checked={chosen.has(node)}
                onChange={(event) => {
                  const next = new Set(chosen);
                  if (event.target.checked) next.add(node);
                  else next.delete(node);
                  setChosen(next);
                }}
                className="accent-[var(--leaf)]"
              />
              <MiddleCut text={name} className="mono min-w-0 flex-1" />
              <span className="shrink-0 text-[12px] text-soft">
                {countOf(points, 'point')}, {countOf(parts, 'part')} ·{' '}
                <span className={held === 'loose' ? 'font-semibold text-worth' : ''}>{HELD[held]}</span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="mt-2.5 flex flex-wrap items-center gap-1" role="group" aria-label="By">
        <span className="mr-1 text-soft">by</span>
        <Chip on={method === 'heat'} onClick={() => setMethod('heat')}>
          Heat from the bones
        </Chip>
        <Chip on={method === 'near'} onClick={() => setMethod('near')}>
          Nearest bones
        </Chip>
      </div>
      {sets && sets.some((set) => set.bones.length > 0) && (
        <label className="mt-2 flex items-center gap-2">
          <span className="text-soft">only the bones of</span>
          <select
            value={setName}
            onChange={(event) => setSetName(event.target.value)}
            className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-2"
          >
            <option value="">all that deform</option>
            {sets.map(({ name, bones: own }) => own.length > 0 && <option key={name}>{name}</option>)}
          </select>
        </label>
      )}
      <Button kind="leaf" className="mt-2.5" disabled={!!busy || !look || look.bones === 0} onClick={bind}>
        Bind {nodes.length === 0 ? '' : countOf(nodes.length, 'mesh', 'meshes')}
      </Button>
      {nodes.length === 0 && <p className="mt-2 text-soft">Choose the meshes that are to be bound.</p>}
      {nodes.length > 0 && !look && <p className="mt-2 text-soft">looking at every part …</p>}
      {look && nodes.length > 0 && (
        <Look
          look={look}
          said={said}
          isByHeat={method === 'heat'}
          onSay={(key, way) => setSaid(new Map([...said, [key, way]]))}
        />
      )}
    </div>
  );
}

/** Rows that are shown of the parts; the others are bound as the look says. */
const MOST_ROWS = 200;

function Look({
  look: { bones, outside, parts, doubled },
  said,
  isByHeat,
  onSay,
}: {
  look: BindingFigures;
  said: ReadonlyMap<string, BindingWay>;
  isByHeat: boolean;
  onSay: (key: string, way: BindingWay) => void;
}) {
  return (
    <>
      <p className="mt-3">
        {countOf(bones, 'bone')} {bones === 1 ? 'takes' : 'take'} part.
        {outside.length > 0 && (
          <span className="text-soft">
            {' '}
            Left out, since {outside.length === 1 ? 'it lies' : 'they lie'} outside:{' '}
            <span className="mono">{outside.slice(0, 4).join(', ')}</span>
            {outside.length > 4 && ` and ${outside.length - 4} more`}.
          </span>
        )}
      </p>
      {doubled.map(({ node, name, points }) => (
        <p key={node} className="mt-1 text-worth">
          {countOf(points, 'point')} of <span className="mono">{name}</span> lie on others and are not joined:
          heat stops there.{' '}
          <button
            type="button"
            className="font-semibold underline"
            onClick={() => {
              goToRoom('surface');
              setDesk({ page: 'doubles' });
            }}
          >
            Merge them first
          </button>
        </p>
      ))}
      <h3 className="title mt-3 text-[16px]">Part by part</h3>
      <ul aria-label="Parts and how they are bound">
        {parts.slice(0, MOST_ROWS).map((part) => (
          <PartRow
            key={`${part.node}/${part.island}`}
            part={part}
            way={said.get(`${part.node}/${part.island}`) ?? wayOf(part, isByHeat)}
            isSaid={said.has(`${part.node}/${part.island}`)}
            onSay={(way) => onSay(`${part.node}/${part.island}`, way)}
          />
        ))}
      </ul>
      {parts.length > MOST_ROWS && (
        <p className="py-1 text-soft">
          and {numberText(parts.length - MOST_ROWS)} more, each as the look says
        </p>
      )}
    </>
  );
}

/** Without heat all are bound to the nearest bones but for those that go wholly with one. */
const wayOf = ({ way }: PartBinding, isByHeat: boolean): BindingWay =>
  isByHeat || way === 'one' ? way : 'near';

function PartRow({
  part: { node, name, points, kind, why, polygons },
  way,
  isSaid,
  onSay,
}: {
  part: PartBinding;
  way: BindingWay;
  isSaid: boolean;
  onSay: (way: BindingWay) => void;
}) {
  return (
    <li className="border-t border-rule/60 py-1.5">
      <span className="flex items-baseline gap-2">
        <button
          type="button"
          className="mono min-w-0 flex-1 text-left underline"
          onClick={() => {
            choosePicked({ vertices: new Map(), polygons: new Map([[node, polygons]]), bones: new Set() });
            frameChosen();
          }}
        >
          <MiddleCut text={name} />
        </button>
        <span className="shrink-0 text-[12px] text-soft">
          {[kind, countOf(points, 'point')].filter(Boolean).join(' · ')}
        </span>
      </span>
      <span className="mt-0.5 flex items-baseline gap-2">
        <select
          aria-label={`How ${name} is bound`}
          value={way}
          onChange={(event) => onSay(event.target.value as BindingWay)}
          className="h-6 rounded-md border border-rule bg-sheet px-1 text-[12px]"
        >
          {Object.entries(BINDING_WAYS).map(([id, words]) => (
            <option key={id} value={id}>
              {words}
            </option>
          ))}
        </select>
        <span className="min-w-0 text-[12px] leading-tight text-soft">{isSaid ? 'chosen by hand' : why}</span>
      </span>
    </li>
  );
}
