'use client';

import clsx from 'clsx';
import { Box, Pencil, Ruler, Trash2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { inUnit } from '@/core/contracts/units';
import { type Pin, endText, pinLength } from '@/core/character/pin';
import type { Measure } from '@/core/contracts/measure';
import { Button } from '../../kit/button';
import { figure } from '../../kit/format';
import { RemedyBox } from '../../desk/remedy-box';
import {
  chooseBone,
  deskWorker,
  dropPin,
  labelPin,
  setLook,
  toggleMeasuring,
  useDesk,
} from '../../desk/store';

const number = (m: Measure, x: number | string | null) => {
  if (x === null) return '';
  if (typeof x === 'string') return x;
  if (m.unit === '°' || m.unit.startsWith('%')) return x.toFixed(1).replace(/^-(?=0\.0$)/, '');
  return figure(Number(x.toFixed(4)));
};
const shortUnit = (unit: string) => {
  if (unit.startsWith('%')) return ' %';
  if (unit === '°') return '°';
  if (unit) return ` ${unit}`;
  return '';
};

/** What a pinned measure is called: by its ends, until it is given a name of its own. */
function PinName({ pin }: { pin: Pin }) {
  const [text, setText] = useState<string | null>(null);
  const ends = `${endText(pin.from)} — ${endText(pin.to)}`;
  const keep = () => {
    if (text === null || text.trim() === pin.label) setText(null);
    else
      void labelPin(pin.id, text).then((kept) => {
        if (kept) setText(null);
      });
  };
  if (text !== null) {
    return (
      <form
        className="min-w-0 flex-1"
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        <input
          autoFocus
          aria-label={`Name of the measure ${ends}`}
          placeholder={ends}
          maxLength={120}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onBlur={keep}
          onKeyDown={(e) => {
            if (e.key === 'Escape') {
              e.stopPropagation();
              setText(null);
            }
          }}
          className="h-7 w-full rounded-md border border-rule bg-paper px-2"
        />
      </form>
    );
  }
  return (
    <span className="min-w-0 flex-1 leading-snug break-words" title={ends}>
      {pin.label || ends}
      <button
        type="button"
        aria-label={`Name the measure ${pin.label || ends}`}
        title="Give it a name"
        className="ml-1.5 inline-grid h-5 w-5 place-items-center rounded align-middle text-soft hover:bg-wash hover:text-ink"
        onClick={() => setText(pin.label)}
      >
        <Pencil size={12} />
      </button>
    </span>
  );
}

/** All measures of placement at once, each beside what the brief wants of it; the pinned ones; and rescaling by what one has measured. */
export function MeasuresPage() {
  const { character, brief, sheet, measuring, boxOn, stage } = useDesk();
  const [list, setList] = useState<Measure[] | null>(null);
  const [by, setBy] = useState<number | null>(null);
  useEffect(() => {
    let on = true;
    void deskWorker()
      .measures(brief.id)
      .then((m) => {
        if (on) setList(m);
      });
    return () => {
      on = false;
    };
  }, [character, brief]);
  const go = (m: Measure) => {
    if (!character || m.node < 0) return;
    if (character.nodes[m.node].kind === 'bone') chooseBone(m.node);
    const f = useDesk.getState().figure;
    const mesh = f?.meshes.find((x) => x.node === m.node);
    const bone = f?.bones.find((x) => x.node === m.node);
    const places = mesh
      ? Array.from({ length: Math.ceil(mesh.points.length / 30) }, (_, i) =>
          Array.from(mesh.points.subarray(i * 30, i * 30 + 3)),
        )
      : bone
        ? [[...bone.from], [...bone.to]]
        : [];
    if (places.length > 0) stage?.frame(places);
  };
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <div className="flex flex-wrap gap-2">
        <Button
          small
          kind={measuring ? 'leaf' : 'plain'}
          aria-pressed={!!measuring}
          onClick={toggleMeasuring}
          title="Measure between two points (M)"
        >
          <Ruler size={14} />
          {measuring
            ? measuring.from
              ? 'Take the second point'
              : 'Take the first point'
            : 'Measure two points'}
        </Button>
        <Button
          small
          kind={boxOn ? 'leaf' : 'plain'}
          aria-pressed={boxOn}
          onClick={() => setLook({ boxOn: !boxOn })}
          title="A box of a known side beside the figure (X)"
        >
          <Box size={14} />
          Known box
        </Button>
      </div>
      {measuring && (
        <p className="mt-2 text-[13px] text-soft">
          Points and joints catch the pointer on the stage. Escape puts it down.
        </p>
      )}
      {(sheet?.pins.length ?? 0) > 0 && character && (
        <section aria-label="Pinned measures" className="mt-3">
          <h3 className="title text-[16px]">Pinned</h3>
          <ul>
            {sheet?.pins.map((p) => {
              const metres = pinLength(character, p);
              return (
                <li key={p.id} className="flex items-center gap-2 border-b border-rule py-1.5 text-[13px]">
                  <PinName pin={p} />
                  <span className="mono text-damson">
                    {metres === null
                      ? 'not on this revision'
                      : `${figure(Number(inUnit(metres, brief.unit).toFixed(4)))} ${brief.unit}`}
                  </span>
                  {metres !== null && metres > 0 && (
                    <button
                      type="button"
                      className="text-[12.5px] font-semibold text-leaf underline"
                      onClick={() => setBy(metres)}
                      title="Rescale everything so that this becomes another length"
                    >
                      rescale by it
                    </button>
                  )}
                  <button
                    type="button"
                    aria-label={`Take out the measure ${p.label || endText(p.from)}`}
                    className="text-soft hover:text-ink"
                    onClick={() => void dropPin(p.id)}
                  >
                    <Trash2 size={14} />
                  </button>
                </li>
              );
            })}
          </ul>
          {by !== null && (
            <RemedyBox
              key={by}
              call={{ id: 'rescale', params: { by: 'points', measured: by, wanted: by } }}
              brief={brief}
              active
              onActive={() => {}}
            />
          )}
        </section>
      )}
      {list === null ? (
        <p className="mt-3 text-soft">measuring …</p>
      ) : (
        [...new Set(list.map((m) => m.group))].map((g) => (
          <section key={g} aria-label={g} className="mt-3">
            <h3 className="title flex items-baseline justify-between text-[16px]">
              {g}
              {g === 'Proportions' && (
                <span className="font-sans text-[12px] font-normal text-soft">
                  beside Drillis & Contini: an aid, not a rule
                </span>
              )}
            </h3>
            <table className="w-full text-[13px]">
              <thead className="sr-only">
                <tr>
                  <th scope="col">What</th>
                  <th scope="col">Measured</th>
                  <th scope="col">Wanted</th>
                </tr>
              </thead>
              <tbody>
                {list
                  .filter((m) => m.group === g)
                  .map((m) => (
                    <tr key={m.id} className="border-t border-rule align-top">
                      <td className="py-1 pr-2 leading-snug">
                        {m.node >= 0 ? (
                          <button type="button" className="text-left hover:underline" onClick={() => go(m)}>
                            {m.label}
                          </button>
                        ) : (
                          m.label
                        )}
                        {m.hint && <span className="block text-[12px] text-soft">{m.hint}</span>}
                      </td>
                      <td
                        className={clsx(
                          'mono py-1 pl-2 text-right whitespace-nowrap',
                          m.state === 'off' && 'font-semibold text-stops',
                        )}
                      >
                        {number(m, m.value)}
                        {shortUnit(m.unit)}
                      </td>
                      <td className="mono py-1 pl-2 text-right whitespace-nowrap text-soft">
                        {m.target === null
                          ? '—'
                          : `${number(m, m.target)}${m.tolerance ? ` ± ${number(m, m.tolerance)}` : ''}`}
                      </td>
                      <td className="w-5 py-1 pl-1.5 text-right">
                        {m.state === 'met' ? (
                          <span className="text-fine" role="img" aria-label="as wanted">
                            ✓
                          </span>
                        ) : m.state === 'off' ? (
                          <span className="text-stops" role="img" aria-label="off">
                            ✗
                          </span>
                        ) : null}
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </section>
        ))
      )}
    </div>
  );
}
