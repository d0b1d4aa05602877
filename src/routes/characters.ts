/** The shelf, and one character with its ledger and pins. */
import { type InferType, array, boolean, mixed, number, object, string } from 'yup';
import { type PinEnd } from '../core/character/pin';
import type { Effects } from '../core/contracts/effects';
import type { Counts } from '../core/contracts/finding';
import type { Step } from '../core/contracts/step';
import type { Brief } from '../core/house/brief';
import { defineRoute, uuid } from './route';
import { keptPose } from './kept-pose';
import { waiverRecord } from './waivers';

const counts = () => mixed<Counts>().nullable().default(null);
const moment = () => string().required();
/** Which briefs there are the database says. */
const briefId = () =>
  string()
    .matches(/^[a-z0-9-]+$/)
    .max(80);

const shelfEntry = object({
  id: uuid(),
  name: string().required(),
  brief: string().required(),
  head: string().nullable().default(null),
  updatedAt: moment(),
  number: number().nullable().default(null),
  label: string().nullable().default(null),
  picture: string().nullable().default(null),
  /** What is open, without what is waived. */
  counts: counts(),
  waived: number().default(0),
  /** Whether the figure was moved for it: what shows in motion is among what is open. */
  moved: boolean().default(false),
  /** How many bones its newest revision has; null where that is not known. */
  bones: number().nullable().default(null),
});

const revision = object({
  id: uuid(),
  number: number().required(),
  parent: string().nullable().default(null),
  label: string().required(),
  step: mixed<Step>().required(),
  picture: string().nullable().default(null),
  effects: mixed<Effects>().required(),
  note: string().defined(),
  createdAt: moment(),
  /** What is open on it, without what is waived now. */
  counts: counts(),
});

const pin = object({
  id: uuid(),
  label: string().defined(),
  from: mixed<PinEnd>().required(),
  to: mixed<PinEnd>().required(),
});

/** A character as the desk knows it: its name, its brief, every revision, its pins and kept poses. */
export const characterRecord = object({
  id: uuid(),
  name: string().required(),
  brief: string().required(),
  /** What its brief says, in its newest version. */
  wants: mixed<Brief>().required(),
  head: string().required(),
  revisions: array(revision).required(),
  pins: array(pin).required(),
  /** Poses that are kept by name, in the order of their names. */
  poses: array(keptPose).required(),
  /** Also those that were withdrawn. */
  waivers: array(waiverRecord).required(),
  /** A step is at work on it. */
  working: boolean().default(false),
});

export type ShelfEntry = InferType<typeof shelfEntry>;
export type Revision = InferType<typeof revision>;
export type CharacterRecord = InferType<typeof characterRecord>;

/** How many characters may be asked for by their ids at once. */
export const MOST_BY_ID = 100;

/** The shelf: all of it, or those that are asked for, with the briefs that they are held against. */
export const listCharacters = defineRoute({
  method: 'GET',
  path: '/api/characters',
  request: object({
    /** Ids with commas between them. */
    only: string()
      .matches(/^[0-9a-f-]{36}(,[0-9a-f-]{36})*$/)
      .max(37 * MOST_BY_ID),
  }),
  answer: object({
    characters: array(shelfEntry).required(),
    /** By their ids, each in its newest version. */
    briefs: mixed<Readonly<Record<string, Brief>>>().required(),
  }),
});

export const readCharacter = defineRoute({
  method: 'GET',
  path: '/api/characters/:id',
  request: object({ id: uuid() }),
  answer: characterRecord,
});

/** Changes the name or the brief. */
export const changeCharacter = defineRoute({
  method: 'PATCH',
  path: '/api/characters/:id',
  request: object({ id: uuid(), name: string().trim().min(1).max(120), brief: briefId() }),
  answer: characterRecord,
});

export const removeCharacter = defineRoute({
  method: 'DELETE',
  path: '/api/characters/:id',
  request: object({ id: uuid() }),
  answer: object({ removed: boolean().required() }),
});

/** Saves a revision under a new name, as a character of its own. */
export const copyRevision = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/copies',
  request: object({ id: uuid(), revision: uuid(), name: string().trim().min(1).max(120).required() }),
  answer: object({ id: uuid(), revision: uuid() }),
});

/** Which revision a character stands at, for pages that have it open. */
export const readHead = defineRoute({
  method: 'GET',
  path: '/api/characters/:id/head',
  request: object({ id: uuid() }),
  answer: object({ head: uuid(), number: number().required() }),
});

/** Undo, redo, go back to a revision. 409 where the head has moved. */
export const moveHead = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/head',
  request: object({ id: uuid(), base: uuid(), to: uuid() }),
  answer: characterRecord,
});

const end = object({
  kind: string<'joint' | 'vertex'>().oneOf(['joint', 'vertex']).required(),
  node: string().defined().max(10_000),
  nth: number().integer().min(1).max(100_000),
  vertex: number()
    .integer()
    .min(0)
    .when('kind', { is: 'vertex', then: (schema) => schema.required() }),
}).required();

/** Pins a measure between two points or joints to a character. */
export const addPin = defineRoute({
  method: 'POST',
  path: '/api/characters/:id/pins',
  request: object({ id: uuid(), label: string().trim().max(120).default(''), from: end, to: end }),
  answer: characterRecord,
});

/** Gives a pin a label; an empty one takes it away. */
export const labelPin = defineRoute({
  method: 'PATCH',
  path: '/api/characters/:id/pins/:pin',
  request: object({ id: uuid(), pin: uuid(), label: string().trim().max(120).defined() }),
  answer: characterRecord,
});

export const removePin = defineRoute({
  method: 'DELETE',
  path: '/api/characters/:id/pins/:pin',
  request: object({ id: uuid(), pin: uuid() }),
  answer: characterRecord,
});
