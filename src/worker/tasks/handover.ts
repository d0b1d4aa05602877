import { zipSync } from 'fflate';
import { addressOf } from '../../core/character/bundle';
import type { Character } from '../../core/character/model';
import { countGravity } from '../../core/contracts/finding';
import { type Waived, applyWaivers } from '../../core/contracts/waiver';
import { RemedyError } from '../../core/contracts/remedy';
import {
  WriteError,
  type WrittenFiles,
  readCharacter,
  writeCharacter,
  writtenFormat,
} from '../../core/formats';
import { audit, silenceText } from '../../core/house/audit';
import { type Docket, docketFile, docketFinding, sealDocket } from '../../core/house/docket';
import { contentsOf } from '../../core/rooms/docket/contents';
import { type Item, itemsOf, withItems } from '../../core/rooms/docket/items';
import { type HandedFacts, type ReceiverFacts, reportHtml } from '../../core/rooms/docket/report';
import { bendingOf } from '../../core/rooms/trials/bending';
import { handedMotionOf } from '../../core/rooms/trials/handed';
import { measuresOf } from '../../core/rooms/placement/measures';
import type { HandOverInput, HandedOver } from '../../tasks/handover';
import type { Tell } from '../../tasks/task';
import { LIMITS, openWire, pictureOf } from '../task';
import { receiverFacts } from './report';

type WrittenFile = WrittenFiles['files'][number];

/**
 * Writes what was chosen of a revision, reads the written file back, audits that, and seals all of it into a docket.
 */
export function handOver(input: HandOverInput, tell?: Tell): HandedOver {
  const { wire, brief, format, stem } = input;
  const { title, writer } = writtenFormat(format);
  if (!writer.isWhole)
    throw new WriteError(`${title} holds no skeleton; choose another format to hand a character over in.`);
  tell?.({ stage: 'writing the file', share: 0.1 });
  const whole = openWire(wire);
  const chosen = withItems(whole, input.items ? new Set(input.items) : allOf(whole));
  if (chosen.taken.length === 0)
    throw new RemedyError('Nothing was chosen to be handed over; choose something.');
  const { files, notes } = writeCharacter(chosen.character, format, stem);
  tell?.({ stage: 'reading it back', share: 0.3 });
  // What a person has said of it is no part of the file.
  const back = {
    ...readCharacter(
      files.map(({ name, bytes }) => ({ name, bytes })),
      LIMITS,
    ),
    bodyKind: whole.bodyKind,
  };
  tell?.({ stage: 'auditing what was read back', share: 0.5 });
  const { open, waived } = applyWaivers(
    audit(back, brief, { isMoved: true, handedOver: input.handed }),
    input.waivers,
    input.moment,
  );
  tell?.({ stage: 'sealing the docket', share: 0.8 });
  const file = inOne(files, `${stem}-${format}`);
  const read: ReadBack = {
    back,
    open,
    waived,
    notes,
    taken: chosen.taken,
    leftOut: chosen.leftOut,
    files: [...new Set([file, ...files])].map(({ name, bytes }) => ({
      name,
      bytes: bytes.length,
      sha256: addressOf(bytes),
    })),
    receiver: input.receiver ? receiverFacts(back, input.receiver) : null,
    picture: pictureOf(back),
  };
  const docket = docketOver(input, read);
  return {
    file,
    docket: docketFile(docket),
    report: reportOver(input, read),
    picture: read.picture,
    counts: docket.counts,
    waived: waived.length,
  };
}

/** What was written, read back. */
interface ReadBack extends Pick<Waived, 'open' | 'waived'> {
  readonly back: Character;
  readonly files: HandedFacts['files'];
  readonly notes: readonly string[];
  readonly taken: readonly Item[];
  readonly leftOut: readonly Item[];
  readonly receiver: ReceiverFacts | null;
  readonly picture: Uint8Array;
}

const pictureAddress = ({ picture }: ReadBack) =>
  `data:image/png;base64,${Buffer.from(picture).toString('base64')}`;

function docketOver(input: HandOverInput, read: ReadBack): Docket {
  const { brief, facts, receiver, ...given } = { ...input, receiver: read.receiver };
  return sealDocket({
    kind: 'young-bough-docket',
    version: 1,
    id: given.id,
    at: given.at,
    by: given.by,
    note: given.note,
    character: { name: facts.title, revision: facts.revision, label: given.label },
    brief: { id: brief.id, version: brief.version, title: brief.title },
    format: given.format,
    motion: brief.trials ? handedMotionOf(read.back, brief.trials) : undefined,
    files: [...read.files],
    taken: read.taken,
    leftOut: read.leftOut,
    notes: [...read.notes],
    counts: countGravity(read.open),
    findings: read.open.map(docketFinding),
    waived: read.waived.map(({ finding, waiver: { reason, by, until, untilRevision } }) => ({
      finding: docketFinding(finding),
      reason,
      by,
      ...(until && { until }),
      ...(untilRevision && { untilRevision }),
    })),
    steps: facts.steps.map((step) => ({ ...step })),
    crosswalk: given.crosswalk,
    receiver: receiver && {
      title: receiver.title,
      said: receiver.said.map((item) => item.text),
      deviation: receiver.deviation,
    },
    picture: pictureAddress(read),
    contents: contentsOf(read.back),
  });
}

function reportOver({ brief, by, at, note, facts, key }: HandOverInput, read: ReadBack): string {
  const { back, open, waived, files, notes, receiver } = read;
  const leftOut = read.leftOut.map((item) => item.name);
  const handed: HandedFacts = { by, at, note, files, leftOut, notes, ...(key && { key }) };
  return reportHtml({
    character: back,
    brief,
    measures: measuresOf(back, brief),
    findings: open,
    waived,
    notAsked: silenceText(back, brief, { isMoved: true }),
    facts: { ...facts, handed },
    bending: brief.trials && bendingOf(back, brief.trials),
    picture: pictureAddress(read),
    receiver,
  });
}

const allOf = (character: Parameters<typeof itemsOf>[0]) =>
  new Set(itemsOf(character).map((item) => item.id));

/** Several files as a zip; one by itself stays what it is. */
function inOne(files: readonly WrittenFile[], stem: string): WrittenFile {
  if (files.length === 1) return files[0];
  const bytes = zipSync(Object.fromEntries(files.map((file) => [file.name, file.bytes])));
  return { name: `${stem}.zip`, type: 'application/zip', bytes };
}
