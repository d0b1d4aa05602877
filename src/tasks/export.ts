import type { WrittenFiles } from '../core/formats';
import { type Wire, defineTask } from './task';

export interface ExportInput {
  readonly wire: Wire;
  /** Id of the format. */
  readonly format: string;
  /** Name of the files without what stands behind the dot. */
  readonly stem: string;
  /** A moment of a clip, seconds; at rest where there is none. */
  readonly pose?: { readonly clip: number; readonly time: number };
}

export interface Exported {
  readonly files: WrittenFiles['files'];
  readonly notes: readonly string[];
}

export const exportTask = defineTask<ExportInput, Exported>({ lane: 'auditing' });
