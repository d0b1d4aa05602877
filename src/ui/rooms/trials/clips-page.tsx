'use client';

import { useState } from 'react';
import type { Brief } from '@/core/house/brief';
import { USUAL_CLIPS } from '@/core/contracts/clips';
import { lengthText } from '@/core/contracts/units';
import type { ClipFigures } from '@/core/rooms/trials/clip-figures';
import { Button } from '../../kit/button';
import { Mark } from '../../kit/gravity';
import { OpenRow } from '../../kit/open-row';
import { useFigures } from '../../parts/use-figures';
import { chooseFinding } from '../../state/choose';
import { beginPose, standAt } from '../../state/pose';
import { setDesk, useDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';

const askClips = (brief: Brief) => deskWorker().clipFigures(brief);

/** The clips in numbers; one opens into all of them, with what is found in it. */
export function ClipsPage() {
  const clips = useFigures(askClips);
  const [open, setOpen] = useState(-1);
  if (!clips) return <p className="px-[18px] py-3 text-soft">looking …</p>;
  if (clips.length === 0)
    return (
      <p className="px-[18px] py-3 text-[13px] text-soft">
        This character brought no clips. Bring in a file that has some, or play those of another one below the
        figure.
      </p>
    );
  return (
    <div className="px-[18px] pb-8 pt-2.5">
      <p className="text-[13px] text-soft">Press a clip to stand at its end and to see what is in it.</p>
      <table className="mt-2 w-full text-[12.5px]">
        <thead>
          <tr className="border-b border-rule text-left text-soft">
            <th scope="col" className="py-1 font-normal">
              clip
            </th>
            <th scope="col" className="py-1 pl-2 text-right font-normal">
              length
            </th>
            <th scope="col" className="py-1 pl-2 text-right font-normal">
              frames
            </th>
            <th scope="col" className="py-1 pl-2 text-right font-normal">
              open
            </th>
          </tr>
        </thead>
        <tbody>
          {clips.map((clip) => (
            <ClipRow
              key={clip.clip}
              clip={clip}
              isOpen={clip.clip === open}
              onOpen={() => {
                const isOpening = clip.clip !== open;
                setOpen(isOpening ? clip.clip : -1);
                if (!isOpening) return;
                beginPose();
                standAt(clip.clip, clip.seconds);
              }}
            />
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** The findings about a clip, by their place on the desk. */
function useFindingsOf(clip: number) {
  const findings = useDesk((state) => state.findings);
  return (findings ?? []).filter(({ subject }) => subject.kind === 'clip' && subject.index === clip);
}

function ClipRow({ clip, isOpen, onOpen }: { clip: ClipFigures; isOpen: boolean; onOpen: () => void }) {
  const found = useFindingsOf(clip.clip);
  const cell = 'mono whitespace-nowrap py-1 pl-2 text-right';
  const cells = (
    <>
      <td className={cell}>{clip.seconds.toFixed(2)} s</td>
      <td className={cell}>{clip.rate === null ? 'uneven' : `${clip.rate}/s`}</td>
      <td className={cell}>{found.length}</td>
    </>
  );
  return (
    <OpenRow label={clip.name} cells={cells} columns={4} isOpen={isOpen} onOpen={onOpen}>
      <OpenClip clip={clip} />
    </OpenRow>
  );
}

function OpenClip({ clip }: { clip: ClipFigures }) {
  const unit = useDesk((state) => state.brief.unit);
  const wishes = useDesk((state) => state.brief.clips) ?? USUAL_CLIPS;
  const found = useFindingsOf(clip.clip);
  const rows: readonly (readonly [string, string])[] = [
    ['Tracks, keys', `${clip.tracks}, ${clip.keys}`],
    ['Keys between frames', wishes.rate === null ? 'any will do' : `${clip.offFrames} at ${wishes.rate}/s`],
    ['Way over the ground', lengthText(clip.travel, unit)],
    ['End from beginning, most', `${clip.gap.toFixed(1)}°`],
    ['Jumps', String(clip.jumps)],
    ['Bones that it scales', String(clip.scaledBones)],
    ['Tracks that move nothing', String(clip.idleTracks)],
  ];
  return (
    <>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5 text-[12.5px]">
        {rows.map(([label, value]) => (
          <div key={label} className="contents">
            <dt className="text-soft">{label}</dt>
            <dd className="mono text-right">{value}</dd>
          </div>
        ))}
      </dl>
      {found.length > 0 && (
        <ul aria-label={`Found in ${clip.name}`} className="mt-2 space-y-1">
          {found.map((finding) => (
            <li key={finding.key}>
              <Button
                small
                kind="quiet"
                className="!h-auto w-full !justify-start !whitespace-normal py-1 text-left"
                onClick={() => {
                  setDesk({ page: 'findings' });
                  chooseFinding(finding.key);
                }}
              >
                <Mark gravity={finding.gravity} />
                {finding.message}
              </Button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}
