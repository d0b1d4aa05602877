'use client';

import clsx from 'clsx';
import { useEffect, useRef, useState } from 'react';
import { countGravity } from '@/core/audit/run';
import { remedyById } from '@/core/audit/registry';
import type { Compared, Finding, RemedyCall } from '@/core/audit/types';
import { Button } from '../kit/button';
import { figure, withUnit } from '../kit/format';
import { Mark } from '../kit/gravity';
import { ROOM_TITLES } from './bough';
import { RenameForm } from './rename-form';
import { applyRemedy, chooseFinding, deskWorker, useDesk } from './store';

const EMPTY: Record<string, string> = {
  placement: 'Size, ground and scale are as the brief wants them. The next room is Skeleton.',
  skeleton: 'Tree and names are as the brief wants them. The next room is Surface.',
  surface: 'Polygons and points are as the brief wants them. The next room is Weights.',
  weights: 'Every point is carried as the brief wants it. Next, move it to the game’s skeleton in Crosswalk.',
  trials: 'Play the clips below the figure, or choose a bone and turn it. The proof of a move to another skeleton stands in Crosswalk.',
};

/** The room's findings, and the one that is chosen with its evidence and remedies. */
export function Notebook() {
  const { findings, room, chosen } = useDesk();
  const mine = findings?.filter((f) => f.room === room) ?? [];
  const counts = countGravity(mine);
  const finding = mine.find((f) => f.key === chosen) ?? null;
  return (
    <aside aria-label="Notebook" className="scroll flex w-[384px] shrink-0 flex-col overflow-y-auto border-l border-rule bg-sheet">
      <div className="flex items-baseline justify-between gap-3 px-[18px] pb-1.5 pt-4">
        <h2 className="title text-[22px]">{ROOM_TITLES[room]}</h2>
        <p className="text-[13px] text-soft">{findings === null ? 'auditing …' : mine.length === 0 ? 'nothing open' : [counts.stops && `${counts.stops} stop`, counts.worth && `${counts.worth} worth fixing`, counts.note && `${counts.note} for your eyes`].filter(Boolean).join(' · ')}</p>
      </div>
      {findings !== null && mine.length === 0 && <p className="px-[18px] py-3 text-soft"><span className="text-fine">✓</span> {EMPTY[room]}</p>}
      <ul>
        {mine.map((f) => (
          <li key={f.key}>
            <button type="button" onClick={() => chooseFinding(f.key)} aria-pressed={f.key === chosen} className={clsx('flex w-full gap-3 border-b border-rule px-[18px] py-2.5 text-left transition-colors', f.key === chosen ? 'bg-damson-wash shadow-[inset_3px_0_0_var(--damson)]' : 'hover:bg-wash')}>
              <span className="pt-1"><Mark gravity={f.gravity} /></span>
              <span className="min-w-0 flex-1"><span className={clsx('block leading-snug', f.key === chosen && 'font-semibold')}>{titleOf(f)}</span><span className="block truncate text-[13px] text-soft">{f.subject.kind === 'character' ? 'the whole character' : f.subject.name}</span></span>
              <span className="mono shrink-0 pt-0.5">{f.count > 1 ? `${figure(f.count)} ${countWord(f)}` : withUnit(f.measured, f.unit === 'x' ? '×' : f.unit).slice(0, 16)}</span>
            </button>
          </li>
        ))}
      </ul>
      {finding && <Chosen key={finding.key} finding={finding} />}
    </aside>
  );
}

function titleOf(f: Finding): string {
  return f.message;
}

function countWord(f: Finding): string {
  const kind = f.elements[0]?.kind;
  return kind === 'vertex' ? 'pts' : kind === 'polygon' ? 'faces' : kind === 'bone' ? 'bones' : kind === 'node' ? 'nodes' : '';
}

function Chosen({ finding }: { finding: Finding }) {
  const { brief } = useDesk();
  return (
    <section aria-label="The chosen finding" className="px-[18px] pb-8 pt-3.5">
      <h3 className="title text-[18px] leading-snug">{finding.message}</h3>
      <p className="mt-1.5 text-[13.5px] text-soft">{finding.why}</p>
      {finding.evidence.length > 0 && (
        <table className="mt-3 w-full text-[13.5px]">
          <thead><tr className="text-right text-[12.5px] text-soft"><th scope="col" colSpan={2}><span className="sr-only">What</span></th><th scope="col" className="pb-1 pl-2 font-normal">now</th><th scope="col" className="pb-1 pl-2 font-normal">brief</th></tr></thead>
          <tbody>
            {finding.evidence.map((e) => (
              <tr key={e.label} className="border-t border-rule"><td className="py-1.5 pr-2" colSpan={2}>{e.label}</td><td className="mono py-1.5 pl-2 text-right text-stops">{withUnit(e.now, e.unit)}</td><td className="mono py-1.5 pl-2 text-right">{withUnit(e.brief, typeof e.brief === 'string' ? '' : e.unit)}</td></tr>
            ))}
          </tbody>
        </table>
      )}
      {finding.remedies.map((call) => (call.id === 'rename' ? <RenameForm key={call.id} call={call} /> : <RemedyBox key={call.id} call={call} brief={brief.id} />))}
      {finding.remedies.length === 0 && <p className="mt-3 rounded-lg border border-rule px-3 py-2 text-[13px] text-soft">{ADVICE[finding.check] ?? 'This one is mended where it was made: note it for the supplier; the report names it.'}</p>}
    </section>
  );
}

const ADVICE: Record<string, string> = {
  'bone-budget': 'Moving to the game’s skeleton in Crosswalk leaves out every bone that carries nothing; each skin then lists only the bones it needs.',
  'idle-bones': 'Nothing to do if you know why. Crosswalk releases bones that carry nothing.',
  parents: 'Moving to a skeleton that has the order, in Crosswalk, hangs every joint where it belongs.',
  quads: 'Polygons are mended where they were modelled; note it for the supplier. The report names them.',
};

/** One remedy: its numbers before and after, made in this page, then applied on the server. */
export function RemedyBox({ call, brief }: { call: RemedyCall; brief: string }) {
  const remedy = remedyById(call.id);
  const busy = useDesk((s) => s.busy);
  const head = useDesk((s) => s.sheet?.head);
  const fields = remedy ? Object.entries(remedy.params.describe().fields).filter(([k, f]) => (f as { type?: string }).type === 'number' && !['node', 'bone', 'parent'].includes(k)) : [];
  const [params, setParams] = useState<Record<string, unknown>>(() => (remedy ? remedy.params.cast(call.params, { assert: false }) as Record<string, unknown> : {}));
  const [preview, setPreview] = useState<{ rows: Compared[]; largestMove: number } | { refused: string } | null>(null);
  const asked = useRef(0);
  useEffect(() => {
    const mine = ++asked.current;
    const t = setTimeout(() => { void deskWorker().preview(call.id, params, brief).then((p) => { if (mine === asked.current) setPreview(p); }); }, 60);
    return () => clearTimeout(t);
  }, [call.id, params, brief, head]);
  if (!remedy) return null;
  return (
    <div className="mt-4 rounded-lg border border-rule bg-paper/50 px-3.5 py-3">
      <p className="font-semibold">{remedy.title}</p>
      <p className="text-[13px] text-soft">{remedy.does}</p>
      {fields.map(([name]) => (
        <label key={name} className="mt-2 flex items-center justify-between gap-3 text-[13px]">{FIELD_WORDS[name] ?? name}
          <input type="number" step="any" value={String(params[name] ?? '')} onChange={(e) => setParams((p) => ({ ...p, [name]: e.target.value === '' ? undefined : Number(e.target.value) }))} className="mono h-7 w-28 rounded-md border border-rule bg-sheet px-2 text-right" />
        </label>
      ))}
      {preview && 'refused' in preview && <p role="alert" className="mt-2 text-[13px] text-stops">{preview.refused}</p>}
      {preview && 'rows' in preview && (
        <table className="mt-2 w-full text-[13px]">
          <thead><tr className="text-right text-[12px] text-soft"><th scope="col" className="text-left font-normal">what changes</th><th scope="col" className="pl-2 font-normal">now</th><th scope="col" className="pl-2 font-normal">after</th></tr></thead>
          <tbody>
            {preview.rows.map((r) => <tr key={r.label} className="border-t border-rule"><td className="py-1 pr-2">{r.label}</td><td className="mono py-1 pl-2 text-right">{withUnit(r.before, '')}</td><td className="mono py-1 pl-2 text-right text-fine">{withUnit(r.after, r.unit)}</td></tr>)}
            <tr className="border-t border-rule"><td className="py-1 pr-2">Farthest move of a point at rest</td><td className="mono py-1 pl-2 text-right">—</td><td className="mono py-1 pl-2 text-right text-fine">{preview.largestMove < 1e-6 ? '0 mm' : `${(preview.largestMove * 1000).toPrecision(3)} mm`}</td></tr>
          </tbody>
        </table>
      )}
      <div className="mt-3"><Button kind="leaf" disabled={!!busy || !preview || 'refused' in preview} onClick={() => void applyRemedy(call.id, params, remedy.title)}>{remedy.title}</Button></div>
    </div>
  );
}

const FIELD_WORDS: Record<string, string> = { limit: 'Bones a point may keep', dust: 'Drop weights up to', distance: 'Distance, in metres' };
