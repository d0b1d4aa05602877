/** What a task of a worker thread is, and what tasks share. */
import { createHash } from 'node:crypto';
import type { MessagePort } from 'node:worker_threads';
import { LRUCache } from 'lru-cache';
import { PNG } from 'pngjs';
import { pack, unpack } from '../core/character/bundle';
import { brokenInvariants } from '../core/character/invariants';
import type { Character } from '../core/character/model';
import { type StoredCharacter, fromStored, toStored } from '../core/character/stored';
import type { Check } from '../core/contracts/check';
import { type Effects, NO_EFFECTS } from '../core/contracts/effects';
import { type Finding, countGravity } from '../core/contracts/finding';
import type { HandedMotion } from '../core/contracts/handed-motion';
import { RemedyError } from '../core/contracts/remedy';
import { toldOf } from '../core/contracts/waiver';
import { ReadError, limitsFrom } from '../core/formats/errors';
import { audit } from '../core/house/audit';
import { type Brief, briefKey } from '../core/house/brief';
import type { Audited, EarlierAudit, Made, Progress, Tell, Wire } from '../tasks/task';
import { looksTheSame, portrait } from '../core/rooms/docket/portrait';

export const tellTo =
  (port: MessagePort | undefined): Tell =>
  (progress) =>
    port?.postMessage(progress);

/** The least that progress goes on before it is told again. */
const WORTH_TELLING = 0.01;

/** Runs work that yields how far it is to its end, and tells of it between two shares of a whole. */
export function finishTelling<T>(work: Generator<Progress, T>, tell: Tell, from: number, to: number): T {
  let last: Progress = { stage: '', share: -Infinity };
  for (;;) {
    const { value, done } = work.next();
    if (done) return value;
    if (value.stage === last.stage && value.share - last.share < WORTH_TELLING) continue;
    last = value;
    tell({ stage: value.stage, share: from + (to - from) * value.share });
  }
}

/** The bounds for what is read, from the environment. */
export const LIMITS = limitsFrom(process.env);

/** How long a thread keeps a character open that nobody asks for, milliseconds. */
const KEPT_OPEN = 2 * 60_000;

/**
 * Characters that this thread had open last, by their addresses: what was computed on them is still known.
 */
const opened = new LRUCache<string, Character>({ maxSize: 1 << 28, ttl: KEPT_OPEN, updateAgeOnGet: true });
setInterval(() => opened.purgeStale(), KEPT_OPEN / 4).unref();

/** The character of a revision; one that this thread had open stays as it was. */
export function openWire(wire: Wire): Character {
  const known = opened.get(wire.address);
  if (known) return known;
  const character = fromStored(wire.stored, (hash) => wire.bytes.get(hash));
  opened.set(wire.address, character, { size: sizeOf(wire.bytes) });
  return character;
}

function sizeOf(bytes: ReadonlyMap<string, Uint8Array>): number {
  let size = 1;
  for (const byte of bytes.values()) size += byte.byteLength;
  return size;
}

/** The address of a manifest: two revisions of one address are one and the same character. */
export const addressOf = (stored: StoredCharacter): string =>
  createHash('sha256').update(JSON.stringify(stored)).digest('hex');

/**
 * A new character as a revision.
 * @param from the revision that it was made from, and the character that this is
 * @throws ReadError where it would not be sound; nothing is saved then
 */
export function makeRevision(
  character: Character,
  {
    effects = NO_EFFECTS,
    notes = [],
    from,
  }: { effects?: Effects; notes?: readonly string[]; from?: { wire: Wire; character: Character } } = {},
): Made {
  const broken = brokenInvariants(character);
  if (broken.length > 0)
    throw new ReadError(
      character.name,
      `the result would not be sound: ${broken[0]}`,
      'Nothing was saved; please report this.',
    );
  const { stored, bytes } = toStored(character, sha256);
  opened.set(addressOf(stored), character, { size: sizeOf(bytes) });
  const fresh = new Map([...bytes].filter(([hash]) => !from?.wire.bytes.has(hash)));
  const picture = from && looksTheSame(from.character, character) ? null : pictureOf(character);
  return { stored, bytes: fresh, picture, name: character.name, effects, notes };
}

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

export function pictureOf(character: Character): Uint8Array {
  const { width, height, pixels } = portrait(character, 360, 440);
  const png = new PNG({ width, height });
  png.data.set(pixels);
  // Small pictures, many steps: the time matters more than the last tenth of their size.
  return new Uint8Array(PNG.sync.write(png, { deflateLevel: 1, filterType: 0 }));
}

/**
 * Audits a character; told check by check. Checks whose aspects did not change since an earlier audit keep
 * their answers.
 */
export function auditCharacter(
  character: Character,
  brief: Brief,
  options: {
    tell?: Tell;
    from?: number;
    to?: number;
    earlier?: { character: Character; findings: Finding[] };
    isMoved?: boolean;
    handed?: HandedMotion | null;
  } = {},
): Audited {
  const { tell, from = 0, to = 1, earlier, isMoved = false, handed } = options;
  const onCheck = (check: Check<Brief>, _found: readonly Finding[], done: number, of: number) =>
    tell?.({
      stage: `auditing: ${check.title.toLowerCase()}`,
      share: from + (to - from) * (done / of),
    });
  const findings = audit(character, brief, { onCheck, earlier, isMoved, handedOver: handed });
  return {
    findings: new Uint8Array(pack(findings)),
    counts: countGravity(findings),
    told: findings.map(toldOf),
    isMoved,
  };
}

/** The findings that an earlier audit of a character holds, where it was made under the same brief. */
export function earlierOf(character: Character, brief: Brief, earlier: EarlierAudit | undefined) {
  if (earlier?.brief !== briefKey(brief)) return undefined;
  return { character, findings: unpack(earlier.findings.slice().buffer) as Finding[] };
}

/** What a request named that the house does not have becomes one sentence. */
export function need<T>(x: T | undefined, what: string): T {
  if (x === undefined) throw new RemedyError(`There is no such thing as ${what}; reload the page.`);
  return x;
}
