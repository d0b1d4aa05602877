/** One revision: what it holds, its words, its audit, its files. */
import { array, boolean, mixed, number, object, string } from 'yup';
import type { StoredCharacter } from '../core/character/stored';
import { jobId } from './jobs';
import { contentAddress, defineRoute, uuid } from './route';
import { formatId } from './formats';

/**
 * The manifest of a revision and the addresses of its arrays. A revision never changes, so neither does this.
 */
export const readRevision = defineRoute({
  method: 'GET',
  path: '/api/revisions/:id',
  request: object({ id: uuid() }),
  answer: mixed<StoredCharacter>().required(),
});

/** Changes a revision's label or its note; what it holds never changes. */
export const writeOnRevision = defineRoute({
  method: 'PATCH',
  path: '/api/revisions/:id',
  request: object({ id: uuid(), label: string().trim().min(1).max(200), note: string().trim().max(4000) }),
  answer: object({ saved: boolean().required() }),
});

/**
 * The findings of a revision under a brief. GET: a bundle, or 204 where there are none yet. POST: makes them,
 * told line by line.
 */
export const auditRequest = object({
  id: uuid(),
  job: jobId(),
  /** Its id, or its key. */
  brief: string()
    .matches(/^[a-z0-9-]{1,80}(@\d{1,9})?$/)
    .required(),
  /** Whether the figure is moved as well: every joint is turned through its motions. */
  moved: boolean().default(false),
});

export const auditPath = '/api/revisions/:id/audit';

/** The file of a revision, at rest or, as OBJ, at a moment of a clip. */
export const fileRequest = object({
  id: uuid(),
  format: formatId(),
  clip: number().integer().min(0),
  time: number().min(0).default(0),
});

export const filePath = '/api/revisions/:id/file';

/** `receiver`: the id of one of the house's receivers, or its settings as JSON. */
export const reportRequest = object({ id: uuid(), download: string(), receiver: string().max(2000) });

export const reportPath = '/api/revisions/:id/report';

/** Arrays by their content address, many in one answer: a bundle of { address: bytes }. */
export const arraysRequest = object({ hashes: array(contentAddress()).required().max(20_000) });

export const arraysPath = '/api/arrays';
