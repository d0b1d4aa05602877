/** What makes a new revision of a character. */
import type { MoveHow } from '@/core/contracts/step';
import { mixed, number, object, string } from 'yup';
import type { Effects } from '../core/contracts/effects';
import type { Counts } from '../core/contracts/finding';
import type { CrosswalkFile } from '../core/rooms/crosswalk/file';
import { jobId } from './jobs';
import { defineRoute, uuid } from './route';

const stepAnswer = object({
  revision: object({ id: uuid(), number: number().required() }).required(),
  effects: mixed<Effects>().required(),
  counts: mixed<Counts>().required(),
  /** What could not be kept or done, in sentences. */
  notes: mixed<string[]>().default([]),
});

/** Applies a remedy to the revision `base`. 409 where the head has moved. */
export const applyRemedyStep = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/steps/remedy',
  request: object({
    id: uuid(),
    base: uuid(),
    job: jobId(),
    remedy: string().max(100).required(),
    params: mixed<Record<string, unknown>>(
      (x): x is Record<string, unknown> => !!x && typeof x === 'object',
    ).default({}),
    label: string().max(200),
  }),
  answer: stepAnswer,
});

const remapAnswer = stepAnswer.shape({
  /** How the crosswalk came about, and what there is to look at in it. */
  walk: object({
    from: string().defined(),
    bones: number().required(),
    paired: number().required(),
    unsure: number().required(),
  }).required(),
});

/** Moves the weights of the revision `base` onto another skeleton. 409 where the head has moved. */
export const remapStep = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/steps/remap',
  request: object({
    id: uuid(),
    base: uuid(),
    job: jobId(),
    label: string().max(200),
    limit: number().integer().min(1).max(64).required(),
    how: object({
      mode: mixed<MoveHow['mode']>().oneOf(['target', 'mesh']).required(),
      lengths: mixed<MoveHow['lengths']>().oneOf(['kept', 'taken']).required(),
      weights: mixed<MoveHow['weights']>().oneOf(['example', 'rules']).required(),
      rest: mixed<NonNullable<MoveHow['rest']>>().oneOf(['example', 'posed']),
    })
      .optional()
      .default(undefined),
    /** A revision whose clips are examples for the weights as well. */
    motion: string().uuid(),
    target: object({
      id: string().max(100),
      revision: string().uuid(),
      title: string().max(200).required(),
    }).required(),
    /** Absent: one that was saved for this skeleton or one nearly like it, else what is suggested. */
    crosswalk: mixed<CrosswalkFile>().optional(),
  }),
  answer: remapAnswer,
});

/**
 * Keeps what the hand did to the revision `base` as one step. The body is a bundle of patches; 409 where the
 * head has moved.
 */
export const editStep = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/steps/edit',
  request: object({ id: uuid(), base: uuid(), job: jobId() }),
  answer: stepAnswer,
});
