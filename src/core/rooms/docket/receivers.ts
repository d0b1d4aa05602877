/**
 * The kinds of machines that files are handed to, as settings that anybody may change. Common practice, the
 * values ours.
 */
import { type InferType, number, object, string } from 'yup';
import { checkedBy } from '../../contracts/checked';
import { choiceOf } from '../../contracts/params';
import browser from './receivers/browser.json';
import desk from './receivers/desk.json';
import handset from './receivers/handset.json';
import headset from './receivers/headset.json';
import strictOld from './receivers/strict-old.json';

/** A bound that there may be none of: null. */
const bound = (label: string, least: number) =>
  number().integer().min(least).nullable().defined().meta({ label, quantity: 'count' });

/** What a receiver does to a file on arrival; null where it sets no limit. */
export const receiverSchema = object({
  id: string()
    .required()
    .matches(/^[a-z0-9-]+$/),
  title: string().required().max(80),
  about: string().defined().max(400),
  /** Most bones a point keeps. */
  influences: number()
    .integer()
    .min(1)
    .max(64)
    .required()
    .meta({ label: 'Bones a point', quantity: 'count' }),
  /** How it stores weights. */
  weights: choiceOf('Weights', { u8: '8 bits', u16: '16 bits', float: 'floats' }).required(),
  /** Most bones that one draw knows; a mesh that needs more is drawn in parts. */
  bonesPerDraw: bound('Bones a draw', 1),
  /** Most bones of a skin. */
  bones: bound('Bones a skin', 1),
  /** Most vertices of one draw. */
  verticesPerDraw: bound('Vertices a draw', 3),
  /** How it stores positions: as floats, or in 65 536 steps over the mesh's box. */
  positions: choiceOf('Positions', { float: 'floats', u16: '16 bits' }).required(),
  /** Its unit of length, metres, and its upward axis. */
  metresPerUnit: number().positive().required().meta({ label: 'Its unit', quantity: 'length' }),
  up: choiceOf('Up axis', { y: 'Y', z: 'Z' }).required(),
  /** Which scale of nodes it knows. */
  scale: choiceOf('Node scale', { any: 'any', even: 'even only', none: 'ignored' }).required(),
  /** Whether it applies the transform of a node that shows a mesh. */
  meshNodes: choiceOf('Mesh node transforms', { kept: 'applied', ignored: 'ignored' }).required(),
  /** Bones that no skin lists. */
  loneBones: choiceOf('Bones in no skin', { kept: 'kept', dropped: 'dropped' }).required(),
  /** Nodes that show nothing and are no bones; with them cameras and lights. */
  empties: choiceOf('Empties, cameras, lights', { kept: 'kept', dropped: 'dropped' }).required(),
  /** Most morph targets of a mesh. */
  morphs: bound('Morph targets a mesh', 0),
}).noUnknown();

export type Receiver = InferType<typeof receiverSchema>;

/** The receivers that come with the house. */
export const RECEIVERS: readonly Receiver[] = [handset, desk, browser, headset, strictOld].map((row) =>
  receiverSchema.validateSync(row),
);

export const receiverById = (id: string): Receiver | undefined =>
  RECEIVERS.find((receiver) => receiver.id === id);

/** Reads the settings of a receiver. Throws an Error that names the field that is missing, wrong or unknown. */
export const receiverFrom = (json: unknown): Receiver => checkedBy(receiverSchema, json, { strict: true });
