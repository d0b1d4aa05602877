'use client';

import { lengthText, unitSign } from '@/core/contracts/units';
import type { Character } from '@/core/character/model';
import { placeText, weightsText } from './reading';
import { type ChoiceStep, CHOICE_STEPS } from '@/core/rooms/surface/choosing';
import { Button, Chip } from '../kit/button';
import { countOf, numberText } from '../kit/format';
import { Share } from '../kit/share';
import type { GatherOf } from '../stage/tools/gather';
import { choosePicked, frameChosen } from '../state/choose';
import { stepChoice } from '../state/parts';
import { NOTHING_PICKED, type Picked } from '../state/selection';
import { useDesk } from '../state/store';
import { gatherRadius, useBox } from './box-settings';

const KINDS: readonly { readonly of: GatherOf; readonly word: string }[] = [
  { of: 'bones', word: 'Bones' },
  { of: 'points', word: 'Points' },
  { of: 'edges', word: 'Edges' },
  { of: 'polygons', word: 'Polygons' },
];

const idsIn = (ids: ReadonlyMap<number, Uint32Array>) =>
  [...ids.values()].reduce((sum, id) => sum + id.length, 0);

/** What was gathered, in words. */
function gatheredText({ vertices, polygons, bones, edges = new Map() }: Picked): string {
  const counts: readonly (readonly [number, string, string])[] = [
    [bones.size, 'bone', 'bones'],
    [idsIn(edges) / 2, 'edge', 'edges'],
    [idsIn(vertices), 'vertex', 'vertices'],
    [idsIn(polygons), 'polygon', 'polygons'],
  ];
  const parts = counts.filter(([count]) => count > 0).map((count) => countOf(...count));
  return parts.join(', ') || 'nothing yet';
}

/** What the box gathers, and how much it has. */
export function BoxPanel() {
  const { of, by, isSeenOnly, size } = useBox();
  const unit = useDesk((state) => state.brief.unit);
  const picked = useDesk((state) => state.picked);
  return (
    <>
      <div className="flex gap-1" role="group" aria-label="What the box gathers">
        {KINDS.map((kind) => (
          <Chip
            key={kind.of}
            on={of === kind.of}
            onClick={() => {
              useBox.setState({ of: kind.of });
              choosePicked(NOTHING_PICKED);
            }}
          >
            {kind.word}
          </Chip>
        ))}
      </div>
      {of !== 'bones' && (
        <div className="mt-1 flex gap-1" role="group" aria-label="How they are chosen">
          {(['box', 'brush'] as const).map((way) => (
            <Chip key={way} on={by === way} onClick={() => useBox.setState({ by: way })}>
              {way === 'box' ? 'Box' : 'Brush'}
            </Chip>
          ))}
          <Chip on={isSeenOnly} onClick={() => useBox.setState({ isSeenOnly: !isSeenOnly })}>
            Visible only
          </Chip>
        </div>
      )}
      {of !== 'bones' && by === 'brush' && (
        <Share
          label="Radius"
          value={size}
          min={0.005}
          max={0.1}
          step={0.005}
          text={lengthText(gatherRadius(size), unit)}
          onChange={(next) => useBox.setState({ size: next })}
        />
      )}
      <Gathered picked={picked} />
      <ChoiceSteps picked={picked} />
    </>
  );
}

function Gathered({ picked }: { picked: Picked }) {
  return (
    <p className="mt-2 flex items-center gap-3 text-[13px]" data-testid="gathered">
      <span className="flex-1">{gatheredText(picked)}</span>
      {picked !== NOTHING_PICKED && (
        <button type="button" className="font-semibold text-leaf underline" onClick={frameChosen}>
          go there
        </button>
      )}
    </p>
  );
}

const STEPS_OF_POINTS: readonly ChoiceStep[] = [
  'grow',
  'shrink',
  'part',
  'loop',
  'ring',
  'way',
  'twins',
  'invert',
  'polygons',
];
const STEPS_OF_POLYGONS: readonly ChoiceStep[] = [
  'grow',
  'shrink',
  'part',
  'loop',
  'twins',
  'invert',
  'points',
];

/** What can be made of the points or polygons that are chosen. */
function ChoiceSteps({ picked: { vertices, polygons } }: { picked: Picked }) {
  if (vertices.size + polygons.size === 0) return null;
  const steps = vertices.size > 0 ? STEPS_OF_POINTS : STEPS_OF_POLYGONS;
  return (
    <div className="mt-2 flex max-w-[260px] flex-wrap gap-1" role="group" aria-label="From the choice">
      {steps.map((step) => (
        <Button key={step} small title={CHOICE_STEPS[step].hint} onClick={() => void stepChoice(step)}>
          {CHOICE_STEPS[step].title}
        </Button>
      ))}
    </div>
  );
}

/** All that the picked point carries: its place, its bones with their weights, its texture coordinates. */
export function PointPanel() {
  const picked = useDesk((state) => state.picked);
  const character = useDesk((state) => state.character);
  const [first] = picked.vertices;
  if (!first || !character) return null;
  const [node, ids] = first;
  return (
    <div data-testid="gathered">
      <PointReading character={character} node={node} ids={ids} />
      {/* Closed, so that it covers no more of the figure than it must. */}
      <details className="mt-1 text-[12.5px]">
        <summary className="cursor-pointer font-semibold">From here …</summary>
        <ChoiceSteps picked={picked} />
      </details>
    </div>
  );
}

function PointReading({ character, node, ids }: { character: Character; node: number; ids: Uint32Array }) {
  const figure = useDesk((state) => state.figure);
  const brief = useDesk((state) => state.brief);
  const mesh = figure?.meshes.find((mesh) => mesh.node === node);
  if (!mesh) return null;
  const id = ids[0];
  const points = new Set(Array.from(ids, (i) => mesh.pointOfVertex[i]));
  if (points.size > 1) return <p className="text-[13px]">{numberText(points.size)} points</p>;
  const place = placeText([...mesh.points.subarray(id * 3, id * 3 + 3)], brief.unit);
  const rows: [string, string][] = [
    ['mesh', character.nodes[node].name],
    [ids.length > 1 ? 'vertices' : 'vertex', [...ids].join(', ')],
    ['place', `${place} ${unitSign(brief.unit)}`],
    ...weightsText(character, node, id).map(([bone, weight]): [string, string] => [bone, weight]),
  ];
  return (
    <dl className="text-[12.5px]">
      {rows.map(([label, value], i) => (
        <div key={i} className="flex justify-between gap-4 border-b border-rule py-0.5">
          <dt className={i > 2 ? 'mono' : 'text-soft'}>{label}</dt>
          <dd className="mono text-right">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
