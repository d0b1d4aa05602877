import type { Effects } from '../core/contracts/effects';
import type { Step } from '../core/contracts/step';
import type { Counts } from '../core/contracts/finding';
import type { FindingTold, Waiver } from '../core/contracts/waiver';
import type { KeptPose } from '../routes/kept-pose';
import type { PinEnd } from '../core/character/pin';
import type { Brief } from '../core/house/brief';
import type { BriefOrigin } from '../routes/briefs';
import type { JobState, Lane } from '../routes/jobs';
import { type ColumnType, type Generated, Kysely, PostgresDialect, type Transaction, sql } from 'kysely';
import { Pool } from 'pg';
import { cancelled } from './refused';

type Timestamp = ColumnType<Date, Date | undefined, Date>;
type JsonColumn<T> = ColumnType<T, string, string>;

/** Content-addressed bytes: arrays of characters, manifests, pictures, source files, findings. */
export interface BlobsTable {
  hash: string;
  bytes: Buffer;
  size: number;
}

export interface CharactersTable {
  id: Generated<string>;
  name: string;
  brief: string;
  head: string | null;
  created_at: Timestamp;
  updated_at: Timestamp;
}

export interface RevisionsTable {
  id: Generated<string>;
  character_id: string;
  number: number;
  parent: string | null;
  label: string;
  step: JsonColumn<Step>;
  manifest: string;
  picture: string | null;
  effects: JsonColumn<Effects>;
  note: Generated<string>;
  /** How many bones it has; null where it came before they were counted. */
  bones: Generated<number | null>;
  created_at: Timestamp;
}

/** One array a row: which blobs a revision needs. */
export interface RevisionBlobsTable {
  revision_id: string;
  hash: string;
}

export interface AuditsTable {
  revision_id: string;
  brief: string;
  findings: string;
  counts: JsonColumn<{ stops: number; worth: number; note: number }>;
  /** Stamp of the checks that made it. */
  house: Generated<string>;
  /** The findings as far as waivers look at them; null where it came before there were any. */
  told: ColumnType<readonly FindingTold[] | null, string | null | undefined, string>;
  /** Whether the figure was moved: what shows in motion is among the findings. */
  moved: Generated<boolean>;
  created_at: Timestamp;
}

export interface CrosswalksTable {
  id: Generated<string>;
  source_fingerprint: string;
  target_fingerprint: string;
  target: string;
  file: JsonColumn<unknown>;
  updated_at: Timestamp;
}

/** Findings that somebody has accepted. Never changed, but for being withdrawn. */
export interface WaiversTable {
  id: Generated<string>;
  character_id: string;
  waiver: JsonColumn<Waiver>;
  /** What was accepted, as it was told then. */
  findings: JsonColumn<readonly FindingTold[]>;
  /** Number of the revision on which it was accepted. */
  revision: number;
  created_at: Timestamp;
  withdrawn_at: ColumnType<Date | null, Date | undefined, Date>;
  withdrawn_by: ColumnType<string | null, string | undefined, string>;
}

/** What was handed over; the database refuses to change it. */
export interface DocketsTable {
  id: string;
  /** Of which character; that may be gone meanwhile. */
  character_id: string;
  name: string;
  revision: number;
  /** Key of the brief, with its version. */
  brief: string;
  brief_title: string;
  by: string;
  note: string;
  counts: JsonColumn<Counts>;
  waived: number;
  left_out: number;
  file_name: string;
  file_type: string;
  file_bytes: number;
  file: string;
  docket: string;
  report: string;
  picture: string;
  created_at: Timestamp;
}

/** Briefs: what came with the house, and what was made here. */
export interface BriefsTable {
  id: string;
  origin: BriefOrigin;
  /** The newest. */
  version: number;
  created_at: Timestamp;
}

/** One version of a brief; never changed. */
export interface BriefVersionsTable {
  brief_id: string;
  version: number;
  file: JsonColumn<Brief>;
  created_at: Timestamp;
}

/**
 * Measures that a person has pinned to a character; found again on every revision by the names of its nodes.
 */
export interface PinsTable {
  id: Generated<string>;
  character_id: string;
  label: string;
  ends: JsonColumn<{ from: PinEnd; to: PinEnd }>;
  created_at: Timestamp;
}

/** Poses that a person keeps by name; found again on every revision by the names of bones. */
export interface PosesTable {
  id: Generated<string>;
  character_id: string;
  name: string;
  stands: JsonColumn<Pick<KeptPose, 'turns' | 'moment'>>;
  created_at: Timestamp;
}

/** How far a running job is; `share` from 0 to 1. */
export interface JobProgress {
  readonly stage: string;
  readonly share: number;
}

/** What a refusal says besides its sentence. */
export interface JobRefusal {
  readonly status: number;
  readonly body: Record<string, unknown>;
}

/** Work that outlives the request that asked for it. The queue delivers it; this is what is told of it. */
export interface JobsTable {
  /** Given by whoever asks: what is asked for twice is one job. */
  id: string;
  kind: string;
  version: number;
  title: string;
  input: JsonColumn<unknown>;
  character_id: string | null;
  /** The revision that it was asked on. */
  base: string | null;
  /** The job that it is a part of. */
  parent: string | null;
  asked_by: string;
  state: JobState;
  progress: ColumnType<JobProgress | null, string | null | undefined, string | null>;
  /** How often a worker has begun it. */
  attempts: Generated<number>;
  /** The lock of the worker that has it. */
  worker: Generated<number | null>;
  answer: ColumnType<unknown, string | null | undefined, string | null>;
  /** Why it came to nothing, as one sentence, and what goes along with that where a route answers with it. */
  message: Generated<string | null>;
  refusal: ColumnType<JobRefusal | null, string | null | undefined, string | null>;
  lane: Generated<Lane>;
  /** Whether it brings its character to another revision. */
  changes: Generated<boolean>;
  created_at: Timestamp;
  started_at: ColumnType<Date | null, Date | undefined, Date | null>;
  ended_at: ColumnType<Date | null, Date | undefined, Date | null>;
}

/** Bytes that a job was sent with, kept until it has ended. */
export interface JobBlobsTable {
  job_id: string;
  hash: string;
}

/** Reports that have been printed: the bytes of the page, and of the PDF. */
export interface PrintsTable {
  report: string;
  pdf: string;
  created_at: Timestamp;
}

/** What the house has done once and does not do again. */
export interface DoneOnceTable {
  what: string;
  at: Timestamp;
}

/** A key that the house signs with, or has signed with; see server/house-key. */
export interface HouseKeysTable {
  public_half: string;
  /** Gone of a key that was turned. */
  private_half: string | null;
  since: Timestamp;
  until: Timestamp | null;
}

/** All tables. */
export interface Database {
  done_once: DoneOnceTable;
  blobs: BlobsTable;
  characters: CharactersTable;
  revisions: RevisionsTable;
  revision_blobs: RevisionBlobsTable;
  audits: AuditsTable;
  crosswalks: CrosswalksTable;
  waivers: WaiversTable;
  dockets: DocketsTable;
  pins: PinsTable;
  poses: PosesTable;
  briefs: BriefsTable;
  brief_versions: BriefVersionsTable;
  jobs: JobsTable;
  job_blobs: JobBlobsTable;
  prints: PrintsTable;
  house_keys: HouseKeysTable;
}

const held = globalThis as unknown as { boughDatabase?: Kysely<Database> };

/** The database of this process. Reads DATABASE_URL. */
export function database(): Kysely<Database> {
  if (!held.boughDatabase) {
    const connectionString = process.env.DATABASE_URL;
    if (!connectionString) throw new Error('DATABASE_URL is not set; start with “npm start”, or set it.');
    held.boughDatabase = openDatabase(connectionString);
  }
  return held.boughDatabase;
}

/** How long a request waits for a connection, milliseconds. */
const WAIT = 10_000;

/** What PostgreSQL and the system say where there is no room: SQLSTATE of class 53, and the system's own word. */
const FULL = new Set(['53100', 'ENOSPC', 'EDQUOT']);

/** Where there is no server, or it is on its way out or in. SQLSTATE, and words of the system. */
const AWAY = /^(57P0[123]|08\d{3}|53300|ECONNREFUSED|ECONNRESET|EPIPE|ENOENT|ETIMEDOUT)$/;

/** The sentence for what is wrong with the database itself; null for any other error. */
export function databaseTrouble(error: unknown): string | null {
  if (!(error instanceof Error)) return null;
  const { code = '', syscall } = error as { code?: string; syscall?: string };
  if (FULL.has(code)) return 'The disk of the house is full; nothing was changed. Make room, then try again.';
  const isAway = AWAY.test(code) && (code !== 'ENOENT' || syscall === 'connect');
  const isLost = /Connection terminated|connection error|timeout exceeded when trying to connect/i.test(
    error.message,
  );
  if (isAway || isLost)
    return 'The database does not answer just now; nothing was changed. Try again in a moment.';
  return null;
}

/**
 * Work in one transaction that may add blobs. Any number of these go on side by side; taking blobs away waits
 * for them, and they for it, so that none is taken that one of them has just found. Work that was broken off
 * by its end leaves nothing, and throws {@link Refused}.
 */
export const lockForKeeping = <T>(
  db: Kysely<Database>,
  work: (trx: Transaction<Database>) => Promise<T>,
  signal?: AbortSignal,
): Promise<T> =>
  db.transaction().execute(async (trx) => {
    await sql`select pg_advisory_xact_lock_shared(${BLOBS})`.execute(trx);
    const done = await work(trx);
    if (signal?.aborted) throw cancelled();
    return done;
  });

/** Work in one transaction that takes blobs away. */
export const lockForClearing = <T>(
  db: Kysely<Database>,
  work: (trx: Transaction<Database>) => Promise<T>,
): Promise<T> =>
  db.transaction().execute(async (trx) => {
    await sql`select pg_advisory_xact_lock(${BLOBS})`.execute(trx);
    return work(trx);
  });

/** The lock that blobs are kept and taken away under; any number that nobody else uses. */
const BLOBS = 7_290_114;

/** How many connections a process has at most, where nothing else is set. */
const CONNECTIONS = 10;

/** A pool of connections to a database. */
export function openDatabase(connectionString: string): Kysely<Database> {
  const max = Number(process.env.BOUGH_CONNECTIONS ?? CONNECTIONS);
  const pool = new Pool({ connectionString, max, connectionTimeoutMillis: WAIT });
  // A connection that is lost is replaced on the next query; the query that held it fails by itself. The pool
  // listens only to those that nobody holds, and an event that nobody listens to would end the process.
  const letGo = () => {};
  pool.on('error', letGo);
  pool.on('connect', (client) => client.on('error', letGo));
  return new Kysely<Database>({ dialect: new PostgresDialect({ pool }) });
}
