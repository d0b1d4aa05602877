/** The keys that the house signs with: what is known of them to everybody. */
import { type InferType, array, object, string } from 'yup';
import { defineRoute } from './route';

const houseKeyEntry = object({
  /** The public half, hexadecimal. */
  key: string().required(),
  since: string().required(),
  /** When another took its place; null of the one that signs now. */
  until: string().nullable().defined(),
});

export type HouseKeyEntry = InferType<typeof houseKeyEntry>;

const answer = object({ keys: array(houseKeyEntry).required() });

/** All of them, the present one first. */
export const listKeys = defineRoute({ method: 'GET', path: '/api/keys', request: object({}), answer });

/** Another one from now on. */
export const turnKey = defineRoute({ method: 'POST', path: '/api/keys', request: object({}), answer });
