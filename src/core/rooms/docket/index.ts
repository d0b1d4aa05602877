/** Docket: what is handed over, and how it is held where it goes. */
import { onArrivalCheck } from './checks/on-arrival';
import { settleOnBone } from './remedies/settle-on-bone';

/** The checks of this room. */
export const checks = [onArrivalCheck] as const;

/** The remedies of this room. */
export const remedies = [settleOnBone] as const;
