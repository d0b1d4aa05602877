/**
 * What does each task of the threads. The list does not compile while one is missing, or gives another answer than it says.
 */
import { NothingToDo, RemedyError } from '../core/contracts/remedy';
import { WriteError } from '../core/formats';
import { ReadError } from '../core/formats/errors';
import type { Refusal, TaskAnswer, TaskInput, TaskName, ThreadTask } from '../tasks/list';
import type { Tell } from '../tasks/task';
import { tellTo } from './task';
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

const DONE_BY: { readonly [N in TaskName]: (input: TaskInput<N>, tell: Tell) => TaskAnswer<N> } = {
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
};

/** Does a job; a failure that a person can mend becomes a refusal. */
export function runJob<N extends TaskName>({ task, input, port }: ThreadTask<N>): TaskAnswer<N> | Refusal {
  try {
    return DONE_BY[task](input, tellTo(port));
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
