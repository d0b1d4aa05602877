'use client';

import { Download, ExternalLink } from 'lucide-react';
import { type ReactNode, useEffect, useMemo, useState } from 'react';
import { countGravity } from '@/core/contracts/finding';
import type { Clip } from '@/core/character/model';
import { clipSeconds } from '@/core/motion/pose';
import type { Revision } from '@/routes/characters';
import type { WrittenFormatEntry } from '@/routes/formats';
import { filePath, reportPath } from '@/routes/revisions';
import { addressOf } from '@/routes/route';
import { waiverFilePath } from '@/routes/waivers';
import { Button } from '../../kit/button';
import { saveJson } from '../../kit/save';
import { Tally } from '../../kit/gravity';
import { SidePanel } from '../../kit/side-panel';
import { goToRoom } from '../../state/choose';
import { headOf, isTried } from '../../state/document';
import { useFormats } from '../../state/formats';
import { ChosenFinding, FindingList } from '../../parts/findings';
import { OnArrival } from '../../parts/on-arrival';
import { useReceiverAsked } from '../../state/receiver';
import { useDesk } from '../../state/store';
import { tryInMotion } from '../../state/trials';
import { HandOverPanel, HandedBefore } from './hand-over';
import { deskWorker } from '../../state/worker';

const link =
  'flex items-center gap-3 rounded-lg border border-rule px-3.5 py-3 transition-colors hover:bg-wash';

const fileOf = (id: string, more: Record<string, unknown> = {}) =>
  addressOf({ method: 'GET', path: filePath }, { id, ...more });

const reportOf = (id: string, more: Record<string, unknown> = {}) =>
  addressOf({ method: 'GET', path: reportPath }, { id, ...more });

/** The revisions that led to one, from the first of its line. */
function lineOf(revisions: readonly Revision[], head: Revision | undefined): Revision[] {
  const line: Revision[] = [];
  for (
    let ancestor = head;
    ancestor;
    ancestor = revisions.find((revision) => revision.id === ancestor?.parent)
  )
    line.unshift(ancestor);
  return line;
}

/** What is handed over: the verdict, the clean file, the report, the crosswalk. */
export function DocketPage() {
  const record = useDesk((state) => state.record);
  const head = headOf(record);
  const line = lineOf(record?.revisions ?? [], head);
  return (
    <SidePanel label="Docket" className="gap-4 px-[18px] py-4">
      <Verdict head={head} />
      <DocketFindings />
      {head && <HandOverPanel />}
      {head && <HandedBefore />}
      {head && (
        <div className="space-y-2.5">
          <h3 className="title text-[17px]">Just to look, unsealed</h3>
          <FileLinks head={head.id} />
          <WaiverLink />
          <CrosswalkLink line={line} name={record?.name ?? ''} />
          <section aria-label="On arrival" className="rounded-lg border border-rule px-3.5 py-3 text-[13px]">
            <h3 className="mb-1 text-[14px] font-semibold">On arrival</h3>
            <OnArrival of={head.id} ask={askAsItIs} from="where they are sent" />
          </section>
        </div>
      )}
      <HowItCame line={line} />
    </SidePanel>
  );
}

/** What of the room itself is open: how the brief's machine holds it. */
function DocketFindings() {
  const findings = useDesk((state) => state.findings);
  const chosen = useDesk((state) => state.chosen);
  const revision = useDesk((state) => state.revision);
  const mine = useMemo(() => findings?.filter((finding) => finding.room === 'docket') ?? [], [findings]);
  const open = mine.find((finding) => finding.key === chosen);
  if (mine.length === 0) return null;
  return (
    <section aria-label="On arrival, under the brief" className="-mx-[18px] border-t border-rule">
      <FindingList findings={mine}>
        {open && <ChosenFinding key={`${open.key} on ${revision}`} finding={open} forms={undefined} />}
      </FindingList>
    </section>
  );
}

function Verdict({ head }: { head: Revision | undefined }) {
  const findings = useDesk((state) => state.findings);
  const brief = useDesk((state) => state.brief);
  const waived = useDesk((state) => state.waived.length);
  const isMoved = useDesk((state) => state.brief.trials === null || isTried(state));
  // What is handed over has been moved before.
  useEffect(() => {
    if (!isMoved && findings) void tryInMotion();
  }, [isMoved, findings]);
  const counts = findings ? countGravity(findings) : null;
  const first = findings?.find((finding) => finding.gravity === 'stops');
  return (
    <div>
      <h2 className="title text-[22px]">Docket</h2>
      <p className="text-soft">
        Revision {head?.number} for {brief.title}, version {brief.version}
      </p>
      <p className="mt-2 font-semibold">
        <Tally
          counts={counts}
          empty={isMoved ? 'nothing open; ready to hand over' : 'nothing open; not tried in motion yet'}
        />
        {waived > 0 && (
          <span className="ml-3 inline-block whitespace-nowrap font-normal text-soft">{waived} waived</span>
        )}
      </p>
      {first && (
        <p className="mt-1 text-[13px] text-soft">
          It can be handed over as it is; docket and report then say what stops it.{' '}
          <button
            type="button"
            className="font-semibold text-leaf underline"
            onClick={() => goToRoom(first.room)}
          >
            Go to the first
          </button>
        </p>
      )}
    </div>
  );
}

function Words({ title, about }: { title: string; about: ReactNode }) {
  return (
    <span className="text-left">
      <span className="font-semibold">{title}</span>
      <br />
      <span className="text-[13px] text-soft">{about}</span>
    </span>
  );
}

function FileLinks({ head }: { head: string }) {
  const receiver = useReceiverAsked();
  const formats = useFormats();
  return (
    <>
      {formats.map((format) =>
        format.isWhole ? (
          <a key={format.id} className={link} href={fileOf(head, { format: format.id })} download>
            <Download size={17} className="text-leaf" />
            <Words title={format.offer} about={format.about} />
          </a>
        ) : (
          <ShapeLink key={format.id} head={head} format={format} />
        ),
      )}
      <a className={link} href={reportOf(head, { receiver })} target="_blank" rel="noreferrer">
        <ExternalLink size={17} className="text-leaf" />
        <Words title="The report" about="one page that a lead can read and print" />
      </a>
      <a className={link} href={reportOf(head, { download: '', receiver })} download>
        <Download size={17} className="text-leaf" />
        <Words title="The report as a file" about="HTML that needs nothing else" />
      </a>
    </>
  );
}

/** The crosswalk that the line went over; where it went over none, the way there. */
function CrosswalkLink({ line, name }: { line: readonly Revision[]; name: string }) {
  const move = line.findLast((row) => row.step.kind === 'remap')?.step;
  if (move?.kind !== 'remap')
    return (
      <p className="rounded-lg border border-dashed border-rule px-3.5 py-3 text-[13px] text-soft">
        No crosswalk yet: the character still stands on the skeleton it came with.{' '}
        <button
          type="button"
          className="font-semibold text-leaf underline"
          onClick={() => goToRoom('crosswalk')}
        >
          Open Crosswalk
        </button>
      </p>
    );
  const file = `${name.replace(/[^\w-]+/g, '-').toLowerCase()}-crosswalk.json`;
  return (
    <Button
      className="!h-auto w-full !justify-start gap-3 !px-3.5 !py-3 !font-normal"
      onClick={() => saveJson(move.crosswalk, file)}
    >
      <Download size={17} className="text-leaf" />
      <Words title="The crosswalk" about="which bone became which, as JSON" />
    </Button>
  );
}

/** What stands waived, as the file that the command line takes. */
function WaiverLink() {
  const id = useDesk((state) => state.record?.id);
  const stands = useDesk((state) => state.record?.waivers.filter((waiver) => !waiver.withdrawn).length ?? 0);
  if (!id || stands === 0) return null;
  return (
    <a className={link} href={addressOf({ method: 'GET', path: waiverFilePath }, { id })} download>
      <Download size={17} className="text-leaf" />
      <Words title="The waivers" about={`${stands} that stand, as JSON for a build’s gate`} />
    </a>
  );
}

const askAsItIs: Parameters<typeof OnArrival>[0]['ask'] = (receiver) => deskWorker().arriveAsItIs(receiver);

function HowItCame({ line }: { line: readonly Revision[] }) {
  return (
    <div>
      <h3 className="title text-[17px]">How it came here</h3>
      <ol className="mt-1 text-[13px]">
        {line.map((row) => (
          <li key={row.id} className="flex gap-3 border-b border-rule py-1.5">
            <span className="mono w-5 shrink-0 text-right text-soft">{row.number}</span>
            <span className="min-w-0 [overflow-wrap:anywhere]">
              {row.label}
              {row.step.kind === 'remap' && row.step.proof && (
                <span className="text-soft">
                  {' '}
                  · moves as before to {(row.step.proof.max * 1000).toPrecision(2)} mm
                </span>
              )}
            </span>
          </li>
        ))}
      </ol>
    </div>
  );
}

const NO_CLIPS: readonly Clip[] = [];

/** Why the open character cannot be written in a format, as a sentence; null where it can. */
function useWhyNot(format: string): string | null {
  const revision = useDesk((state) => state.revision);
  const [why, setWhy] = useState<string | null>(null);
  useEffect(() => {
    let isOpen = true;
    if (revision)
      void deskWorker()
        .whyNotWritten(format)
        .then((said) => isOpen && setWhy(said));
    return () => {
      isOpen = false;
    };
  }, [format, revision]);
  return why;
}

/** The points alone, at rest or as they stand at a moment of a clip. */
function ShapeLink({ head, format }: { head: string; format: WrittenFormatEntry }) {
  const clips = useDesk((state) => state.character?.clips) ?? NO_CLIPS;
  const [clip, setClip] = useState(-1);
  const [time, setTime] = useState(0);
  const isPosed = clip >= 0 && clip < clips.length;
  const name = isPosed ? clips[clip].name || `clip ${clip + 1}` : '';
  const when = isPosed ? `at ${time.toFixed(2)} s of ${name}` : 'at rest';
  const why = useWhyNot(format.id);
  if (why)
    return (
      <p className="rounded-lg border border-dashed border-rule px-3.5 py-3 text-[13px] text-soft">{why}</p>
    );
  return (
    <div className="rounded-lg border border-rule">
      <a
        className={`${link} border-0`}
        href={fileOf(head, { format: format.id, ...(isPosed && { clip, time }) })}
        download
      >
        <Download size={17} className="text-leaf" />
        <Words title={format.offer} about={`${format.about}, ${when}`} />
      </a>
      {clips.length > 0 && (
        <div className="flex items-center gap-2 border-t border-rule px-3.5 py-2 text-[13px]">
          <PoseChoice
            clips={clips}
            clip={clip}
            onClip={(to) => {
              setClip(to);
              setTime(0);
            }}
          />
          {isPosed && <MomentChoice seconds={clipSeconds(clips[clip])} time={time} onTime={setTime} />}
        </div>
      )}
    </div>
  );
}

function PoseChoice({
  clips,
  clip,
  onClip,
}: {
  clips: readonly Clip[];
  clip: number;
  onClip: (clip: number) => void;
}) {
  return (
    <select
      aria-label="Pose of the OBJ"
      value={clip}
      onChange={(event) => onClip(Number(event.target.value))}
      className="h-7 min-w-0 flex-1 rounded-md border border-rule bg-sheet px-1.5"
    >
      <option value={-1}>at rest</option>
      {clips.map((clip, i) => (
        <option key={i} value={i}>
          {clip.name || `clip ${i + 1}`}
        </option>
      ))}
    </select>
  );
}

function MomentChoice({
  seconds,
  time,
  onTime,
}: {
  seconds: number;
  time: number;
  onTime: (time: number) => void;
}) {
  return (
    <>
      <input
        type="range"
        aria-label="Moment of the pose"
        min={0}
        max={seconds}
        step={0.01}
        value={time}
        onChange={(event) => onTime(Number(event.target.value))}
        className="w-24 accent-[var(--leaf)]"
      />
      <span className="mono w-14 text-right">{time.toFixed(2)} s</span>
    </>
  );
}
