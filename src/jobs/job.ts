/** What a kind of job is: work that outlives the request that asked for it. */
import type { Kysely, Transaction } from 'kysely';
import type { AnyObjectSchema, InferType } from 'yup';
import type { Database, JobProgress } from '../server/database';

/**
 * Lanes have room of their own in every worker, so that what takes long or comes in heaps never keeps what a person
 * waits for from beginning.
 */
export const LANES = ['at hand', 'in heaps'] as const;

export type Lane = (typeof LANES)[number];

/** What a job is given besides its input. */
export interface AtWork<A> {
  readonly db: Kysely<Database>;
  /** The revision that it was asked on, and the character; null where it is about none. */
  readonly base: string | null;
  readonly character: string | null;
  /** Aborted when the job is cancelled, or when its worker ends or has lost it. */
  readonly signal: AbortSignal;
  readonly tell: (progress: JobProgress) => void;
  /**
   * Writes the job's ending into the transaction that keeps what it made, so that both are there or neither is. Throws
   * where the job is not this worker's any more.
   */
  readonly ended: (trx: Transaction<Database>, answer: A) => Promise<void>;
}

/** A kind of job. One that asks for other input than before gets a higher version; workers take what they know. */
export interface JobKind<Q extends AnyObjectSchema = AnyObjectSchema, A = unknown> {
  readonly kind: string;
  readonly version: number;
  readonly lane: Lane;
  readonly input: Q;
  /** How long it may take, seconds. */
  readonly seconds: number;
  /**
   * Does it. It may be begun more than once, and must keep what it makes in one transaction with `ended`. Throws Refused
   * for what a person can mend; any other error is tried again.
   */
  readonly run: (input: InferType<Q>, at: AtWork<A>) => Promise<A>;
}

export const defineJob = <Q extends AnyObjectSchema, A>(kind: JobKind<Q, A>): JobKind<Q, A> => kind;

/** The queue of a kind: of each version its own, since a worker takes only from those that it knows. */
export const queueOf = ({ kind, version }: Pick<JobKind, 'kind' | 'version'>): string => `${kind}.${version}`;
