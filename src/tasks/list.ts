/** All that the server has its threads do. A new task is its file here, what does it in src/worker/tasks, and one line in either list. */
import type { MessagePort } from 'node:worker_threads';
import { addTask } from './add';
import { auditTask } from './audit';
import { editTask } from './edit';
import { exportTask } from './export';
import { handOverTask } from './handover';
import { importTask } from './import';
import { learnTask } from './learn';
import { remapTask } from './remap';
import { remedyTask } from './remedy';
import { reportTask } from './report';
import { standingTask } from './standing';
import { surveyTask } from './survey';
import type { AnswerOfTask, InputOfTask } from './task';

export const TASKS = {
  import: importTask,
  survey: surveyTask,
  add: addTask,
  audit: auditTask,
  remedy: remedyTask,
  edit: editTask,
  remap: remapTask,
  export: exportTask,
  handover: handOverTask,
  report: reportTask,
  learn: learnTask,
  standing: standingTask,
} as const;

export type TaskName = keyof typeof TASKS;
export type TaskInput<N extends TaskName> = InputOfTask<(typeof TASKS)[N]>;
export type TaskAnswer<N extends TaskName> = AnswerOfTask<(typeof TASKS)[N]>;

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
