/**
 * Everything that the server's worker threads do. A new task is one file and one line here; types follow from
 * it.
 */
import type { MessagePort } from 'node:worker_threads';
import { NothingToDo, RemedyError } from '../core/contracts/remedy';
import { WriteError } from '../core/formats';
import { ReadError } from '../core/formats/errors';
import { type Tell, tellTo } from './task';
import { addFiles } from './tasks/add';
import { auditRevision } from './tasks/audit';
import { applyEdit } from './tasks/edit';
import { exportRevision } from './tasks/export';
import { handOver } from './tasks/handover';
import { importFiles } from './tasks/import';
import { learnRevision } from './tasks/learn';
import { remapRevision } from './tasks/remap';
import { applyRemedy } from './tasks/remedy';
import { reportRevision } from './tasks/report';
import { standingOf } from './tasks/standing';
import { surveyFiles } from './tasks/survey';

const TASKS = {
  import: importFiles,
  survey: surveyFiles,
  add: addFiles,
  audit: auditRevision,
  remedy: applyRemedy,
  edit: applyEdit,
  remap: remapRevision,
  export: exportRevision,
  handover: handOver,
  report: reportRevision,
  learn: learnRevision,
  standing: standingOf,
} as const;

export type TaskName = keyof typeof TASKS;
export type TaskInput<N extends TaskName> = Parameters<(typeof TASKS)[N]>[0];
export type TaskAnswer<N extends TaskName> = ReturnType<(typeof TASKS)[N]>;

/** One piece of work for a thread. */
export interface ThreadTask<N extends TaskName = TaskName> {
  readonly task: N;
  readonly input: TaskInput<N>;
  /** Where it tells how far it is. */
  readonly port?: MessagePort;
}

/** A failure that a person can read; anything else is a fault of ours. */
export interface Refusal {
  readonly refused: string;
  /** There was nothing to do. */
  readonly needless?: true;
}

/** Does a job; a failure that a person can mend becomes a refusal. */
export function runJob<N extends TaskName>({ task, input, port }: ThreadTask<N>): TaskAnswer<N> | Refusal {
  const work = TASKS[task] as (input: TaskInput<N>, tell: Tell) => TaskAnswer<N>;
  try {
    return work(input, tellTo(port));
  } catch (error) {
    if (!isForPeople(error)) throw error;
    return { refused: error.message, ...(error instanceof NothingToDo ? { needless: true as const } : {}) };
  }
}

const isForPeople = (error: unknown): error is Error =>
  error instanceof ReadError ||
  error instanceof WriteError ||
  error instanceof RemedyError ||
  (error instanceof Error && error.name === 'ValidationError');
