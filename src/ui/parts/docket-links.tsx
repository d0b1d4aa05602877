'use client';

import { type DocketEntry, type DocketPart, docketPartPath } from '@/routes/dockets';
import { addressOf } from '@/routes/route';

const address = (id: string, part: DocketPart) =>
  addressOf({ method: 'GET', path: docketPartPath }, { id, part });

const link = 'font-semibold text-leaf underline';

/** What a docket keeps, to be taken out: its file, itself, its report. */
export function DocketLinks({ docket: { id, name, revision } }: { docket: DocketEntry }) {
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
      <a className={link} href={address(id, 'pdf')} aria-label={`PDF ${of}`}>
        PDF
      </a>
    </span>
  );
}
