/** What a task of the threads is: its lane, what it is given and what it answers. What does it is in src/worker. */
import type { StoredCharacter } from '../core/character/stored';
import type { Effects } from '../core/contracts/effects';
import type { Counts } from '../core/contracts/finding';
import type { FindingTold } from '../core/contracts/waiver';

/**
 * How many tasks of a lane are at work at once. What brings files in may take long and audits come in heaps; neither may
 * keep a step or a preview waiting, so that each lane has threads that no other takes.
 */
export const TASK_LANES = { reading: 3, auditing: 2, working: 4 } as const;

export type TaskLane = keyof typeof TASK_LANES;

declare const input: unique symbol;
declare const answer: unique symbol;

/** A task of the threads. The types of what it is given and what it answers go with it; there are no such values. */
export interface Task<Input extends object, Answer extends object> {
  readonly lane: TaskLane;
  readonly [input]?: Input;
  readonly [answer]?: Answer;
}

export const defineTask = <Input extends object, Answer extends object>(task: {
  readonly lane: TaskLane;
}): Task<Input, Answer> => task;

export type InputOfTask<T extends Task<object, object>> = NonNullable<T[typeof input]>;
export type AnswerOfTask<T extends Task<object, object>> = NonNullable<T[typeof answer]>;

/**
 * A revision as it goes to a thread: its manifest, under an address of its own, and its arrays in memory that
 * threads share.
 */
export interface Wire {
  readonly address: string;
  readonly stored: StoredCharacter;
  readonly bytes: ReadonlyMap<string, Uint8Array>;
}

/** An audit that was made of the revision a step begins from: findings as a bundle. */
export interface EarlierAudit {
  /** Key of the brief, with its version. */
  readonly brief: string;
  readonly findings: Uint8Array;
}

/** An audit: its findings, and how many of each gravity. */
export interface Audited {
  /** A bundle of Finding[]. */
  readonly findings: Uint8Array;
  readonly counts: Counts;
  /** The findings as far as lists and waivers look at them. */
  readonly told: readonly FindingTold[];
  /** The figure was moved: what shows in motion is among them. */
  readonly isMoved: boolean;
}

/** A new revision: what is to be stored of it. */
export interface Made {
  readonly stored: StoredCharacter;
  /** Arrays that the revision it came from did not have, by their addresses. */
  readonly bytes: ReadonlyMap<string, Uint8Array>;
  /** A PNG; null where it looks like what it was made from, whose picture it keeps. */
  readonly picture: Uint8Array | null;
  readonly name: string;
  readonly effects: Effects;
  /** What could not be kept, in sentences. */
  readonly notes: readonly string[];
  /** The audit of what was made, where a brief was given. */
  readonly audited?: Audited;
}

/** How far a task is; `share` from 0 to 1. */
export interface Progress {
  readonly stage: string;
  readonly share: number;
}

/** Where a task tells how far it is. */
export type Tell = (progress: Progress) => void;
