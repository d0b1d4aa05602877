import { addressOf } from '../../core/character/bundle';
import { type Counts, countGravity } from '../../core/contracts/finding';
import { type Moment, type Waiver, applyWaivers } from '../../core/contracts/waiver';
import { RemedyError } from '../../core/contracts/remedy';
import { type WriteFormat, readCharacter, writeCharacter } from '../../core/formats';
import { audit } from '../../core/house/audit';
import type { Brief } from '../../core/house/brief';
import { type Docket, docketFile, docketFinding, sealDocket } from '../../core/house/docket';
import { contentsOf } from '../../core/rooms/docket/contents';
import { itemsOf, withItems } from '../../core/rooms/docket/items';
import type { Receiver } from '../../core/rooms/docket/receivers';
import { type HandedFacts, type ReportFacts, reportHtml } from '../../core/rooms/docket/report';
import { measuresOf } from '../../core/rooms/placement/measures';
import { type Tell, type Wire, openWire, pictureOf } from '../task';
import { receiverFacts } from './report';

/** What is handed over: of which revision, what of it, to whom, and by whom. */
export interface HandOverInput {
  readonly wire: Wire;
  readonly brief: Brief;
  readonly waivers: readonly Waiver[];
  readonly moment: Moment;
  /** Ids of the items that go out; all where nothing is said. */
  readonly items: readonly string[] | null;
  readonly format: WriteFormat;
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
}

/** What came of it. */
export interface HandedOver {
  readonly files: readonly { readonly name: string; readonly bytes: Uint8Array; readonly type: string }[];
  /** The sealed docket as its file. */
  readonly docket: string;
  readonly report: string;
  readonly picture: Uint8Array;
  readonly counts: Counts;
  readonly waived: number;
}

/**
 * Writes what was chosen of a revision, reads the written file back, audits that, and seals all of it into a docket.
 */
export function handOver(input: HandOverInput, tell?: Tell): HandedOver {
  const { wire, brief, format, stem, by, at, note } = input;
  tell?.({ stage: 'writing the file', share: 0.1 });
  const whole = openWire(wire);
  const chosen = input.items ? withItems(whole, new Set(input.items)) : withItems(whole, allOf(whole));
  if (chosen.taken.length === 0)
    throw new RemedyError('Nothing was chosen to be handed over; choose something.');
  const { files, notes } = writeCharacter(chosen.character, format, stem);
  tell?.({ stage: 'reading it back', share: 0.3 });
  const back = readCharacter(files.map(({ name, bytes }) => ({ name, bytes })));
  tell?.({ stage: 'auditing what was read back', share: 0.5 });
  const { open, waived } = applyWaivers(audit(back, brief), input.waivers, input.moment);
  tell?.({ stage: 'sealing the docket', share: 0.8 });
  const listed = files.map(({ name, bytes }) => ({ name, bytes: bytes.length, sha256: addressOf(bytes) }));
  const receiver = input.receiver ? receiverFacts(back, input.receiver) : null;
  const picture = pictureOf(back);
  const pictureAddress = `data:image/png;base64,${Buffer.from(picture).toString('base64')}`;
  const { title, revision, steps } = input.facts;
  const docket: Docket = sealDocket({
    kind: 'young-bough-docket',
    version: 1,
    id: input.id,
    at,
    by,
    note,
    character: { name: title, revision, label: input.label },
    brief: { id: brief.id, version: brief.version, title: brief.title },
    format,
    files: listed,
    taken: chosen.taken,
    leftOut: chosen.leftOut,
    notes: [...notes],
    counts: countGravity(open),
    findings: open.map(docketFinding),
    waived: waived.map(({ finding, waiver: { reason, by: who, until, untilRevision } }) => ({
      finding: docketFinding(finding),
      reason,
      by: who,
      ...(until && { until }),
      ...(untilRevision && { untilRevision }),
    })),
    steps: steps.map((s) => ({ ...s })),
    crosswalk: input.crosswalk,
    receiver: receiver && {
      title: receiver.title,
      said: receiver.said.map((s) => s.text),
      deviation: receiver.deviation,
    },
    picture: pictureAddress,
    contents: contentsOf(back),
  });
  const handed: HandedFacts = {
    by,
    at,
    note,
    files: listed,
    leftOut: chosen.leftOut.map((i) => i.name),
    notes,
  };
  const report = reportHtml({
    character: back,
    brief,
    measures: measuresOf(back, brief),
    findings: open,
    waived,
    facts: { ...input.facts, handed },
    picture: pictureAddress,
    receiver,
  });
  return {
    files,
    docket: docketFile(docket),
    report,
    picture,
    counts: docket.counts,
    waived: waived.length,
  };
}

const allOf = (character: Parameters<typeof itemsOf>[0]) => new Set(itemsOf(character).map((i) => i.id));
