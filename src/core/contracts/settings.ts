/** Settings that checks of several rooms read: each is one schema, however many read it. */
import { number, object, string } from 'yup';
import { choiceOf } from './params';
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
    depth: number()
      .integer()
      .positive()
      .nullable()
      .default(null)
      .meta(
        setting(
          'Most bones in a row',
          'count',
          'most',
          'From a root to an end; off where the machine follows any number.',
        ),
      ),
  })
    .required()
    .meta({ label: 'What the machine can take' }),
};

const CARRIES = { none: 'carry no weight', free: 'may carry weight' } as const;

/** Which bones may carry weight. What is an end or a control is read off names, flesh and the tree, or said by hand. */
export const WEIGHT_CARRIERS = {
  carriers: object({
    ends: choiceOf('Bones that end their chain', CARRIES).default('none').meta({
      bound: 'is',
      hint: 'Bones with no bone and no flesh beyond them; a tip that bends flesh of its own is none.',
    }),
    controls: choiceOf('Bones that control others', CARRIES)
      .default('none')
      .meta({ bound: 'is', hint: 'They are for the rig: handles, poles, targets.' }),
    only: pattern('Only bones of these names', 'All others carry none; off where any name may.')
      .nullable()
      .default(null),
    set: string().max(1000).nullable().default(null).meta({
      label: 'Only bones of this set',
      bound: 'is',
      hint: 'The name of a set that comes with the file; off where it is not asked.',
    }),
    never: pattern('Never bones of these names', 'Whatever they are, they carry none.')
      .nullable()
      .default(null),
  })
    .required()
    .meta({ label: 'Which bones may carry weight' }),
};

/** What a brief says of that. */
export interface WeightCarriers {
  readonly ends: keyof typeof CARRIES;
  readonly controls: keyof typeof CARRIES;
  readonly only: string | null;
  readonly set: string | null;
  readonly never: string | null;
}

/** Carries what a game usually wants: neither ends nor controls. */
export const BODY_CARRIERS: WeightCarriers = {
  ends: 'none',
  controls: 'none',
  only: null,
  set: null,
  never: null,
};
