import type { Counts } from '../core/contracts/finding';
import type { HandedMotion } from '../core/contracts/handed-motion';
import type { Moment, Waiver } from '../core/contracts/waiver';
import type { WrittenFiles } from '../core/formats';
import type { Brief } from '../core/house/brief';
import type { Receiver } from '../core/rooms/docket/receivers';
import type { ReportFacts } from '../core/rooms/docket/report';
import { type Wire, defineTask } from './task';

/** What is handed over: of which revision, what of it, to whom, and by whom. */
export interface HandOverInput {
  readonly wire: Wire;
  readonly brief: Brief;
  readonly waivers: readonly Waiver[];
  /** How it bent when it was handed over last; none where it never was, or nobody asked. */
  readonly handed?: HandedMotion | null;
  readonly moment: Moment;
  /** Ids of the items that go out; all where nothing is said. */
  readonly items: readonly string[] | null;
  /** Id of the format. */
  readonly format: string;
  /** Name of the files without what stands behind the dot. */
  readonly stem: string;
  readonly facts: ReportFacts;
  readonly label: string;
  readonly crosswalk: object | null;
  readonly receiver?: Receiver;
  readonly by: string;
  readonly note: string;
  readonly id: string;
  /** ISO 8601. */
  readonly at: string;
  /** The public half of the key that the docket is going to be signed with. */
  readonly key?: string;
}

/** What came of it. */
export interface HandedOver {
  /** What goes out: the file, or a zip where a format wants several. */
  readonly file: WrittenFiles['files'][number];
  /** The sealed docket as its file. */
  readonly docket: string;
  readonly report: string;
  readonly picture: Uint8Array;
  readonly counts: Counts;
  readonly waived: number;
}

export const handOverTask = defineTask<HandOverInput, HandedOver>({ lane: 'auditing' });
