import type { Character } from '../character/model';
import type { RoomId } from './rooms';

/** How much a finding matters: it stops hand-off, is worth fixing, or is for your eyes. */
export type Gravity = 'stops' | 'worth' | 'note';

/** The heaviest first. */
export const GRAVITIES: readonly Gravity[] = ['stops', 'worth', 'note'];

/** What a gravity is, in words. */
export const GRAVITY_WORDS: Readonly<Record<Gravity, string>> = {
  stops: 'stops hand-off',
  worth: 'worth fixing',
  note: 'for your eyes',
};

/** What a finding is about. `index` counts in `nodes`, `meshes` or `clips`. */
export interface Subject {
  readonly kind: 'character' | 'node' | 'bone' | 'mesh' | 'clip';
  readonly index: number;
  readonly name: string;
}

/** The very things concerned. `node` is the node that shows the mesh, for what is of a mesh; an edge is two vertices. */
export interface Elements {
  readonly kind: 'vertex' | 'edge' | 'polygon' | 'bone' | 'node';
  readonly node: number;
  readonly ids: Uint32Array;
}

/** A remedy that is offered, with its parameters. */
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
  /** One of several that are possible: being other than the brief says nothing against it. */
  readonly isCandidate?: boolean;
}

/** How a figure stands where something shows. */
export interface FindingPose {
  /** Nodes with their rotations (x y z w) in the frames that they have at rest. */
  readonly turns: readonly (readonly [number, readonly number[]])[];
  /** A moment of a clip, where it shows in one; then there are no turns. */
  readonly moment?: { readonly clip: number; readonly seconds: number };
  /** The pose in words: “bend, 150°”. */
  readonly words: string;
}

/** One answer that matters. */
export interface Finding {
  readonly check: string;
  readonly room: RoomId;
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
  /** Where it shows in motion only. */
  readonly pose?: FindingPose;
  /**
   * Stable over re-runs: the check, the subject's name, and what tells apart two findings of one check on one
   * subject.
   */
  readonly key: string;
}

export type Counts = Record<Gravity, number>;

/** How many findings there are of each gravity. */
export function countGravity(findings: readonly Pick<Finding, 'gravity'>[]): Counts {
  const counts: Counts = { stops: 0, worth: 0, note: 0 };
  for (const finding of findings) counts[finding.gravity]++;
  return counts;
}

/** A character as the subject of a finding. */
export const theCharacter = (character: Character): Subject => ({
  kind: 'character',
  index: 0,
  name: character.name,
});

/** A node as the subject of a finding. */
export const theNode = (character: Character, index: number): Subject => ({
  kind: character.nodes[index].kind === 'bone' ? 'bone' : 'node',
  index,
  name: character.nodes[index].name || `node ${index}`,
});

/** Bones that a finding concerns, by their nodes. */
export const boneElements = (ids: Iterable<number>): Elements => ({
  kind: 'bone',
  node: -1,
  ids: Uint32Array.from(ids),
});
