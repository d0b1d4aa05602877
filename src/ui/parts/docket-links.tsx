'use client';

import { useState } from 'react';
import { type DocketPart, docketPartPath } from '@/routes/dockets';
import { addressOf } from '@/routes/route';
import { fetchFile, messageOf } from '../kit/api';
import { saveBlob } from '../kit/save';

const address = (id: string, part: DocketPart) =>
  addressOf({ method: 'GET', path: docketPartPath }, { id, part });

const link = 'font-semibold text-leaf underline';

/** What names a docket: its id, and the character and number of the revision that it is of. */
export interface NamedDocket {
  readonly id: string;
  readonly name: string;
  readonly revision: number;
}

/** What a docket keeps, to be taken out: its file, itself, its report. */
export function DocketLinks({ docket }: { docket: NamedDocket }) {
  const { id, name, revision } = docket;
  const of = `of ${name}, revision ${revision}`;
  return (
    <span className="inline-flex flex-wrap gap-x-3">
      <a className={link} href={address(id, 'file')} download aria-label={`File ${of}`}>
        File
      </a>
      <a className={link} href={address(id, 'docket')} download aria-label={`Docket ${of}`}>
        Docket
      </a>
      <a
        className={link}
        href={address(id, 'report')}
        target="_blank"
        rel="noreferrer"
        aria-label={`Report ${of}`}
      >
        Report
      </a>
      <Pdf docket={docket} label={`PDF ${of}`} />
    </span>
  );
}

/** The report as PDF: it is printed when it is asked for, and there may be nothing to print it with. */
function Pdf({ docket: { id }, label }: { docket: NamedDocket; label: string }) {
  const [state, setState] = useState<string | null>(null);
  const print = async () => {
    setState('printing …');
    try {
      const { blob, name } = await fetchFile(address(id, 'pdf'));
      saveBlob(blob, name ?? 'report.pdf');
      setState(null);
    } catch (error) {
      setState(messageOf(error));
    }
  };
  return (
    <>
      <button type="button" className={link} aria-label={label} onClick={() => void print()}>
        PDF
      </button>
      {state && (
        <span role="status" className="basis-full text-[12.5px] text-soft">
          {state}
        </span>
      )}
    </>
  );
}
