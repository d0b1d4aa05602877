/** What a form says of a setting of a check, and how the setting bounds what is measured. */
import { array, string } from 'yup';
import type { Quantity } from './params';

/**
 * How a setting stands to what a check measures: it is what is wanted (`is`), the most that is allowed, or the least.
 */
export type Bound = 'is' | 'most' | 'least';

declare module 'yup' {
  interface CustomSchemaMetadata {
    /** One sentence on what it does. */
    hint?: string;
    bound?: Bound;
    /** Of a list: what an item that is added begins as. */
    fresh?: object;
    /** Of a list: its items are short, and stand as the rows of a table. */
    isTable?: boolean;
  }
}

/** What is said of a number that a check reads. */
export const setting = (label: string, quantity: Quantity, bound: Bound, hint: string) => ({
  label,
  quantity,
  bound,
  hint,
});

/** A pattern over names. */
export const pattern = (label: string, hint: string) =>
  string().meta({ label, quantity: 'pattern', bound: 'is', hint });

/** Most names of a list. */
const MOST_NAMES = 10_000;

/** Names, one by one, just as they stand. */
export const names = (label: string, hint: string) =>
  array(string().required().max(1000)).max(MOST_NAMES).default([]).meta({ label, bound: 'is', hint });
