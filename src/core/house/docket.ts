/**
 * A docket: what was handed over, once and for all. It names the file by its sha-256, the brief by its
 * version, what was found on the file when it was read back, what of that somebody had accepted, and how the
 * file came to be; a seal over all of it tells whether the docket itself was changed.
 */
import canonicalize from 'canonicalize';
import { type InferType, array, mixed, number, object, string } from 'yup';
import { addressOf } from '../character/bundle';
import type { Counts, Finding } from '../contracts/finding';
import type { Deviation } from '../contracts/step';
import { type Content, type ContentDifference, compareContents, contentsOf } from '../rooms/docket/contents';
import type { Item } from '../rooms/docket/items';
import { readCharacter } from '../formats';
import { DEFAULT_LIMITS, type ReadLimits } from '../formats/errors';
import { handedMotionSchema } from '../contracts/handed-motion';
import { checkedBy } from '../contracts/checked';
import { plainJson } from '../contracts/plain-json';

const text = () => string().defined();
const sum = () =>
  string()
    .matches(/^[0-9a-f]{64}$/)
    .required();

/** A finding as a docket keeps it. */
export type DocketFinding = Pick<
  Finding,
  'key' | 'check' | 'room' | 'gravity' | 'message' | 'measured' | 'expected' | 'unit' | 'count'
>;

/** A finding that was accepted, by whom, why, and for how long. */
export interface DocketWaived {
  readonly finding: DocketFinding;
  readonly reason: string;
  readonly by: string;
  readonly until?: string;
  readonly untilRevision?: number;
}

export const docketSchema = object({
  kind: string().oneOf(['young-bough-docket']).required(),
  version: number().oneOf([1]).required(),
  id: string().required(),
  /** When it was sealed, ISO 8601. */
  at: string().required(),
  by: string().required(),
  note: text(),
  character: object({ name: text(), revision: number().required(), label: text() }).required(),
  brief: object({ id: string().required(), version: number().required(), title: text() }).required(),
  format: string().required(),
  files: array(object({ name: string().required(), bytes: number().required(), sha256: sum() }))
    .required()
    .min(1),
  /** What went out, and what was left out on purpose. */
  taken: mixed<readonly Item[]>().required(),
  leftOut: mixed<readonly Item[]>().required(),
  /** What the format could not hold, in sentences. */
  notes: array(string().required()).required(),
  counts: mixed<Counts>().required(),
  findings: mixed<readonly DocketFinding[]>().required(),
  waived: mixed<readonly DocketWaived[]>().required(),
  steps: array(
    object({ number: number().required(), label: text(), detail: text(), note: text() }),
  ).required(),
  /** The crosswalk of the last move onto another skeleton, as its file; null where there was none. */
  crosswalk: mixed<object>().nullable().defined(),
  /** How the receiver holds it; null where nobody asked. */
  receiver: mixed<{
    readonly title: string;
    readonly said: readonly string[];
    readonly deviation: Deviation;
  }>()
    .nullable()
    .defined(),
  /** A picture at rest, as a data address. */
  picture: string().nullable().defined(),
  /** How it bends, where the brief asks that; what is handed over later is held against it. Absent where nobody asked. */
  motion: handedMotionSchema.optional().default(undefined),
  /** Sums of everything in the file, so that another file can be told from it thing by thing. */
  contents: mixed<readonly Content[]>().required(),
  /** Sha-256 over all of the above, as canonical JSON (RFC 8785). */
  seal: sum(),
  /** Who vouches for it: the public half of the key of a house, and what it made of the seal. Absent where nobody does. */
  signature: object({
    key: sum(),
    value: string()
      .matches(/^[0-9a-f]{128}$/)
      .required(),
  })
    .noUnknown()
    .optional()
    .default(undefined),
}).noUnknown();

export type Docket = InferType<typeof docketSchema>;

/** The sum that seals a docket. */
export const sealOf = (docket: Omit<Docket, 'seal'>): string =>
  addressOf(new TextEncoder().encode(canonicalize({ ...docket, seal: undefined, signature: undefined })));

/** What is signed of a docket: its seal, which is over all of it, and what it is the seal of. */
export const signedText = ({ kind, version, seal }: Pick<Docket, 'kind' | 'version' | 'seal'>): string =>
  `${kind} ${version} ${seal}`;

/** Seals a docket. */
export const sealDocket = (docket: Omit<Docket, 'seal'>): Docket => ({ ...docket, seal: sealOf(docket) });

/** A docket as its file. */
export const docketFile = (docket: Docket): string => `${JSON.stringify(docket, null, 1)}\n`;

/** Reads a docket's file. Throws an Error that names what is missing, wrong or unknown, or says what can be read in two ways. */
export const docketIn = (text: string): Docket => docketFrom(plainJson(text));

/** Reads a docket. Throws an Error that names the field that is missing, wrong or unknown. */
export const docketFrom = (json: unknown): Docket => checkedBy(docketSchema, json, { strict: true });

export const docketFinding = (finding: Finding): DocketFinding => ({
  key: finding.key,
  check: finding.check,
  room: finding.room,
  gravity: finding.gravity,
  message: finding.message,
  measured: finding.measured,
  expected: finding.expected,
  unit: finding.unit,
  count: finding.count,
});

/** What a docket says of a file. */
export interface Verified {
  /** The docket is as it was sealed. */
  readonly isSealed: boolean;
  /** The file is byte for byte one that was handed over; its name there. */
  readonly same: string | null;
  /** Where it differs; empty where it holds the same although its bytes differ. Null where it cannot be read. */
  readonly differences: readonly ContentDifference[] | null;
  /** Why it cannot be read. */
  readonly why?: string;
}

/** Holds a file against a docket. */
export function verifyFile(
  docket: Docket,
  file: { readonly name: string; readonly bytes: Uint8Array },
  limits: ReadLimits = DEFAULT_LIMITS,
): Verified {
  const isSealed = sealOf(docket) === docket.seal;
  const sha256 = addressOf(file.bytes);
  const same = docket.files.find((file) => file.sha256 === sha256)?.name ?? null;
  if (same !== null) return { isSealed, same, differences: [] };
  try {
    const now = contentsOf(readCharacter([file], limits));
    return { isSealed, same, differences: compareContents(docket.contents, now) };
  } catch (error) {
    return { isSealed, same, differences: null, why: error instanceof Error ? error.message : String(error) };
  }
}
