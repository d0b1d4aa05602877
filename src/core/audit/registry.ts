/** All checks and remedies of the house. A new one is one new file and one line in its room's list. */
import * as placement from '../placement';
import * as skeleton from '../skeleton';
import * as surface from '../surface';
import * as weights from '../weights';
import type { Check, Remedy } from './types';

const rooms = [placement, skeleton, surface, weights];

export const CHECKS: readonly Check[] = rooms.flatMap((r) => r.checks);
export const REMEDIES: readonly Remedy[] = rooms.flatMap((r) => r.remedies);

export function remedyById(id: string): Remedy | undefined {
  return REMEDIES.find((r) => r.id === id);
}
