'use client';

import Link from 'next/link';
import type { HandedOverAnswer, JobTold } from '@/routes/jobs';
import { Tally } from '../kit/gravity';
import { DocketLinks } from '../parts/docket-links';
import { MovesTable } from './moves-table';
import { stateWords } from './words';

/** What came of work, one thing a row, as its kind has it: those that wait and are at work as well. */
export function OutcomeTable({ parts }: { parts: readonly JobTold[] }) {
  if (parts.every((part) => part.kind === 'move')) return <MovesTable parts={parts} />;
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="w-full text-[13px]" aria-label="What came of it">
        <tbody>
          {parts.map((part) => (
            <tr key={part.id} className="border-b border-rule align-top">
              <th scope="row" className="py-1.5 pr-3 text-left font-semibold [overflow-wrap:anywhere]">
                <Subject part={part} />
              </th>
              <Outcome part={part} />
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** What the work was about, and the way there: what was taken in stands where it came to. */
function Subject({ part: { kind, title, character, answer } }: { part: JobTold }) {
  const id = character ?? (kind === 'import' ? (answer as { id: string } | null)?.id : null);
  if (!id) return <>{title}</>;
  return (
    <Link href={`/c/${id}`} className="text-leaf underline">
      {title}
    </Link>
  );
}

function Outcome({ part }: { part: JobTold }) {
  const { kind, state, message, answer } = part;
  if (state === 'done' && answer && kind.startsWith('hand over'))
    return <HandedOver answer={answer as HandedOverAnswer} />;
  const isBad = state === 'refused' || state === 'set aside';
  const notes = (answer as { notes?: string[] } | null)?.notes ?? [];
  return (
    <td colSpan={2} className={`py-1.5 ${isBad ? 'text-stops' : 'text-soft'}`}>
      {message ?? stateWords(part)}
      {notes.map((note) => (
        <span key={note} className="block">
          {note}
        </span>
      ))}
    </td>
  );
}

function HandedOver({ answer }: { answer: HandedOverAnswer }) {
  return (
    <>
      <td className="py-1.5 pr-3">
        <Tally counts={answer.counts} empty="nothing open" />
        {answer.waived > 0 && <span className="ml-2 text-soft">{answer.waived} waived</span>}
      </td>
      <td className="py-1.5">
        <DocketLinks docket={{ ...answer, revision: answer.number }} />
      </td>
    </>
  );
}
