/** Briefs: what games want, version by version. */
import type { Learned } from '../core/house/learn';
import { type InferType, array, boolean, mixed, number, object, string } from 'yup';
import type { Counts } from '../core/contracts/finding';
import type { FindingTold } from '../core/contracts/waiver';
import type { Brief } from '../core/house/brief';
import { jobId } from './jobs';
import { defineRoute, uuid } from './route';

/** What came with the house is never changed here; what was made here is. */
export type BriefOrigin = 'house' | 'own';

const briefId = () =>
  string()
    .matches(/^[a-z0-9-]+$/)
    .max(80)
    .required();

const briefEntry = object({
  brief: mixed<Brief>().required(),
  origin: mixed<BriefOrigin>().oneOf(['house', 'own']).required(),
  /** Characters of the shelf that are held against it. */
  users: array(object({ id: uuid(), name: string().required() })).required(),
});

export type BriefEntry = InferType<typeof briefEntry>;

/** All briefs, each in its newest version. */
export const listBriefs = defineRoute({
  method: 'GET',
  path: '/api/briefs',
  request: object({}),
  answer: object({ briefs: array(briefEntry).required() }),
});

/** All versions of a brief, the newest first. */
export const readBriefVersions = defineRoute({
  method: 'GET',
  path: '/api/briefs/:id',
  request: object({ id: briefId() }),
  answer: object({
    origin: mixed<BriefOrigin>().oneOf(['house', 'own']).required(),
    versions: array(object({ brief: mixed<Brief>().required(), at: string().required() })).required(),
  }),
});

/**
 * Saves a brief: a new one, or a new version of one that was made here. `base`: the version that was
 * changed; 0 for a new one. 409 where another version has come since, or the name is taken.
 */
export const saveBrief = defineRoute({
  method: 'PUT',
  path: '/api/briefs',
  request: object({ base: number().integer().min(0).required(), brief: mixed<object>().required() }),
  answer: object({ brief: mixed<Brief>().required() }),
});

/** Removes a brief that was made here and that no character is held against. */
export const removeBrief = defineRoute({
  method: 'DELETE',
  path: '/api/briefs/:id',
  request: object({ id: briefId() }),
  answer: object({ removed: boolean().required() }),
});

/** How the characters that are held against a brief stand, and how they would under another version of it. */
export const tryBrief = defineRoute({
  method: 'POST',
  path: '/api/briefs/:id/trial',
  request: object({ id: briefId(), job: jobId(), brief: mixed<object>().required() }),
  answer: object({
    rows: array(
      object({
        id: uuid(),
        name: string().required(),
        now: mixed<Counts>().required(),
        then: mixed<Counts>().required(),
      }),
    ).required(),
  }),
});

/** A brief that a revision fulfils, learned from it on the basis of another. */
export const learnFrom = defineRoute({
  method: 'POST',
  path: '/api/revisions/:id/brief',
  request: object({ id: uuid(), base: briefId(), title: string().trim().min(1).max(120).required() }),
  answer: object({
    brief: mixed<Brief>().required(),
    settings: mixed<readonly Learned[]>().required(),
    eased: array(string().required()).required(),
  }),
});

/** What is measured of a revision for the settings of a brief, and what is found under it. */
export const standUnder = defineRoute({
  method: 'POST',
  path: '/api/revisions/:id/standing',
  request: object({ id: uuid(), brief: mixed<object>().required() }),
  answer: object({
    measured: mixed<Readonly<Record<string, unknown>>>().required(),
    findings: mixed<readonly FindingTold[]>().required(),
  }),
});
