import type { NamedParams } from '../house/rerun';

export interface StepFile {
  name: string;
  bytes: number;
  sha256: string;
}

/** What became of one recorded step on a new delivery. */
export interface RerunRow {
  label: string;
  outcome: 'done' | 'not needed' | 'does not fit';
  why?: string;
}

/** What made a revision, with its parameters; enough to do it again. */
export type Step =
  | { kind: 'import'; files: StepFile[]; notes: string[] }
  | { kind: 'delivery'; files: StepFile[]; notes: string[]; after: number; rows?: RerunRow[] }
  | {
      kind: 'add';
      files: StepFile[];
      notes: string[];
      unit: string;
      /** What was said of the files' unit and axis where they do not say it. */ read?: {
        unitMetres?: number;
        upAxis?: 'x' | 'y' | 'z';
      };
    }
  | { kind: 'copy'; from: { character: string; revision: number; label: string } }
  | { kind: 'remedy'; remedy: string; params: Record<string, unknown>; names?: NamedParams; notes?: string[] }
  | {
      kind: 'remap';
      target: string;
      limit: number;
      crosswalk: unknown;
      notes?: string[];
      proof?: { max: number; rms: number; p95: number };
    };
