/** Crosswalks that were saved, by the fingerprints of their two skeletons. */
import { boolean, mixed, object, string } from 'yup';
import { type CrosswalkFile, crosswalkFileSchema } from '../core/rooms/crosswalk/file';
import { defineRoute } from './route';

const fingerprint = () =>
  string()
    .matches(/^[0-9a-f]{32}$/)
    .required();

export const readCrosswalk = defineRoute({
  method: 'GET',
  path: '/api/crosswalks',
  request: object({ source: fingerprint(), target: fingerprint() }),
  answer: object({
    file: mixed<CrosswalkFile>().nullable().default(null),
    /** What was saved onto the same target from other skeletons; only where nothing was for these two. */
    others: mixed<CrosswalkFile[]>().default([]),
  }),
});

export const saveCrosswalk = defineRoute({
  method: 'PUT',
  path: '/api/crosswalks',
  request: crosswalkFileSchema,
  answer: object({ saved: boolean().required() }),
});
