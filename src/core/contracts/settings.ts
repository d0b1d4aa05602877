/** Settings that checks of several rooms read: each is one schema, however many read it. */
import { number, object } from 'yup';
import { pattern, setting } from './setting';

/** What the machine can take. */
export const LIMITS = {
  limits: object({
    influences: number()
      .integer()
      .positive()
      .required()
      .meta(
        setting('Most bones at a point', 'count', 'most', 'The machine keeps so many bones of every point.'),
      ),
    bones: number()
      .integer()
      .positive()
      .required()
      .meta(setting('Most bones of a skin', 'count', 'most', 'The machine moves so many bones in one draw.')),
  })
    .required()
    .meta({ label: 'What the machine can take' }),
};

/**
 * Patterns over names: bones with nothing beyond them, which carry no weight (null where tips are ordinary
 * joints), and controls.
 */
export const KINDS_OF_BONES = {
  endPattern: pattern(
    'Bones with nothing beyond them',
    'They carry no weight; off where tips are ordinary joints.',
  )
    .nullable()
    .default(null),
  controlPattern: pattern('Bones that control others', 'They are for the rig, and carry no weight.')
    .nullable()
    .default(null),
};
