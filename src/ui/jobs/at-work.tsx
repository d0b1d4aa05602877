'use client';

import clsx from 'clsx';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useCallback, useState } from 'react';
import { type JobTold, askAgainForJob, cancelJob, listJobs, readJob } from '@/routes/jobs';
import { call, messageOf } from '../kit/api';
import { Button } from '../kit/button';
import { ago } from '../kit/format';
import { ProgressBar } from '../kit/progress';
import { OutcomeTable } from './outcome-table';
import { useTold } from './use-told';
import { stateWords } from './words';

/** How often the list is fetched where nothing is told, milliseconds. */
const EVERY = 3000;

const fetchList = async () => (await call(listJobs, {})).jobs;

/** What the house is at, what waits, and what ended while nobody looked. */
export function JobsAtWork() {
  const router = useRouter();
  const asked = useSearchParams().get('job');
  const { value: jobs, error, again } = useTold(fetchList, { every: EVERY });
  const chosen = asked ?? jobs?.[0]?.id ?? null;
  return (
    <div className="min-h-screen">
      <header className="flex min-h-[52px] flex-wrap items-center gap-4 border-b border-rule bg-sheet px-6">
        {/* eslint-disable-next-line @next/next/no-img-element */}
        <img src="/bough.svg" alt="" width={22} height={22} />
        <h1 className="title text-[19px]">At work</h1>
        <span className="text-soft">what was asked for goes on, also when the page is closed</span>
        <span className="flex-1" />
        <Link href="/" className="rounded px-1 text-soft underline hover:text-ink">
          The shelf
        </Link>
      </header>
      <main className="mx-auto max-w-[1180px] px-6 pb-16 pt-6">
        {error && (
          <p role="alert" className="mb-4 text-stops">
            {error}{' '}
            <button type="button" className="underline" onClick={again}>
              Try again
            </button>
          </p>
        )}
        {jobs?.length === 0 && (
          <p className="max-w-[60ch] text-soft">
            Nothing is at work, and nothing was asked for yet. What is taken in, and several that are moved or
            handed over in one go, stand here while it goes on, and what came of it afterwards.
          </p>
        )}
        <ul aria-label="What was asked for" className="border-t border-rule empty:border-0">
          {jobs?.map((job) => (
            <JobLine
              key={job.id}
              job={job}
              isOpen={job.id === chosen}
              onOpen={() => router.replace(`/work?job=${job.id}`, { scroll: false })}
            />
          ))}
        </ul>
      </main>
    </div>
  );
}

function JobLine({ job, isOpen, onOpen }: { job: JobTold; isOpen: boolean; onOpen: () => void }) {
  const [error, setError] = useState<string | null>(null);
  const isAtWork = job.endedAt === null;
  const isUndone = job.parts ? job.parts.undone > 0 : job.state !== 'done';
  const act = async (what: Promise<unknown>, failure: string) => {
    setError(null);
    try {
      await what;
    } catch (error) {
      setError(`${failure} ${messageOf(error)}`);
    }
  };
  const stop = () => act(call(cancelJob, { id: job.id }), 'It was not cancelled.');
  const again = () => act(call(askAgainForJob, { id: job.id }), 'It was not asked for again.');
  return (
    <li className="border-b border-rule py-2.5">
      <div className="flex flex-wrap items-center gap-3">
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={onOpen}
          className="min-w-0 flex-1 text-left font-semibold [overflow-wrap:anywhere]"
        >
          {job.title}
        </button>
        <span
          role={isAtWork ? 'status' : undefined}
          className={clsx('text-[13px]', !isAtWork && 'text-soft')}
        >
          {stateWords(job)}
          {job.endedAt && `, ${ago(job.endedAt)}`}
        </span>
        {isAtWork && job.parts && (
          <span className="w-40">
            <ProgressBar share={job.parts.ended / job.parts.all} label={`${job.title}: how much has ended`} />
          </span>
        )}
        {isAtWork && (
          <Button small onClick={() => void stop()}>
            Cancel what is left
          </Button>
        )}
        {!isAtWork && isUndone && (
          <Button small onClick={() => void again()}>
            Ask again for what is not done
          </Button>
        )}
      </div>
      {error && (
        <p role="alert" className="mt-1 text-[13px] text-stops">
          {error}
        </p>
      )}
      {isOpen && <JobOpen id={job.id} />}
    </li>
  );
}

function JobOpen({ id }: { id: string }) {
  const fetchJob = useCallback(() => call(readJob, { id }), [id]);
  const { value, error } = useTold(fetchJob, { every: EVERY });
  if (error)
    return (
      <p role="alert" className="mt-2 text-[13px] text-stops">
        {error}
      </p>
    );
  if (!value) return <p className="mt-2 text-[13px] text-soft">Looking at what came of it …</p>;
  return <OutcomeTable parts={value.parts.length > 0 ? value.parts : [value.job]} />;
}
