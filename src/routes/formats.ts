/** The formats that the house writes. */
import { type InferType, array, boolean, object, string } from 'yup';
import { defineRoute } from './route';

/** Id of a format in a request; whether there is such a one is for whoever writes to say. */
export const formatId = () =>
  string()
    .matches(/^[a-z0-9]{1,20}$/)
    .default('glb');

const writtenFormatEntry = object({
  id: string().required(),
  title: string().required(),
  /** What is offered, and in a few words what it holds. */
  offer: string().required(),
  about: string().required(),
  /** Whether a character can be handed over in it, with skeleton, weights and motion. */
  isWhole: boolean().required(),
});

export type WrittenFormatEntry = InferType<typeof writtenFormatEntry>;

export const listFormats = defineRoute({
  method: 'GET',
  path: '/api/formats',
  request: object({}),
  answer: object({ formats: array(writtenFormatEntry).required() }),
});
