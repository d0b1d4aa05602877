/** Work that outlives the request that asks for it. */
import { type InferType, array, mixed, number, object, string } from 'yup';
import type { Effects } from '../core/contracts/effects';
import type { Counts } from '../core/contracts/finding';
import type { LengthUnit } from '../core/contracts/units';
import { defineRoute, uuid } from './route';

/** How a job stands. `asked` waits its turn; what was `set aside` broke its workers or failed too often. */
export const JOB_STATES = ['asked', 'running', 'done', 'refused', 'cancelled', 'set aside'] as const;

export type JobState = (typeof JOB_STATES)[number];

/**
 * Lanes have room of their own in every worker, so that what takes long or comes in heaps never keeps what a person
 * waits for from beginning.
 */
export const LANES = ['at hand', 'one at a time', 'in heaps', 'printing'] as const;

export type Lane = (typeof LANES)[number];

/** Id of a job as a page may make it, so that it can be asked for twice and be cancelled before it has come. */
export const jobId = () => string().uuid();

/** A job as pages see it. */
const job = object({
  id: uuid(),
  kind: string().required(),
  lane: string<Lane>()
    .oneOf([...LANES])
    .required(),
  title: string().defined(),
  state: string<JobState>()
    .oneOf([...JOB_STATES])
    .required(),
  askedBy: string().defined(),
  character: string().nullable().defined(),
  base: string().nullable().defined(),
  progress: mixed<{ readonly stage: string; readonly share: number }>().nullable().defined(),
  /** What came of it, by its kind. */
  answer: mixed().nullable().defined(),
  message: string().nullable().defined(),
  askedAt: string().required(),
  endedAt: string().nullable().defined(),
  /** Of several asked for as one: how many there are, how many have ended, and how many came to nothing. */
  parts: object({ all: number().required(), ended: number().required(), undone: number().required() })
    .nullable()
    .defined(),
});

export type JobTold = InferType<typeof job>;

const bag = () =>
  mixed<Record<string, unknown>>(
    (x): x is Record<string, unknown> => !!x && typeof x === 'object',
  ).required();

/** Asks for several jobs as one. Asking again with the same ids is asking once. */
export const askForJobs = defineRoute({
  method: 'POST',
  path: '/api/jobs',
  request: object({
    id: uuid(),
    title: string().required().max(200),
    by: string().max(120).default(''),
    parts: array(
      object({
        id: uuid(),
        kind: string().required().max(60),
        title: string().required().max(200),
        input: bag(),
        character: string().uuid().nullable().default(null),
        base: string().uuid().nullable().default(null),
      }),
    )
      .min(1)
      .max(2000)
      .required(),
  }),
  answer: object({ id: uuid() }),
});

/** What is under way, and what ended last; those with parts count them. */
export const listJobs = defineRoute({
  method: 'GET',
  path: '/api/jobs',
  request: object({}),
  answer: object({ jobs: array(job).required() }),
});

/** One job, and its parts. */
export const readJob = defineRoute({
  method: 'GET',
  path: '/api/jobs/:id',
  request: object({ id: uuid() }),
  answer: object({ job: job.required(), parts: array(job).required() }),
});

/**
 * Ends a job that has not ended, with all its parts. One that has not come yet is cancelled all the same. Tells how it
 * stands then: done, where the word came too late.
 */
export const cancelJob = defineRoute({
  method: 'DELETE',
  path: '/api/jobs/:id',
  request: object({ id: uuid() }),
  answer: object({
    state: string<JobState>()
      .oneOf([...JOB_STATES])
      .required(),
  }),
});

/** Asks again for a job that came to nothing, or for those of its parts that did. */
export const askAgainForJob = defineRoute({
  method: 'POST',
  path: '/api/jobs/:id',
  request: object({ id: uuid() }),
  answer: object({ id: uuid() }),
});

/** What came of moving a character. */
export interface MoveAnswer {
  readonly revision: { readonly id: string; readonly number: number };
  readonly effects: Effects;
  readonly walk: {
    readonly from: string;
    readonly bones: number;
    readonly paired: number;
    readonly unsure: number;
  };
  /** How many findings there were before, where it had been audited, and how many there are. */
  readonly before: Counts | null;
  readonly counts: Counts;
  /** Of its brief: the unit that lengths are told in, and how far a point may lie off, metres. */
  readonly unit: LengthUnit;
  readonly proofTolerance: number;
}

/** What came of handing a character over. */
export interface HandedOverAnswer {
  /** Of the docket. */
  readonly id: string;
  readonly name: string;
  /** Of the revision that was handed over. */
  readonly number: number;
  readonly counts: Counts;
  readonly waived: number;
}

/** What the house tells its pages. */
export type PageTold =
  /** A job has begun, gone on or ended. */
  | { readonly what: 'job'; readonly job: string; readonly parent: string | null; readonly lane: Lane }
  /** A character stands at another revision. */
  | { readonly what: 'head'; readonly character: string; readonly head: string }
  /** A character was removed. */
  | { readonly what: 'gone'; readonly character: string }
  /** Something was handed over. */
  | { readonly what: 'docket'; readonly docket: string; readonly character: string };

/** Server-sent events: every message is a {@link PageTold} as JSON. */
export const eventsPath = '/api/events';
