'use client';

import Link from 'next/link';
import { fineUnit, inUnit, unitSign } from '@/core/contracts/units';
import { addsTooMuch } from '@/core/rooms/crosswalk/deviation-floor';
import type { JobTold, MoveAnswer } from '@/routes/jobs';
import { stateWords } from './words';

const HEADS = [
  'Character',
  'Crosswalk',
  'Paired',
  'Look at',
  'Farthest',
  'Mean',
  'Skeleton costs',
  'Adds',
  'Stops',
];

/** The columns that are red where they are bad. */
const ADDS = 5;
const STOPS = 6;

/** What came of moving characters, one a row: those that wait and are at work as well. */
export function MovesTable({ parts }: { parts: readonly JobTold[] }) {
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full text-[13px]">
        <caption className="caption-bottom pt-1.5 text-left text-soft">
          What the skeleton costs and what the move adds are means over all points and poses; stops are
          counted under each one’s brief, before → after.
        </caption>
        <thead>
          <tr className="border-b border-ink text-left text-soft">
            {HEADS.map((hash, i) => (
              <th key={hash} className={`py-1 pr-2 font-medium ${i > 1 ? 'text-right' : ''}`}>
                {hash}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {parts.map((part) => (
            <MoveRow key={part.id} part={part} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function MoveRow({ part }: { part: JobTold }) {
  // What became of one that was removed since is told all the same.
  const name = part.character ? (
    <Link href={`/c/${part.character}?room=crosswalk`} className="font-semibold text-leaf underline">
      {part.title}
    </Link>
  ) : (
    part.title
  );
  const answer = part.answer as MoveAnswer | null;
  if (answer?.effects.kind !== 'remapped') {
    const isBad = part.state === 'refused' || part.state === 'set aside';
    return (
      <tr className="border-b border-rule align-top">
        <td className="py-1.5 pr-2">{name}</td>
        <td colSpan={HEADS.length - 1} className={`py-1.5 ${isBad ? 'text-stops' : 'text-soft'}`}>
          {part.message ?? stateWords(part)}
        </td>
      </tr>
    );
  }
  const { walk } = answer;
  const cells = cellsOf(answer, answer.effects);
  return (
    <tr className="border-b border-rule align-top">
      <td className="py-1.5 pr-2">{name}</td>
      <td className="py-1.5 pr-2 text-soft">
        {walk.from === 'suggested' ? 'suggested' : `as for ${walk.from}`}
      </td>
      {cells.map(({ text, isRed }, i) => (
        <td
          key={HEADS[i + 2]}
          className={`mono whitespace-nowrap py-1.5 pr-2 text-right ${isRed ? 'text-stops' : ''}`}
        >
          {text}
        </td>
      ))}
    </tr>
  );
}

/** The numbers of a move, column by column. */
function cellsOf(
  { walk, before, counts, unit: shown, proofTolerance }: MoveAnswer,
  { deviation, price = deviation }: Extract<MoveAnswer['effects'], { kind: 'remapped' }>,
): { text: string; isRed: boolean }[] {
  const unit = fineUnit(shown);
  const length = (metres: number) => `${Number(inUnit(metres, unit).toFixed(2))} ${unitSign(unit)}`;
  const isRed = (i: number) =>
    (i === ADDS && addsTooMuch(price, deviation, proofTolerance)) ||
    (i === STOPS && before !== null && counts.stops > before.stops);
  return [
    `${walk.paired} of ${walk.bones}`,
    String(walk.unsure),
    length(deviation.max),
    length(deviation.rms),
    length(price.rms),
    length(deviation.rms - price.rms),
    `${before?.stops ?? '—'} → ${counts.stops}`,
  ].map((text, i) => ({ text, isRed: isRed(i) }));
}
