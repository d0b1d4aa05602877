/** What was handed over: sealed dockets, and handing over. */
import { type InferType, array, mixed, number, object, string } from 'yup';
import { handedMotionSchema } from '../core/contracts/handed-motion';
import type { Counts } from '../core/contracts/finding';
import { jobId } from './jobs';
import { defineRoute, uuid } from './route';
import { formatId } from './formats';

/** A docket as the list shows it. */
const docketEntry = object({
  id: uuid(),
  character: uuid(),
  name: string().required(),
  revision: number().required(),
  /** Key of the brief, with its version. */
  brief: string().required(),
  briefTitle: string().required(),
  by: string().required(),
  note: string().defined(),
  counts: mixed<Counts>().required(),
  waived: number().required(),
  leftOut: number().required(),
  fileName: string().required(),
  fileBytes: number().required(),
  /** Sha-256 of the file. */
  sha256: string().required(),
  picture: string().required(),
  at: string().required(),
});

export type DocketEntry = InferType<typeof docketEntry>;

/** All dockets, or those of a character; the newest first. */
export const listDockets = defineRoute({
  method: 'GET',
  path: '/api/dockets',
  request: object({ character: string().uuid() }),
  answer: object({ dockets: array(docketEntry).required() }),
});

/** How a character bent when it was handed over last; null where it never was, or nobody asked. */
export const handedMotion = defineRoute({
  method: 'GET',
  path: '/api/characters/:id/handed-motion',
  request: object({ id: uuid() }),
  answer: object({ motion: handedMotionSchema.nullable().defined() }),
});

/** Hands a revision over; told line by line. */
export const handOverRequest = object({
  id: uuid(),
  job: jobId(),
  revision: uuid(),
  /** Ids of what goes out; all of it where nothing is said. */
  items: array(string().required().max(10_000)).min(1).max(100_000).nullable().default(null),
  /** Id of a format that holds a whole character. */
  format: formatId(),
  by: string().trim().min(1).max(200).required(),
  note: string().trim().max(2000).default(''),
  /** Id of one of the house's receivers, or its settings as JSON. */
  receiver: string().max(2000),
});

export const handOverPath = '/api/characters/:id/dockets';

/** What a docket keeps: the file, the docket itself, the report as a page, and as PDF. */
export const DOCKET_PARTS = ['file', 'docket', 'report', 'pdf'] as const;

export type DocketPart = (typeof DOCKET_PARTS)[number];

export const docketPartRequest = object({
  id: uuid(),
  part: string<DocketPart>()
    .oneOf([...DOCKET_PARTS])
    .required(),
});

export const docketPartPath = '/api/dockets/:id/:part';
