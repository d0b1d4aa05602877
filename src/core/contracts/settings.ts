/** Settings that checks of several rooms read: each is one schema, however many read it. */
import { number, object, string } from 'yup';

/** What the machine can take. */
export const LIMITS = {
  limits: object({
    influences: number().integer().positive().required(),
    bones: number().integer().positive().required(),
  }).required(),
};

/**
 * Patterns over names: bones with nothing beyond them, which carry no weight (null where tips are ordinary
 * joints), and controls.
 */
export const KINDS_OF_BONES = {
  endPattern: string().nullable().default(null),
  controlPattern: string().nullable().default(null),
};
