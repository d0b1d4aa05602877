/** What a kind of job is: work that outlives the request that asked for it. */
import type { Kysely, Transaction } from 'kysely';
import type { AnyObjectSchema, InferType } from 'yup';
import type { Lane } from '../routes/jobs';
import type { Database, JobProgress } from '../server/database';
import type { Bounds } from '../server/pool';

/** What a job is given besides its input. */
export interface JobContext<A> {
  readonly db: Kysely<Database>;
  /** Its id: what it makes can be told by it when it is begun again. */
  readonly id: string;
  /** The revision that it was asked on, and the character; null where it is about none. */
  readonly base: string | null;
  readonly character: string | null;
  /** Aborted when the job is cancelled, or when its worker ends or has lost it. */
  readonly signal: AbortSignal;
  readonly bounds: Bounds;
  readonly tell: (progress: JobProgress) => void;
  /**
   * Writes the job's ending into the transaction that keeps what it made, so that both are there or neither is. Throws
   * where the job is not this worker's any more.
   */
  readonly ended: (trx: Transaction<Database>, answer: A) => Promise<void>;
  /**
   * For what is kept in several transactions: takes part in one of them, so that nothing of it is written where the job
   * is not this worker's any more.
   */
  readonly stillMine: (trx: Transaction<Database>) => Promise<void>;
  /**
   * For whoever sets things back where the job is broken off: throws where another worker has it or will have it, who goes
   * on from what is there.
   */
  readonly notOthers: (trx: Transaction<Database>) => Promise<void>;
}

/** What a job is about: where it stands in the house. */
export type Standpoint = Pick<JobContext<unknown>, 'db' | 'base' | 'character'>;

/** A kind of job. One that asks for other input than before gets a higher version; workers take what they know. */
export interface JobKind<Q extends AnyObjectSchema = AnyObjectSchema, A = unknown> {
  readonly kind: string;
  readonly version: number;
  readonly lane: Lane;
  /** Whether it brings its character to another revision: a page that is opened meanwhile waits for it. */
  readonly changes?: boolean;
  /** What came of it is told to whoever waited for it, and is no news afterwards; so it is of all that is at hand. */
  readonly isPassing?: boolean;
  readonly input: Q;
  /** What each task of it may take; where nothing is said, what a request may. Settings come before it. */
  readonly bounds: Partial<Omit<Bounds, 'niceness'>>;
  /**
   * Does it. It may be begun more than once, and must keep what it makes in one transaction with `ended`. Throws Refused
   * for what a person can mend; any other error is tried again.
   */
  readonly run: (input: InferType<Q>, at: JobContext<A>) => Promise<A>;
}

/** The first half of the locks that workers hold; the second half is their own number. */
export const ALIVE = 7_290_115;

export const defineJob = <Q extends AnyObjectSchema, A>(kind: JobKind<Q, A>): JobKind<Q, A> => kind;

/** The queue of a kind: of each version its own, since a worker takes only from those that it knows. */
export const queueOf = ({ kind, version }: Pick<JobKind, 'kind' | 'version'>): string =>
  `${kind.replaceAll(' ', '-')}.${version}`;
