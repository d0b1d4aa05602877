'use client';

import { Loader2 } from 'lucide-react';
import Link from 'next/link';
import { listJobs } from '@/routes/jobs';
import { call } from '../kit/api';
import { useTold } from './use-told';

/** A head that is beside the point looks less often, milliseconds. */
const WAIT = 1000;

const underWay = async () =>
  // A step that somebody waits for is told where it is waited for.
  (await call(listJobs, {})).jobs.filter((job) => job.endedAt === null && job.lane !== 'at hand');

/** How many things the house is at, and the way there; nothing where it is at none. */
export function WorkSign() {
  const { value } = useTold(underWay, { wait: WAIT });
  if (!value || value.length === 0) return null;
  const title = value.map((j) => j.title).join('; ');
  return (
    <Link
      href="/work"
      title={title}
      className="flex shrink-0 items-center gap-1.5 rounded px-1 text-[13px] text-leaf underline"
    >
      <Loader2 size={14} className="animate-spin" aria-hidden />
      {value.length} at work
    </Link>
  );
}
