/** All checks and remedies of the house. A new one is one new file and one line in its room's list. */
import * as placement from '../rooms/placement';
import * as skeleton from '../rooms/skeleton';
import * as surface from '../rooms/surface';
import * as weights from '../rooms/weights';
import type { Check, Remedy } from '../contracts/types';

const rooms = [placement, skeleton, surface, weights];

export const CHECKS: readonly Check[] = rooms.flatMap((r) => r.checks);
export const REMEDIES: readonly Remedy[] = rooms.flatMap((r) => r.remedies);

export function remedyById(id: string): Remedy | undefined {
  return REMEDIES.find((r) => r.id === id);
}
