'use client';

import { useEffect, useRef, useState } from 'react';
import { type Brief } from '@/core/house/brief';
import { inUnit } from '@/core/contracts/units';
import { remedyById } from '@/core/house/registry';
import { type RemedyCall } from '@/core/contracts/finding';
import { UNITS, heightIn } from '@/core/contracts/units';
import { bodyHeight, skeletonHeight } from '@/core/rooms/placement/survey';
import { Button, Chip } from '../kit/button';
import { smallLength } from '@/core/contracts/effects-words';
import { oneLine, withUnit } from '../kit/format';
import type { Preview } from '../worker/desk.worker';
import { applyRemedy, deskWorker, useDesk } from './store';

/** Parameters that point into the character; the finding has set them. */
const GIVEN = new Set(['node', 'bone', 'parent', 'nodes', 'skin']);
const LENGTHS = new Set(['height', 'measured', 'wanted', 'distance']);
const WORDS: Readonly<Record<string, string>> = {
  limit: 'Bones a point may keep',
  dust: 'Drop weights up to',
  distance: 'Distance',
  height: 'Height wanted',
  factor: 'Factor, new / old',
  measured: 'Length measured',
  wanted: 'Length wanted',
  arms: 'Arms below the horizontal, degrees',
  bend: 'Bend that may stay, degrees',
  legs: 'Legs off the vertical, degrees',
  by: 'Go by',
  metres: 'The file’s unit',
  up: 'Axis that points up',
};
const CHOICES: Readonly<Record<string, string>> = {
  height: 'height',
  factor: 'factor',
  points: 'two lengths',
  x: 'x',
  y: 'y',
  z: 'z',
};
/** Which fields a choice asks for. */
const ASKS: Readonly<Record<string, readonly string[]>> = {
  height: ['height'],
  factor: ['factor'],
  points: ['measured', 'wanted'],
};

interface Field {
  readonly name: string;
  readonly type: string;
  readonly oneOf: readonly string[];
}

function fieldsOf(call: RemedyCall, params: Record<string, unknown>): Field[] {
  const remedy = remedyById(call.id);
  if (!remedy) return [];
  const asked = typeof params.by === 'string' ? ASKS[params.by] : null;
  return Object.entries(remedy.params.describe().fields).flatMap(([name, f]): Field[] => {
    const { type, oneOf = [] } = f as { type: string; oneOf?: readonly unknown[] };
    if (
      GIVEN.has(name) ||
      (call.id === 'choose-driver' && name === 'driver') ||
      (call.id === 'recompute-binds' && name === 'keep') ||
      (call.id === 'change-unit' && name === 'up' && params.up === undefined)
    )
      return [];
    if (asked && Object.values(ASKS).some((l) => l.includes(name)) && !asked.includes(name)) return [];
    if (call.id === 'rescale-prop' && name === 'factor') return [];
    return type === 'number' || oneOf.length > 0 ? [{ name, type, oneOf: oneOf.map(String) }] : [];
  });
}

/** A number that may be a length: shown and taken in the brief's unit. */
function NumberField({
  name,
  value,
  unit,
  onChange,
}: {
  name: string;
  value: unknown;
  unit: Brief['unit'];
  onChange: (x: number | undefined) => void;
}) {
  const per = LENGTHS.has(name) ? inUnit(1, unit) : 1;
  const shown = typeof value === 'number' ? Number((value * per).toPrecision(8)) : '';
  return (
    <label className="mt-2 flex items-center justify-between gap-3 text-[13px]">
      {WORDS[name] ?? name}
      <span className="flex items-center gap-1.5">
        <input
          type="number"
          step="any"
          value={shown}
          onChange={(e) => onChange(e.target.value === '' ? undefined : Number(e.target.value) / per)}
          className="mono h-7 w-28 rounded-md border border-rule bg-sheet px-2 text-right"
        />
        {LENGTHS.has(name) && <span className="mono w-7 text-soft">{unit}</span>}
      </span>
    </label>
  );
}

/** Units to read a file in, each with the height that comes of it. */
function UnitField({
  value,
  brief,
  onChange,
}: {
  value: unknown;
  brief: Brief;
  onChange: (x: number) => void;
}) {
  const character = useDesk((s) => s.character);
  const height = character ? (bodyHeight(character) ?? skeletonHeight(character)) : null;
  return (
    <label className="mt-2 flex items-center justify-between gap-3 text-[13px]">
      {WORDS.metres}
      <select
        value={String(value)}
        onChange={(e) => onChange(Number(e.target.value))}
        className="h-7 rounded-md border border-rule bg-sheet px-2"
      >
        {UNITS.map((u) => (
          <option key={u.short} value={u.metres}>
            {u.word}
            {height && character
              ? ` → ${Number(inUnit(heightIn(height, character.source.unitMetres, u), brief.unit).toPrecision(4))} ${brief.unit} tall`
              : ''}
          </option>
        ))}
      </select>
    </label>
  );
}

/** One remedy: its numbers before and after and its ghost on the stage, made in this page; then applied on the server. */
export function RemedyBox({
  call,
  brief,
  active,
  onActive,
}: {
  call: RemedyCall;
  brief: Brief;
  active: boolean;
  onActive: () => void;
}) {
  const remedy = remedyById(call.id);
  const busy = useDesk((s) => s.busy);
  const head = useDesk((s) => s.sheet?.head);
  const stage = useDesk((s) => s.stage);
  const [params, setParams] = useState<Record<string, unknown>>(() =>
    remedy ? (remedy.params.cast(call.params, { assert: false }) as Record<string, unknown>) : {},
  );
  const [preview, setPreview] = useState<Preview | null>(null);
  const asked = useRef(0);
  useEffect(() => {
    const mine = ++asked.current;
    const t = setTimeout(() => {
      void deskWorker()
        .preview(call.id, params, brief.id)
        .then((p) => {
          if (mine === asked.current) setPreview(p);
        });
    }, 60);
    return () => clearTimeout(t);
  }, [call.id, params, brief.id, head]);
  const ghost = active && preview && 'rows' in preview ? preview.ghost : null;
  useEffect(() => {
    if (!active) return;
    stage?.ghost(ghost);
    return () => stage?.ghost(null);
  }, [active, ghost, stage]);
  if (!remedy) return null;
  const set = (name: string, value: unknown) => setParams((p) => ({ ...p, [name]: value }));
  const { title, does } = remedy.says?.(params) ?? remedy;
  return (
    <div
      onPointerEnter={onActive}
      onFocus={onActive}
      className={`mt-4 rounded-lg border px-3.5 py-3 ${active ? 'border-damson/45 bg-paper/70' : 'border-rule bg-paper/50'}`}
    >
      <p className="font-semibold">{title}</p>
      <p className="text-[13px] text-soft">{does}</p>
      {fieldsOf(call, params).map((f) => {
        if (call.id === 'change-unit' && f.name === 'metres')
          return (
            <UnitField key={f.name} value={params.metres} brief={brief} onChange={(x) => set('metres', x)} />
          );
        if (f.oneOf.length > 0)
          return (
            <div
              key={f.name}
              role="group"
              aria-label={WORDS[f.name] ?? f.name}
              className="mt-2 flex items-center justify-between gap-3 text-[13px]"
            >
              <span>{WORDS[f.name] ?? f.name}</span>
              <span className="flex gap-1">
                {f.oneOf.map((o) => (
                  <Chip key={o} on={params[f.name] === o} onClick={() => set(f.name, o)}>
                    {CHOICES[o] ?? o}
                  </Chip>
                ))}
              </span>
            </div>
          );
        return (
          <NumberField
            key={f.name}
            name={f.name}
            value={params[f.name]}
            unit={brief.unit}
            onChange={(x) => set(f.name, x)}
          />
        );
      })}
      {preview && 'refused' in preview && (
        <p role="alert" className="mt-2 text-[13px] text-stops">
          {preview.refused}
        </p>
      )}
      {preview && 'rows' in preview && (
        <table className="mt-2 w-full text-[13px]">
          <thead>
            <tr className="text-right text-[12px] text-soft">
              <th scope="col" className="text-left font-normal">
                what changes
              </th>
              <th scope="col" className="pl-2 font-normal">
                now
              </th>
              <th scope="col" className="pl-2 font-normal">
                after
              </th>
            </tr>
          </thead>
          <tbody>
            {preview.rows.map((r) => (
              <tr key={r.label} className="border-t border-rule">
                <td className="py-1 pr-2">{r.label}</td>
                <td className={`mono py-1 pl-3 text-right ${oneLine(r.before)}`}>{withUnit(r.before, '')}</td>
                <td className={`mono py-1 pl-3 text-right text-fine ${oneLine(r.after)}`}>
                  {withUnit(r.after, r.unit)}
                </td>
              </tr>
            ))}
            <tr className="border-t border-rule">
              <td className="py-1 pr-2">Farthest move of a point at rest</td>
              <td className="mono py-1 pl-2 text-right">—</td>
              <td className="mono py-1 pl-2 text-right text-fine">
                {smallLength(preview.effects.largestMove, brief.unit)}
              </td>
            </tr>
            {preview.effects.others.meshes > 0 && (
              <tr className="border-t border-rule">
                <td className="py-1 pr-2">
                  All else,{' '}
                  {preview.effects.others.holds === 'at rest'
                    ? 'at rest'
                    : `in ${preview.effects.others.poses} poses`}
                  {preview.effects.scale !== 1 ? ', but for the factor' : ''}
                </td>
                <td className="mono py-1 pl-2 text-right">—</td>
                <td
                  className={`mono py-1 pl-2 text-right ${preview.effects.others.largest < 2e-5 ? 'text-fine' : 'text-worth'}`}
                >
                  {smallLength(
                    preview.effects.others.largest < 2e-6 ? 0 : preview.effects.others.largest,
                    brief.unit,
                  )}
                </td>
              </tr>
            )}
          </tbody>
        </table>
      )}
      <div className="mt-3">
        <Button
          kind={active ? 'leaf' : 'plain'}
          disabled={!!busy || !preview || 'refused' in preview}
          onClick={() => void applyRemedy(call.id, params, title)}
        >
          {title}
        </Button>
      </div>
    </div>
  );
}
