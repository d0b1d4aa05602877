import { briefKey } from '@/core/house/brief';
import type { RowChange, MotionFigures } from '@/core/rooms/trials/rows';
import type { Character } from '@/core/character/model';
import type { TriangleBoxes } from '@/core/geometry/triangle-tree';
import type { Finding } from '@/core/contracts/finding';
import type { Waiver, WaiverNote } from '@/core/contracts/waiver';
import type { Brief } from '@/core/house/brief';
import { BRIEFS } from '@/core/house/briefs';
import type { CharacterRecord, Revision } from '@/routes/characters';
import type { Comparison } from '../worker/compare';
import type { ChangesInMotion } from '../worker/pair-in-motion';
import type { Figure } from '../worker/figure';

/** Which picture of a comparison is on the stage. */
export type ComparedPicture = 'difference' | 'first' | 'second';

/** A waiver that stands, with its place in the ledger. */
export type WaiverOnDesk = Waiver & { readonly id: string };

export interface WaivedFinding {
  readonly finding: Finding;
  readonly waiver: WaiverOnDesk;
}

/** What lies on the desk. */
export interface DocumentSlice {
  record: CharacterRecord | null;
  /** The revision that `character` and `figure` are of. */
  revision: string | null;
  character: Character | null;
  figure: Figure | null;
  /** Spatial search by mesh node, as far as the worker has built it. */
  searches: ReadonlyMap<number, TriangleBoxes>;
  /** All that the audit found. */
  audited: readonly Finding[] | null;
  /** What of it is open. */
  findings: readonly Finding[] | null;
  /** What of it somebody has accepted. */
  waived: readonly WaivedFinding[];
  /** Waivers that do not hold here, with the reason. */
  waiverNotes: readonly WaiverNote<WaiverOnDesk>[];
  brief: Brief;
  /** The figure was moved, and what showed then is among what was found; null where it was not, for this revision and brief. */
  tried: {
    readonly revision: string;
    readonly brief: string;
    readonly rows: readonly MotionFigures[];
    /** What differs from the trial before, and the number of its revision; null where there was none of this character. */
    readonly since: { readonly revision: number; readonly changes: readonly RowChange[] } | null;
  } | null;
  compared: ComparedRevisions | null;
}

export const emptyDocument = (): DocumentSlice => ({
  record: null,
  revision: null,
  character: null,
  figure: null,
  searches: new Map(),
  audited: null,
  findings: null,
  waived: [],
  waiverNotes: [],
  brief: BRIEFS[0],
  tried: null,
  compared: null,
});

/** Two revisions beside each other. */
export interface ComparedRevisions {
  readonly a: string;
  readonly b: string;
  /** As they are shown: at rest or in a motion; null until they are there. */
  readonly data: Comparison | null;
  readonly show: ComparedPicture;
  /** What bends otherwise; how far it is while they are turned; null where they were not. */
  readonly inMotion: ChangesInMotion | { readonly share: number } | null;
  /** The motion that both stand in; null at rest. */
  readonly stands: MotionFigures | null;
}

/** Whether the figure of the desk has been moved under its brief. */
export const isTried = ({
  tried,
  revision,
  brief,
}: Pick<DocumentSlice, 'tried' | 'revision' | 'brief'>): boolean =>
  tried !== null && tried.revision === revision && tried.brief === briefKey(brief);

export const headOf = (record: CharacterRecord | null): Revision | undefined =>
  record?.revisions.find((revision) => revision.id === record.head);

export const undoTarget = (record: CharacterRecord | null): string | null => headOf(record)?.parent ?? null;

/** The newest revision that was made on top of the head. */
export const redoTarget = (record: CharacterRecord | null): string | null =>
  record?.revisions
    .filter((revision) => revision.parent === record.head)
    .sort((a, b) => b.number - a.number)[0]?.id ?? null;
