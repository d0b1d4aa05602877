/** The rooms of the house that ask and mend, in the order of the work. A new room is one line here. */
import * as docket from '../rooms/docket';
import * as placement from '../rooms/placement';
import * as skeleton from '../rooms/skeleton';
import * as surface from '../rooms/surface';
import * as trials from '../rooms/trials';
import * as weights from '../rooms/weights';

/** The rooms that have checks or remedies, in the order of the work. */
export const ROOMS = [placement, skeleton, surface, weights, trials, docket] as const;

/** Every check as it was defined, with the type of its settings. */
export type EveryCheck = (typeof ROOMS)[number]['checks'][number];
