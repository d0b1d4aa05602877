/**
 * The kinds of machines that files are handed to, as settings that anybody may change. Common practice, the
 * values ours.
 */
import { type InferType, mixed, number, object, string } from 'yup';
import { checkedBy } from '../../contracts/checked';
import browser from './receivers/browser.json';
import desk from './receivers/desk.json';
import handset from './receivers/handset.json';
import headset from './receivers/headset.json';
import strictOld from './receivers/strict-old.json';

const oneOf = <const T extends string>(...words: T[]) => mixed<T>().oneOf(words).required();

const count = () => number().integer().min(0).nullable().defined();

/** What a receiver does to a file on arrival; null where it sets no limit. */
export const receiverSchema = object({
  id: string()
    .required()
    .matches(/^[a-z0-9-]+$/),
  title: string().required().max(80),
  about: string().defined().max(400),
  /** Most bones a point keeps. */
  influences: number().integer().min(1).max(64).required(),
  /** How it stores weights. */
  weights: oneOf('u8', 'u16', 'float'),
  /** Most bones that one draw knows; a mesh that needs more is drawn in parts. */
  bonesPerDraw: number().integer().min(1).nullable().defined(),
  /** Most bones of a skin. */
  bones: number().integer().min(1).nullable().defined(),
  /** Most vertices of one draw. */
  verticesPerDraw: number().integer().min(3).nullable().defined(),
  /** How it stores places: as floats, or in 65 536 steps over the mesh's box. */
  positions: oneOf('float', 'u16'),
  /** Its unit of length, metres, and its upward axis. */
  metresPerUnit: number().positive().required(),
  up: oneOf('y', 'z'),
  /** Which scale of nodes it knows. */
  scale: oneOf('any', 'even', 'none'),
  /** Whether it minds the transform of a node that shows a mesh. */
  meshNodes: oneOf('kept', 'ignored'),
  /** Bones that no skin lists. */
  loneBones: oneOf('kept', 'dropped'),
  /** Nodes that show nothing and are no bones; with them cameras and lights. */
  empties: oneOf('kept', 'dropped'),
  /** Most morph targets of a mesh. */
  morphs: count(),
}).noUnknown();

export type Receiver = InferType<typeof receiverSchema>;

/** The receivers that come with the house. */
export const RECEIVERS: readonly Receiver[] = [handset, desk, browser, headset, strictOld].map((r) =>
  receiverSchema.validateSync(r),
);

export const receiverById = (id: string): Receiver | undefined => RECEIVERS.find((r) => r.id === id);

/** Reads the settings of a receiver. Throws an Error that names the field that is missing, wrong or unknown. */
export const receiverFrom = (json: unknown): Receiver => checkedBy(receiverSchema, json, { strict: true });
