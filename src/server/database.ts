import type { Effects } from '../core/contracts/effects';
import type { Step } from '../core/contracts/step';
import type { PinEnd } from '../core/character/pin';
import { Kysely, PostgresDialect, type ColumnType, type Generated } from 'kysely';
import { Pool } from 'pg';

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

export interface Database {
  blobs: BlobsTable;
  characters: CharactersTable;
  revisions: RevisionsTable;
  revision_blobs: RevisionBlobsTable;
  audits: AuditsTable;
  crosswalks: CrosswalksTable;
  pins: PinsTable;
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

/** A pool of connections to a database. */
export function openDatabase(connectionString: string): Kysely<Database> {
  const pool = new Pool({ connectionString, max: 10 });
  pool.on('error', () => {
    /* a lost idle connection is replaced on the next query */
  });
  return new Kysely<Database>({ dialect: new PostgresDialect({ pool }) });
}
