'use client';

import { Download, ExternalLink } from 'lucide-react';
import { useState } from 'react';
import { countGravity } from '@/core/contracts/finding';
import { clipSeconds } from '@/core/motion/pose';
import { Button } from '../../kit/button';
import { Tally } from '../../kit/gravity';
import { headOf, setRoom, useDesk } from '../../desk/store';

/** What is handed over: the verdict, the clean file, the report, the crosswalk. */
export function Docket() {
  const { sheet, findings, brief } = useDesk();
  const head = headOf(sheet);
  const counts = findings ? countGravity(findings) : null;
  const line = [];
  for (let r = head; r; r = sheet?.revisions.find((x) => x.id === r?.parent)) line.unshift(r);
  const move = [...line].reverse().find((r) => r.step.kind === 'remap');
  const crosswalk = move?.step.kind === 'remap' ? move.step : null;
  const link =
    'flex items-center gap-3 rounded-lg border border-rule px-3.5 py-3 transition-colors hover:bg-wash';
  return (
    <aside
      aria-label="Docket"
      className="scroll flex w-[384px] shrink-0 flex-col gap-4 overflow-y-auto border-l border-rule bg-sheet px-[18px] py-4"
    >
      <div>
        <h2 className="title text-[22px]">Docket</h2>
        <p className="text-soft">
          Revision {head?.number} for {brief.title}
        </p>
        <p className="mt-2 font-semibold">
          <Tally counts={counts} empty="nothing open; ready to hand over" />
        </p>
        {counts && counts.stops > 0 && (
          <p className="mt-1 text-[13px] text-soft">
            It can be downloaded as it is; the report says what stops it.{' '}
            <button
              type="button"
              className="font-semibold text-leaf underline"
              onClick={() => {
                const f = findings?.find((x) => x.gravity === 'stops');
                if (f) setRoom(f.room);
              }}
            >
              Go to the first
            </button>
          </p>
        )}
      </div>
      {head && (
        <div className="space-y-2.5">
          <a className={link} href={`/api/revisions/${head.id}/file`} download>
            <Download size={17} className="text-leaf" />
            <span>
              <span className="font-semibold">The file</span>
              <br />
              <span className="text-[13px] text-soft">binary glTF 2.0; sums of weights made exact</span>
            </span>
          </a>
          <a className={link} href={`/api/revisions/${head.id}/file?format=dae`} download>
            <Download size={17} className="text-leaf" />
            <span>
              <span className="font-semibold">The same as COLLADA</span>
              <br />
              <span className="text-[13px] text-soft">1.4.1, metres, +Y up; polygons, weights, clips</span>
            </span>
          </a>
          <ObjLink head={head.id} link={link} />
          <a className={link} href={`/api/revisions/${head.id}/report`} target="_blank" rel="noreferrer">
            <ExternalLink size={17} className="text-leaf" />
            <span>
              <span className="font-semibold">The report</span>
              <br />
              <span className="text-[13px] text-soft">one page that a lead can read and print</span>
            </span>
          </a>
          <a className={link} href={`/api/revisions/${head.id}/report?download`} download>
            <Download size={17} className="text-leaf" />
            <span>
              <span className="font-semibold">The report as a file</span>
              <br />
              <span className="text-[13px] text-soft">HTML that needs nothing else</span>
            </span>
          </a>
          {crosswalk ? (
            <Button
              className="!h-auto w-full !justify-start gap-3 !px-3.5 !py-3 !font-normal"
              onClick={() =>
                save(
                  crosswalk.crosswalk,
                  `${sheet?.name.replace(/[^\w-]+/g, '-').toLowerCase()}-crosswalk.json`,
                )
              }
            >
              <Download size={17} className="text-leaf" />
              <span className="text-left">
                <span className="font-semibold">The crosswalk</span>
                <br />
                <span className="text-[13px] text-soft">which bone became which, as JSON</span>
              </span>
            </Button>
          ) : (
            <p className="rounded-lg border border-dashed border-rule px-3.5 py-3 text-[13px] text-soft">
              No crosswalk yet: the character still stands on the skeleton it came with.{' '}
              <button
                type="button"
                className="font-semibold text-leaf underline"
                onClick={() => setRoom('crosswalk')}
              >
                Open Crosswalk
              </button>
            </p>
          )}
        </div>
      )}
      <div>
        <h3 className="title text-[17px]">How it came here</h3>
        <ol className="mt-1 text-[13px]">
          {line.map((r) => (
            <li key={r.id} className="flex gap-3 border-b border-rule py-1.5">
              <span className="mono w-5 text-right text-soft">{r.number}</span>
              <span>
                {r.label}
                {r.step.kind === 'remap' && r.step.proof ? (
                  <span className="text-soft">
                    {' '}
                    · moves as before to {(r.step.proof.max * 1000).toPrecision(2)} mm
                  </span>
                ) : null}
              </span>
            </li>
          ))}
        </ol>
      </div>
    </aside>
  );
}

/** The points alone, at rest or as they stand at a moment of a clip. */
function ObjLink({ head, link }: { head: string; link: string }) {
  const clips = useDesk((s) => s.character?.clips) ?? [];
  const [clip, setClip] = useState(-1);
  const [time, setTime] = useState(0);
  const seconds = clip >= 0 && clips[clip] ? clipSeconds(clips[clip]) : 0;
  return (
    <div className="rounded-lg border border-rule">
      <a
        className={`${link} border-0`}
        href={`/api/revisions/${head}/file?format=obj${clip >= 0 ? `&clip=${clip}&time=${time}` : ''}`}
        download
      >
        <Download size={17} className="text-leaf" />
        <span>
          <span className="font-semibold">The shape as OBJ</span>
          <br />
          <span className="text-[13px] text-soft">
            polygons without bones,{' '}
            {clip >= 0 ? `at ${time.toFixed(2)} s of ${clips[clip]?.name || `clip ${clip + 1}`}` : 'at rest'}
          </span>
        </span>
      </a>
      {clips.length > 0 && (
        <div className="flex items-center gap-2 border-t border-rule px-3.5 py-2 text-[13px]">
          <select
            aria-label="Pose of the OBJ"
            value={clip}
            onChange={(e) => {
              setClip(Number(e.target.value));
              setTime(0);
            }}
            className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-1.5"
          >
            <option value={-1}>at rest</option>
            {clips.map((c, i) => (
              <option key={i} value={i}>
                {c.name || `clip ${i + 1}`}
              </option>
            ))}
          </select>
          {clip >= 0 && (
            <>
              <input
                type="range"
                aria-label="Moment of the pose"
                min={0}
                max={seconds}
                step={0.01}
                value={time}
                onChange={(e) => setTime(Number(e.target.value))}
                className="w-24 accent-[var(--leaf)]"
              />
              <span className="mono w-14 text-right">{time.toFixed(2)} s</span>
            </>
          )}
        </div>
      )}
    </div>
  );
}

function save(value: unknown, name: string): void {
  const url = URL.createObjectURL(new Blob([JSON.stringify(value, null, 1)], { type: 'application/json' }));
  const a = document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 1000);
}
