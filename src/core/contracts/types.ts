import type { AnyObjectSchema } from 'yup';
import type { Character } from '../character/model';
import type { Similarity } from '../character/similarity';
import type { Brief } from './brief';

/** The seven rooms of the house, in the order of the work. */
export const ROOMS = [
  'placement',
  'skeleton',
  'surface',
  'weights',
  'trials',
  'crosswalk',
  'docket',
] as const;
export type Room = (typeof ROOMS)[number];

/** How much a finding matters: it stops hand-off, is worth fixing, or is for your eyes. */
export type Gravity = 'stops' | 'worth' | 'note';
export const GRAVITIES: readonly Gravity[] = ['stops', 'worth', 'note'];
export const GRAVITY_WORDS: Readonly<Record<Gravity, string>> = {
  stops: 'stops hand-off',
  worth: 'worth fixing',
  note: 'for your eyes',
};

/** What a finding is about. `index` counts in `nodes`, `meshes` or `skins`. */
export interface Subject {
  readonly kind: 'character' | 'node' | 'bone' | 'mesh';
  readonly index: number;
  readonly name: string;
}

/** The very things concerned. `node` is the node that shows the mesh, for vertices and polygons. */
export interface Elements {
  readonly kind: 'vertex' | 'polygon' | 'bone' | 'node';
  readonly node: number;
  readonly ids: Uint32Array;
}

export interface RemedyCall {
  readonly id: string;
  readonly params: Readonly<Record<string, unknown>>;
}

/** One row of evidence: a number or a word, with its unit. */
export interface Evidence {
  readonly label: string;
  readonly now: number | string;
  readonly brief: number | string;
  readonly unit: string;
}

export interface Finding {
  readonly check: string;
  readonly room: Room;
  readonly gravity: Gravity;
  readonly subject: Subject;
  readonly message: string;
  readonly why: string;
  readonly measured: number | string;
  readonly expected: number | string;
  readonly unit: string;
  /** How many elements are concerned. */
  readonly count: number;
  readonly evidence: readonly Evidence[];
  readonly elements: readonly Elements[];
  readonly remedies: readonly RemedyCall[];
  /** Stable over re-runs: the check, the subject's name, and what tells apart two findings of one check on one subject. */
  readonly key: string;
}

export interface Check {
  readonly id: string;
  readonly room: Room;
  readonly title: string;
  readonly why: string;
  run(character: Character, brief: Brief): Finding[];
}

/** A row of a preview: the same number before and after. */
export interface Compared {
  readonly label: string;
  readonly before: number | string;
  readonly after: number | string;
  readonly unit: string;
}

/**
 * What a remedy promises about everything that it shows: the whole world goes through `similarity`; of the nodes that are not
 * `meant` nothing else changes, in every pose or at rest.
 */
export interface Pledge {
  readonly similarity: Similarity;
  /** Nodes that show a mesh and change on purpose. */ readonly meant: ReadonlySet<number>;
  readonly holds: 'in every pose' | 'at rest';
}

export interface Remedy<P = Record<string, unknown>> {
  readonly id: string;
  readonly room: Room;
  readonly title: string;
  readonly does: string;
  readonly params: AnyObjectSchema;
  /** Numbers before and after. Changes nothing. */
  preview(character: Character, params: P, brief: Brief): Compared[];
  /** The character with the fix; every array it did not touch is the same object. Throws RemedyError with one sentence. */
  apply(character: Character, params: P, brief: Brief): Character;
  /** Title and what it does for these parameters, where they make a difference. */
  says?(params: P): { readonly title: string; readonly does: string };
  /** Absent: no similarity, and what changes on purpose is what the step touched. */
  promises?(character: Character, params: P, brief: Brief): Pledge;
}

/** A remedy that cannot be applied as asked; the message says why and what to do. */
export class RemedyError extends Error {}

/** A remedy that finds nothing to do: the character is already as it would make it. */
export class NothingToDo extends RemedyError {}

type Draft = Partial<Finding> & Pick<Finding, 'gravity' | 'subject' | 'message' | 'measured' | 'expected'>;

/** A finding of a check, with what it does not say filled in. `mark` tells apart findings on one subject. */
export function finding(check: Check, draft: Draft, mark = ''): Finding {
  const elements = draft.elements ?? [];
  return {
    check: check.id,
    room: check.room,
    why: check.why,
    unit: '',
    evidence: [],
    remedies: [],
    count: elements.reduce((n, e) => n + e.ids.length, 0),
    key: [check.id, draft.subject.kind, draft.subject.name, mark].filter(Boolean).join('/'),
    ...draft,
    elements,
  };
}

export const theCharacter = (c: Character): Subject => ({ kind: 'character', index: 0, name: c.name });
export const theNode = (c: Character, index: number): Subject => ({
  kind: c.nodes[index].kind === 'bone' ? 'bone' : 'node',
  index,
  name: c.nodes[index].name || `node ${index}`,
});
export const boneElements = (ids: Iterable<number>): Elements => ({
  kind: 'bone',
  node: -1,
  ids: Uint32Array.from(ids),
});
