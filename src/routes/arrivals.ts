/** Files that are sent: what goes along with them, and what is answered line by line. */
import { type InferType, array, mixed, number, object, string } from 'yup';
import type { Counts } from '../core/contracts/finding';
import type { RerunRow } from '../core/contracts/step';
import { jobId } from './jobs';
import { uuid } from './route';

const emptyAsMissing = <T>(value: T, raw: unknown) => (raw === null || raw === '' ? undefined : value);

/** What the sender says of files that do not say their unit or axes. */
const saidOfFiles = {
  job: jobId(),
  unit: number().positive().transform(emptyAsMissing),
  up: string<'x' | 'y' | 'z'>().oneOf(['x', 'y', 'z']).transform(emptyAsMissing),
};

/** A new character for the shelf. */
export const importFields = object({
  ...saidOfFiles,
  brief: string()
    .matches(/^[a-z0-9-]+$/)
    .max(80)
    .default('handset'),
});

/** Files for a character that is there: on top of the revision `base`. */
export const arrivalFields = object({ ...saidOfFiles, id: uuid(), base: uuid() });

export const importPath = '/api/characters';
export const addFilesPath = '/api/characters/:id/files';
export const deliveryPath = '/api/characters/:id/deliveries';
/** A delivery that was broken off, by the revision that it began with: to go on with it. */
export const deliveryOnPath = '/api/characters/:id/deliveries/:revision';
export const surveyPath = '/api/survey';

/** One line of an answer that tells of its progress; the last one has the stage `done` or `refused`. */
export const progressLine = object({
  stage: string().required(),
  share: number().min(0).max(1).required(),
  message: string(),
  id: string(),
  name: string(),
  notes: array(string().required()),
  counts: mixed<Counts>(),
  revision: mixed<{ readonly id: string; readonly number: number }>(),
  rows: mixed<RerunRow[]>(),
  /** A brief that fits better than the one that was asked for, and why. */
  fits: mixed<{ readonly brief: string; readonly reason: string }>(),
  /** Number of the revision that a new delivery was made from. */
  from: number(),
});

export type ProgressLine = InferType<typeof progressLine>;

/** What files hold, before they are taken in. */
export const surveyAnswer = object({
  name: string().defined(),
  format: string().required(),
  unitMetres: number().required(),
  upAxis: string<'x' | 'y' | 'z'>().oneOf(['x', 'y', 'z']).required(),
  stated: mixed<{ readonly unit: boolean; readonly upAxis: boolean }>().required(),
  size: mixed<readonly [number, number, number]>().required(),
  bones: number().required(),
  vertices: number().required(),
  clips: number().required(),
});

export type Survey = InferType<typeof surveyAnswer>;
