/** All checks and remedies of the house. A new one is one new file and one line in its room's list. */
import type { Check } from '../contracts/check';
import type { Remedy } from '../contracts/remedy';
import type { Brief } from './brief';
import { ROOMS } from './rooms';

/** Every check of every room, in the order of the work. */
export const CHECKS: readonly Check<Brief>[] = ROOMS.flatMap((room): readonly Check<Brief>[] => room.checks);

/** Every remedy of every room. */
export const REMEDIES: readonly Remedy<never, Brief>[] = ROOMS.flatMap(
  (room): readonly Remedy<never, Brief>[] => room.remedies,
);

/** A remedy by its id, to be given parameters that its schema has checked. */
export function remedyById(id: string): Remedy<Record<string, unknown>, Brief> | undefined {
  return REMEDIES.find((remedy) => remedy.id === id) as Remedy<Record<string, unknown>, Brief> | undefined;
}

/** A check of the house; undefined where there is none of this id. */
export const checkById = (id: string): Check<Brief> | undefined => CHECKS.find((check) => check.id === id);

/** Whether a finding's key is of a check that moves the figure. */
export const isKeyInMotion = (key: string): boolean => checkById(key.split('/')[0])?.isInMotion ?? false;
