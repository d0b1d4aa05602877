import type { NamedPlace } from '../character/named';
import type { PlacedElements } from '../character/sets';

/** What the indices among a step's parameters stood for, by the parameters' names. */
export type NamedParams = Readonly<
  Record<string, NamedPlace | null | readonly NamedPlace[] | readonly PlacedElements[]>
>;

/** A file that a step read, as it is kept. */
export interface StepFile {
  name: string;
  bytes: number;
  sha256: string;
}

/** What became of one recorded step on a new delivery. */
export interface RerunRow {
  label: string;
  outcome: 'done' | 'in part' | 'not needed' | 'does not fit';
  why?: string;
}

/** How far points of a remapped character lie from where they were, over all poses of the proof, metres. */
export interface Deviation {
  readonly max: number;
  readonly rms: number;
  readonly p95: number;
}

/** How weights are moved onto another skeleton. */
export interface MoveHow {
  readonly mode: 'target' | 'mesh';
  readonly lengths: 'kept' | 'taken';
  readonly weights: 'example' | 'rules';
  /** Whether a mesh that is brought to another rest pose gets the rest shape that moves best; as posed where absent. */
  readonly rest?: 'example' | 'posed';
}

/** What made a revision, with its parameters; enough to do it again. */
export type Step =
  | { kind: 'import'; files: StepFile[]; notes: string[] }
  | {
      kind: 'delivery';
      files: StepFile[];
      notes: string[];
      after: number;
      /** The revisions whose steps are to be done again on it, in order; what became of each stands in `rows`. */
      again?: string[];
      rows?: RerunRow[];
      /** An id of what was asked for, by which it is found where it is begun again. */
      asked?: string;
    }
  | {
      kind: 'add';
      files: StepFile[];
      notes: string[];
      unit: string;
      /** What was said of the files' unit and axis where they do not say it. */
      read?: { unitMetres?: number; upAxis?: 'x' | 'y' | 'z' };
    }
  | { kind: 'copy'; from: { character: string; revision: number; label: string } }
  | {
      kind: 'remedy';
      remedy: string;
      params: Record<string, unknown>;
      names?: NamedParams;
      notes?: string[];
    }
  | {
      kind: 'edit';
      /** What the hand did, in words: “moved 3 joints”. */
      title: string;
      /** Sha-256 of the bundle that holds the edit's patches. */
      patch: string;
      /** What the indices of every patch stood for. */
      names: NamedParams[];
    }
  | {
      kind: 'remap';
      target: string;
      /** The brief, as id@version, that brought the skeleton along, where it is a brief's own. */
      skeletonOf?: string;
      limit: number;
      crosswalk: unknown;
      /** How it was moved; joints to the mesh by the rules alone where nothing is said. */
      how?: MoveHow;
      /** Revision whose clips were examples for the weights as well. */
      motion?: string;
      notes?: string[];
      proof?: Deviation;
      /** What the skeleton itself costs of that. */
      price?: Deviation;
    };

/** How many steps of a delivery are still to be done again; 0 for one that is whole, and for what is no delivery. */
export const stepsLeft = (step: Step): number =>
  step.kind === 'delivery' ? Math.max(0, (step.again?.length ?? 0) - (step.rows?.length ?? 0)) : 0;
