'use client';

import { type ReactNode, useCallback, useEffect, useRef, useState } from 'react';
import type { Finding } from '@/core/contracts/finding';
import type { ChangeEffects } from '@/core/contracts/effects';
import { smallLength } from '@/core/contracts/effects-words';
import type { RemedyCall } from '@/core/contracts/finding';
import type { Params } from '@/core/contracts/remedy';
import type { LengthUnit } from '@/core/contracts/units';
import type { PreviewRow } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { Button } from '../kit/button';
import { oneLine, withUnit } from '../kit/format';
import { applyForKind, applyRemedy } from '../state/steps';
import { desk, setDesk, useDesk } from '../state/store';
import { deskWorker, solveWorker } from '../state/worker';
import type { ManyPreview, PreviewAnswer } from '../worker/preview';
import { RemedyFields, asksSomething } from './remedy-fields';

/** How long a number must stand before its preview is made, milliseconds. */
const PAUSE = 60;

/** Moves below this are only rounding, metres. */
const ROUNDING = 2e-6;
const FELT = 2e-5;

/**
 * What the worker answers, asked anew whenever `ask` is another. The last answer stays until the next is there: it may
 * still be read by then, but answers another question.
 */
function useAnswer<T>(ask: () => Promise<T>): { readonly last: T | null; readonly isCurrent: boolean } {
  const [answer, setAnswer] = useState<{ readonly to: typeof ask; readonly made: T } | null>(null);
  const asked = useRef(0);
  useEffect(() => {
    const mine = ++asked.current;
    const timer = setTimeout(async () => {
      const made = await ask();
      if (mine === asked.current) setAnswer({ to: ask, made });
    }, PAUSE);
    return () => clearTimeout(timer);
  }, [ask]);
  return { last: answer?.made ?? null, isCurrent: answer?.to === ask };
}

/** The thread that previews a remedy: what takes seconds must not keep the hand waiting. */
function previewer(id: string | undefined) {
  const { character } = desk();
  const isSlow = id !== undefined && remedyById(id)?.takesSeconds === true;
  return isSlow && character ? solveWorker(character) : deskWorker();
}

/** The preview of a remedy for its parameters. */
function usePreview(id: string, params: Params): PreviewAnswer | null {
  const brief = useDesk((state) => state.brief);
  const revision = useDesk((state) => state.revision);
  const ask = useCallback(
    // On another revision the same question has another answer.
    async (): Promise<PreviewAnswer> =>
      revision ? previewer(id).preview(id, params, brief) : { refused: '' },
    [id, params, brief, revision],
  );
  return useAnswer(ask).last;
}

/** Shows a preview's ghost on the stage while its box is looked at. */
function useGhost(preview: PreviewAnswer | null, active: boolean): void {
  const shown = active && preview && 'rows' in preview ? preview.ghost : null;
  useEffect(() => {
    if (!shown) return;
    setDesk({ ghosts: shown });
    return () => setDesk({ ghosts: null });
  }, [shown]);
}

/**
 * One remedy: its button first, then what it asks, its numbers before and after and its ghost on the stage, made in
 * this page; then applied on the server. One that cannot be done says why in place of its form.
 */
export function RemedyBox({
  call,
  active,
  onActive,
  alike = [],
  isFormOpen = false,
}: {
  call: RemedyCall;
  active: boolean;
  onActive: () => void;
  /** The same remedy for every finding of the kind, this one included. */
  alike?: readonly RemedyCall[];
  /** What it asks is shown even where it cannot be done with the values that it begins with. */
  isFormOpen?: boolean;
}) {
  const remedy = remedyById(call.id);
  const busy = useDesk((state) => state.busy);
  const brief = useDesk((state) => state.brief);
  const [given] = useState<Params>(() =>
    remedy ? (remedy.params.cast(call.params, { assert: false }) as Params) : {},
  );
  const [params, setParams] = useState<Params>(given);
  const [wantsForm, setWantsForm] = useState(isFormOpen);
  const [isForAll, setIsForAll] = useState(false);
  const [isWrong, setIsWrong] = useState(false);
  const preview = usePreview(call.id, params);
  useGhost(preview, active && !isForAll);
  if (!remedy) return null;
  const { title, does } = remedy.says?.(params) ?? remedy;
  const tone = active ? 'border-damson/45 bg-paper/70' : 'border-rule bg-paper/50';
  const refused = preview && 'refused' in preview ? preview.refused : null;
  const hasForm = refused === null || params !== given || wantsForm;
  return (
    <div
      onPointerEnter={onActive}
      onFocus={onActive}
      className={`mt-2.5 rounded-lg border px-3.5 py-3 ${tone}`}
    >
      {hasForm ? (
        <div className="flex flex-wrap gap-2">
          <Button
            kind={active ? 'leaf' : 'plain'}
            disabled={!!busy || !preview || refused !== null || isWrong}
            onClick={() => void applyRemedy(call.id, params, title)}
          >
            {title}
          </Button>
          {alike.length > 1 && (
            <Button aria-expanded={isForAll} onClick={() => setIsForAll(!isForAll)}>
              All {alike.length} …
            </Button>
          )}
        </div>
      ) : (
        <p className="font-semibold">{title}</p>
      )}
      {refused !== null && (
        <p role="alert" className="mt-1.5 text-[13px] text-stops">
          {refused}
        </p>
      )}
      {isForAll && <ForKind calls={alike} title={title} active={active} />}
      {hasForm && !isForAll && (
        <>
          <p className="mt-1.5 text-[13px] text-soft">{does}</p>
          <RemedyFields
            params={remedy.params}
            values={params}
            brief={brief}
            onChange={(name, value) => setParams((params) => ({ ...params, [name]: value }))}
            onWrong={setIsWrong}
          />
          {preview && 'rows' in preview && !isWrong && <PreviewTable {...preview} unit={brief.unit} />}
        </>
      )}
      {!hasForm && asksSomething(remedy.params, params) && (
        <Button small kind="quiet" className="-ml-2.5 mt-1" onClick={() => setWantsForm(true)}>
          With other values …
        </Button>
      )}
    </div>
  );
}

/** The same remedy for every finding of the kind. */
function ForKind(props: { calls: readonly RemedyCall[]; title: string; active: boolean }) {
  const of = useDesk((state) => state.findings?.find((finding) => finding.key === state.chosen));
  return of ? <ForMany {...props} of={of} label="For all of this kind" /> : null;
}

/** Many calls of a remedy as one step: what they would change in all, and one press for it. */
export function ForMany({
  calls,
  title,
  active,
  of,
  label,
  children,
}: {
  /** None where something that they need is not given yet. */
  calls: readonly RemedyCall[];
  title: string;
  active: boolean;
  /** The finding of whose kind they are; null where a person chose what they are done to. */
  of: Pick<Finding, 'check' | 'gravity'> | null;
  label: string;
  /** What is asked, below the button. */
  children?: ReactNode;
}) {
  const brief = useDesk((state) => state.brief);
  const busy = useDesk((state) => state.busy);
  const revision = useDesk((state) => state.revision);
  const [check, gravity] = [of?.check, of?.gravity];
  const ask = useCallback(async (): Promise<ManyPreview> => {
    if (!revision || calls.length === 0) return { refused: '' };
    const kind = check && gravity ? { check, gravity } : null;
    return previewer(calls[0].id).previewForMany([...calls], kind, brief);
  }, [check, gravity, calls, brief, revision]);
  const { last, isCurrent } = useAnswer(ask);
  const preview = calls.length > 0 ? last : null;
  useGhost(preview, active);
  const made = preview && 'rows' in preview ? preview : null;
  const refused = preview && 'refused' in preview ? preview.refused : null;
  return (
    <div className="mt-2.5 border-t border-rule pt-2.5" role="group" aria-label={label}>
      {made && (
        <Button
          kind="leaf"
          // What was made for other values must not be kept.
          disabled={!!busy || !isCurrent}
          onClick={() =>
            void applyForKind(made.bundle, made.done > 1 ? `${title}, ${made.done} times` : title)
          }
        >
          {made.done > 1 ? `Do it for ${made.done} at once` : title}
        </Button>
      )}
      {!preview && calls.length > 0 && <p className="text-[13px] text-soft">Trying all {calls.length} …</p>}
      {refused && (
        <p role="alert" className="text-[13px] text-stops">
          {refused}
        </p>
      )}
      {made && made.left.length > 0 && (
        <p className="mt-1.5 text-[13px] text-worth">
          {made.left.length} {made.left.length === 1 ? 'is' : 'are'} left as they are: {made.left[0]}
        </p>
      )}
      {children}
      {made && <PreviewTable {...made} unit={brief.unit} />}
    </div>
  );
}

/** Rows that are shown of a preview; a step over many things has as many. */
const MOST_ROWS = 8;

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
        {rows.slice(0, MOST_ROWS).map((row) => (
          <ChangeRow key={row.label} row={row} />
        ))}
        {rows.length > MOST_ROWS && (
          <tr className="border-t border-rule">
            <td colSpan={3} className="py-1 text-soft">
              and {rows.length - MOST_ROWS} more
            </td>
          </tr>
        )}
        <MoveRow label="Farthest move of a point at rest" text={smallLength(effects.largestMove, unit)} />
        {effects.others.meshes > 0 && <OthersRow effects={effects} unit={unit} />}
      </tbody>
    </table>
  );
}

/** Two names longer than this do not stand beside each other and a label. */
const NAMES_BESIDE = 18;

/** A number before and after; two long names as one cell, so that the label keeps its width. */
function ChangeRow({ row: { label, before, after, unit } }: { row: PreviewRow }) {
  const areNames = typeof before === 'string' && typeof after === 'string';
  if (areNames && before.length + after.length > NAMES_BESIDE)
    return (
      <tr className="border-t border-rule">
        <td className="py-1 pr-2 [overflow-wrap:anywhere]">{label}</td>
        <td colSpan={2} className="mono py-1 pl-3 text-right [overflow-wrap:anywhere]">
          <span>{before}</span> <span aria-hidden="true">→</span> <span className="text-fine">{after}</span>
        </td>
      </tr>
    );
  return (
    <tr className="border-t border-rule">
      <td className="py-1 pr-2 [overflow-wrap:anywhere]">{label}</td>
      <td className={`mono py-1 pl-3 text-right ${cellOf(before)}`}>{withUnit(before, '')}</td>
      <td className={`mono py-1 pl-3 text-right text-fine ${cellOf(after)}`}>{withUnit(after, unit)}</td>
    </tr>
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
