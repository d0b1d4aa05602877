'use client';

import { useEffect, useRef, useState } from 'react';
import type { ChangeEffects } from '@/core/contracts/effects';
import { smallLength } from '@/core/contracts/effects-words';
import type { RemedyCall } from '@/core/contracts/finding';
import type { Params } from '@/core/contracts/remedy';
import type { LengthUnit } from '@/core/contracts/units';
import type { PreviewRow } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { Button } from '../kit/button';
import { oneLine, withUnit } from '../kit/format';
import { applyRemedy } from '../state/steps';
import { setDesk, useDesk } from '../state/store';
import { deskWorker } from '../state/worker';
import type { Preview } from '../worker/desk.worker';
import { RemedyFields } from './remedy-fields';

/** How long a number must stand before its preview is made, milliseconds. */
const PAUSE = 60;

/** Moves below this are only rounding, metres. */
const ROUNDING = 2e-6;
const FELT = 2e-5;

/** The preview of a remedy for its parameters; the last one until the next is there. */
function usePreview(id: string, params: Params): Preview | null {
  const brief = useDesk((s) => s.brief);
  const revision = useDesk((s) => s.revision);
  const [preview, setPreview] = useState<Preview | null>(null);
  const asked = useRef(0);
  useEffect(() => {
    const mine = ++asked.current;
    const timer = setTimeout(async () => {
      const made = await deskWorker().preview(id, params, brief);
      if (mine === asked.current) setPreview(made);
    }, PAUSE);
    return () => clearTimeout(timer);
  }, [id, params, brief, revision]);
  return preview;
}

/**
 * One remedy: its numbers before and after and its ghost on the stage, made in this page; then applied on the
 * server.
 */
export function RemedyBox({
  call,
  active,
  onActive,
}: {
  call: RemedyCall;
  active: boolean;
  onActive: () => void;
}) {
  const remedy = remedyById(call.id);
  const busy = useDesk((s) => s.busy);
  const brief = useDesk((s) => s.brief);
  const [params, setParams] = useState<Params>(() =>
    remedy ? (remedy.params.cast(call.params, { assert: false }) as Params) : {},
  );
  const preview = usePreview(call.id, params);
  const ghosts = active && preview && 'rows' in preview ? preview.ghost : null;
  useEffect(() => {
    if (!ghosts) return;
    setDesk({ ghosts });
    return () => setDesk({ ghosts: null });
  }, [ghosts]);
  if (!remedy) return null;
  const { title, does } = remedy.says?.(params) ?? remedy;
  const tone = active ? 'border-damson/45 bg-paper/70' : 'border-rule bg-paper/50';
  return (
    <div
      onPointerEnter={onActive}
      onFocus={onActive}
      className={`mt-4 rounded-lg border px-3.5 py-3 ${tone}`}
    >
      <p className="font-semibold">{title}</p>
      <p className="text-[13px] text-soft">{does}</p>
      <RemedyFields
        params={remedy.params}
        values={params}
        brief={brief}
        onChange={(name, value) => setParams((p) => ({ ...p, [name]: value }))}
      />
      {preview && 'refused' in preview && (
        <p role="alert" className="mt-2 text-[13px] text-stops">
          {preview.refused}
        </p>
      )}
      {preview && 'rows' in preview && <PreviewTable {...preview} unit={brief.unit} />}
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

function PreviewTable({
  rows,
  effects,
  unit,
}: {
  rows: readonly PreviewRow[];
  effects: ChangeEffects;
  unit: LengthUnit;
}) {
  return (
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
        {rows.map((r) => (
          <tr key={r.label} className="border-t border-rule">
            <td className="py-1 pr-2 [overflow-wrap:anywhere]">{r.label}</td>
            <td className={`mono py-1 pl-3 text-right ${cellOf(r.before)}`}>{withUnit(r.before, '')}</td>
            <td className={`mono py-1 pl-3 text-right text-fine ${cellOf(r.after)}`}>
              {withUnit(r.after, r.unit)}
            </td>
          </tr>
        ))}
        <MoveRow label="Farthest move of a point at rest" text={smallLength(effects.largestMove, unit)} />
        {effects.others.meshes > 0 && <OthersRow effects={effects} unit={unit} />}
      </tbody>
    </table>
  );
}

/** Long names break anywhere rather than push the table out of the notebook. */
const cellOf = (x: number | string) => oneLine(x) || '[overflow-wrap:anywhere]';

function MoveRow({ label, text, tone = 'text-fine' }: { label: string; text: string; tone?: string }) {
  return (
    <tr className="border-t border-rule">
      <td className="py-1 pr-2">{label}</td>
      <td className="mono py-1 pl-2 text-right">—</td>
      <td className={`mono py-1 pl-2 text-right whitespace-nowrap ${tone}`}>{text}</td>
    </tr>
  );
}

/** What of all the rest would move. */
function OthersRow({ effects, unit }: { effects: ChangeEffects; unit: LengthUnit }) {
  const { holds, poses, largest } = effects.others;
  const when = holds === 'at rest' ? 'at rest' : `in ${poses} poses`;
  const but = effects.scale !== 1 ? ', but for the factor' : '';
  return (
    <MoveRow
      label={`All else, ${when}${but}`}
      text={smallLength(largest < ROUNDING ? 0 : largest, unit)}
      tone={largest < FELT ? 'text-fine' : 'text-worth'}
    />
  );
}
