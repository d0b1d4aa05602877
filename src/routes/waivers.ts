/** Findings of a character that are accepted, with a reason. */
import { type InferType, array, mixed, number, object, string } from 'yup';
import { type FindingTold, type Waiver, day, waiverSchema } from '../core/contracts/waiver';
import { defineRoute, uuid } from './route';

const name = () => string().trim().min(1).max(200).required();

/** A waiver in the ledger of a character. */
export const waiverRecord = object({
  id: uuid(),
  waiver: mixed<Waiver>().required(),
  /** What was accepted, as it was told then. */
  findings: mixed<readonly FindingTold[]>().required(),
  /** Number of the revision on which it was accepted. */
  revision: number().required(),
  at: string().required(),
  /** Null while it stands. */
  withdrawn: object({ at: string().required(), by: string().required() }).nullable().default(null),
});

export type WaiverRecord = InferType<typeof waiverRecord>;

const answer = object({ waivers: array(waiverRecord).required() });

/**
 * Accepts findings of a revision, as they are now. 409 where one of them is not found there any more.
 */
export const waiveFindings = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/waivers',
  request: object({
    id: uuid(),
    revision: uuid(),
    keys: array(string().required().max(2000)).required().min(1).max(10_000),
    reason: string().trim().min(1).max(2000).required(),
    by: name(),
    until: day(),
    untilRevision: number().integer().min(1),
  }),
  answer,
});

/** Takes a waiver back: what it accepted is open again. It stays in the ledger. */
export const withdrawWaiver = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/waivers/:waiver/withdrawal',
  request: object({ id: uuid(), waiver: uuid(), by: name() }),
  answer,
});

/**
 * Takes waivers that were made elsewhere, such as those of a file, as far as a revision has their findings. Tells how
 * many were taken, and why the others were not.
 */
export const bringWaivers = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/waivers/file',
  request: object({
    id: uuid(),
    revision: uuid(),
    waivers: array(waiverSchema).required().max(10_000),
  }),
  answer: answer.concat(
    object({
      taken: number().required(),
      left: object({
        known: number().required(),
        elsewhere: number().required(),
        over: number().required(),
      }).required(),
    }),
  ),
});

/** The standing waivers of a character as a file. */
export const waiverFileRequest = object({ id: uuid() });

export const waiverFilePath = '/api/characters/:id/waivers';
