'use client';

import clsx from 'clsx';
import { type LengthUnit, fineUnit } from '@/core/contracts/units';
import { addedTo, addsTooMuch } from '@/core/rooms/crosswalk/deviation-floor';
import { isRestSolved } from '@/core/rooms/crosswalk/remap';
import { Button, Chip } from '../../kit/button';
import { numberText } from '../../kit/format';
import { ProgressBar } from '../../kit/progress';
import { useDesk } from '../../state/store';
import { shortLength } from './pair-row';
import {
  type RemapTrial,
  type CrosswalkSession,
  borrowMotion,
  cancelSolving,
  setHow,
  useCrosswalkSession,
} from './session';

interface ArrivesRow {
  readonly label: string;
  readonly value: string;
  readonly title?: string;
  /** Null where it is neither good nor bad. */
  readonly isGood: boolean | null;
}

const row = (label: string, value: string, isGood: boolean | null = null, title?: string): ArrivesRow => ({
  label,
  value,
  isGood,
  ...(title && { title }),
});

function weightRows({ report }: RemapTrial, limit: number): ArrivesRow[] {
  const { weight, vertices, skin } = report;
  const kept = Math.abs(weight.after - weight.before) < 1e-4 * Math.max(1, weight.before);
  return [
    row('Weight before, and after', `${weight.before.toFixed(2)} → ${weight.after.toFixed(2)}`, kept),
    row(`Points that lose a bone (limit ${limit})`, numberText(vertices.trimmed)),
    row('Points without weight', numberText(vertices.unweighted), vertices.unweighted === 0),
    row(skinLabel(skin), numberText(skin.listed)),
  ];
}

/** What a skin lists, and what of it it could do without. */
const skinLabel = ({ listed, needed }: RemapTrial['report']['skin']) =>
  listed === needed ? 'Bones that a skin lists' : `Bones that a skin lists (${needed} carry weight)`;

function proofRows(
  { proof }: RemapTrial,
  { price, byRules }: Pick<CrosswalkSession, 'price' | 'byRules'>,
  unit: LengthUnit,
  allowed: number,
): ArrivesRow[] {
  const length = (metres: number) => shortLength(metres, unit);
  const rows = [
    row('Farthest from before, all poses', length(proof.max), proof.max <= allowed),
    row('95 of 100 points stay within', length(proof.p95), proof.p95 <= allowed),
    row(
      'In the mean over all points',
      byRules ? `${length(byRules.rms)} → ${length(proof.rms)}` : length(proof.rms),
      proof.rms <= allowed,
      byRules ? 'By the rules alone, the mesh as posed, and by example' : undefined,
    ),
  ];
  if (!price || proof.max <= HARDLY) return rows;
  return [
    ...rows,
    row(
      'Of that the skeleton itself costs',
      length(price.rms),
      null,
      'In the mean: no weights, no motion of its joints and, in another rest pose, no shape at rest that were found bring the mesh nearer',
    ),
    row('This move adds', length(addedTo(price, proof).rms), !addsTooMuch(price, proof, allowed)),
  ];
}

/** What lies off by less costs nobody anything, metres. */
const HARDLY = 1e-5;

function toneOf({ isGood }: ArrivesRow): string {
  if (isGood === null) return '';
  return isGood ? 'text-fine' : 'text-stops';
}

/** How the weights are moved, and what arrives on the other side, in numbers. */
export function Arrives() {
  // Counts of a share of the points would say nothing of all.
  const trial = useCrosswalkSession((session) => (session.trial?.share ? null : session.trial));
  const limit = useCrosswalkSession((session) => session.limit);
  const price = useCrosswalkSession((session) => session.price);
  const byRules = useCrosswalkSession((session) => session.byRules);
  const brief = useDesk((state) => state.brief);
  const unit = fineUnit(brief.unit);
  const isBare = trial?.proof.compared === 0;
  const rows =
    trial && !isBare
      ? [...proofRows(trial, { price, byRules }, unit, brief.proofTolerance), ...weightRows(trial, limit)]
      : [];
  return (
    <div
      className="h-[238px] shrink-0 overflow-y-auto border-t border-rule bg-sheet px-[18px] py-2"
      data-testid="arrives"
      role="region"
      aria-label="What arrives"
    >
      <How />
      <Solving />
      {isBare && (
        <p className="mt-1 text-[13px] text-soft">
          A skeleton without a mesh: its bones move over, and no weights with them.
        </p>
      )}
      <table className="mt-1 w-full text-[13px]">
        <tbody>
          {rows.map((row) => (
            <tr key={row.label} className="border-b border-rule" title={row.title}>
              <td className="py-px">{row.label}</td>
              <td className={clsx('mono whitespace-nowrap py-px text-right', toneOf(row))}>{row.value}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {trial && <RestShape trial={trial} unit={unit} />}
      {trial && <WhatMoved trial={trial} unit={unit} />}
      {trial && !isBare && <AlsoFrom />}
    </div>
  );
}

/** Which of the two moves to the other, and where the weights come from. */
function How() {
  const { mode, lengths, weights, rest } = useCrosswalkSession((session) => session.how);
  const isTrying = useCrosswalkSession((session) => session.isTrying);
  return (
    <div className="flex flex-wrap items-center gap-1">
      <h3 className="mr-1 font-semibold">What arrives</h3>
      {isTrying && <span className="text-soft">counting …</span>}
      <span className="ml-auto flex gap-1" role="group" aria-label="Which moves to the other">
        <Chip
          on={mode === 'target'}
          className="!h-6 !px-2"
          title="The mesh stays where it is; the skeleton's joints move to it"
          onClick={() => setHow({ mode: 'target' })}
        >
          Joints to mesh
        </Chip>
        <Chip
          on={mode === 'mesh'}
          className="!h-6 !px-2"
          title="The mesh is brought to the skeleton's rest pose and bound there"
          onClick={() => setHow({ mode: 'mesh' })}
        >
          Mesh to rest pose
        </Chip>
      </span>
      <span className="flex gap-1" role="group" aria-label="Where the weights come from">
        <Chip
          on={weights === 'example'}
          className="!h-6 !px-2"
          title="Solved over motions, so that the mesh goes as it went"
          onClick={() => setHow({ weights: 'example' })}
        >
          By example
        </Chip>
        <Chip
          on={weights === 'rules'}
          className="!h-6 !px-2"
          title="As the pairs say and no further"
          onClick={() => setHow({ weights: 'rules' })}
        >
          Plain
        </Chip>
      </span>
      {mode === 'mesh' && (
        <span
          className="flex w-full items-center gap-1 text-[12.5px] text-soft"
          role="group"
          aria-label="Lengths of its bones"
        >
          lengths of its bones
          <Chip on={lengths === 'kept'} className="!h-6 !px-2" onClick={() => setHow({ lengths: 'kept' })}>
            its own
          </Chip>
          <Chip on={lengths === 'taken'} className="!h-6 !px-2" onClick={() => setHow({ lengths: 'taken' })}>
            the skeleton’s
          </Chip>
        </span>
      )}
      {mode === 'mesh' && lengths === 'kept' && (
        <span
          className="flex w-full items-center gap-1 text-[12.5px] text-soft"
          role="group"
          aria-label="Its shape at rest"
        >
          its shape at rest
          <Chip
            on={rest === 'example'}
            className="!h-6 !px-2"
            title="Every point stands at rest where its weights bring it nearest to where it was, over motions"
            onClick={() => setHow({ rest: 'example' })}
          >
            by example
          </Chip>
          <Chip
            on={rest === 'posed'}
            className="!h-6 !px-2"
            title="As the weights bend it on the way to the rest pose; its joints fold otherwise in motion"
            onClick={() => setHow({ rest: 'posed' })}
          >
            as posed
          </Chip>
        </span>
      )}
    </div>
  );
}

const SOLVING = {
  weights: 'Weights by example',
  price: 'What the skeleton itself costs',
  causes: 'Which pair it comes from',
} as const;

/** What is worked out behind what is shown. */
function Solving() {
  const solving = useCrosswalkSession((session) => session.solving);
  const how = useCrosswalkSession((session) => session.how);
  if (!solving) return null;
  const isRestToo = solving.what === 'weights' && isRestSolved(how);
  const word = isRestToo ? 'Rest shape and weights' : SOLVING[solving.what];
  return (
    <div className="mt-1 flex items-center gap-2 text-[12.5px] text-soft">
      <span className="whitespace-nowrap">{word}</span>
      <span className="min-w-0 flex-1">
        <ProgressBar share={solving.share} label={word} />
      </span>
      <span className="mono w-9 text-right">{Math.round(solving.share * 100)} %</span>
      <Button small kind="quiet" className="!h-6" onClick={cancelSolving}>
        {solving.what === 'weights' ? 'Keep it plain' : 'Stop'}
      </Button>
    </div>
  );
}

/** Where the rest shape differs from the posed mesh, by how much, and what was held back for its sight. */
function RestShape({ trial: { report, reshaped }, unit }: { trial: RemapTrial; unit: LengthUnit }) {
  const { rest } = report;
  if (!rest || rest.moved === 0) return null;
  const { moved, rms, max, stretch, heldBack } = rest;
  const held = heldBack === 1 ? 'One point was' : `${numberText(heldBack)} points were`;
  return (
    <div className="mt-1 text-[12.5px] text-soft" data-testid="rest-shape">
      <p>
        At rest {numberText(moved)} points stand otherwise than the posed mesh, by {shortLength(rms, unit)} in
        the mean and {shortLength(max, unit)} at most; edges are {stretch.least.toFixed(2)} to{' '}
        {stretch.most.toFixed(2)} times as long.
        {heldBack > 0 && ` ${held} held back where a face would have folded.`} By bone:
      </p>
      <ul aria-label="Bones whose points moved at rest">
        {reshaped.slice(0, MOST).map((b) => (
          <li key={b.name} className="mono flex justify-between gap-2">
            <span className="truncate text-ink">{b.name}</span>
            <span className="whitespace-nowrap">
              {numberText(b.points)} points, by up to {shortLength(b.most, unit)}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Which parts took part in solving by example, and what the limit costs. */
function WhatMoved({ trial: { report, moved }, unit }: { trial: RemapTrial; unit: LengthUnit }) {
  const { example } = report;
  if (!example) return null;
  const { changed, limited } = example;
  return (
    <div className="mt-1 text-[12.5px] text-soft">
      <p>
        By example {numberText(changed)} points got other weights
        {moved.length > 0 ? ', by bone:' : '.'}
      </p>
      <ul aria-label="Bones whose weights moved">
        {moved.slice(0, MOST).map((b) => (
          <li key={b.name} className="mono flex justify-between gap-2">
            <span className="truncate text-ink">{b.name}</span>
            <span className="whitespace-nowrap">
              {numberText(b.points)} points, by up to {Math.round(b.most * 100)} %
            </span>
          </li>
        ))}
      </ul>
      {limited.points > 0 && (
        <p>
          The limit took a bone from {numberText(limited.points)} points: {shortLength(limited.chosen, unit)}{' '}
          in the mean over the motions; {shortLength(limited.plain, unit)} if the smallest weights had gone.
        </p>
      )}
    </div>
  );
}

/** Whose clips are examples as well. */
function AlsoFrom() {
  const motions = useCrosswalkSession((session) => session.motions);
  const motion = useCrosswalkSession((session) => session.motion);
  const weights = useCrosswalkSession((session) => session.how.weights);
  if (weights !== 'example' || motions.length === 0) return null;
  return (
    <label className="mt-1 flex items-center gap-2 text-[12.5px] text-soft">
      examples also from
      <select
        value={motion?.revision ?? ''}
        onChange={(event) =>
          void borrowMotion(motions.find((motion) => motion.revision === event.target.value) ?? null)
        }
        className="h-6 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-1 text-ink"
      >
        <option value="">nobody else</option>
        {motions.map((motion) => (
          <option key={motion.revision} value={motion.revision}>
            {motion.name}
          </option>
        ))}
      </select>
    </label>
  );
}

/** How many bones are named. */
const MOST = 12;
