/** Findings that are accepted: what of an audit is open, and waiving and withdrawing. */
import { type Finding, countGravity } from '@/core/contracts/finding';
import { isKeyInMotion } from '@/core/house/registry';
import { type Waiver, type WaiversTaken, applyWaivers, waiversFrom } from '@/core/contracts/waiver';
import type { CharacterRecord } from '@/routes/characters';
import { type WaiverRecord, bringWaivers, waiveFindings, withdrawWaiver } from '@/routes/waivers';
import { call, messageOf } from '../kit/api';
import { today } from '../kit/format';
import { type DocumentSlice, type WaiverOnDesk, isTried } from './document';
import { desk, setDesk } from './store';

const NAME = 'waived-by';

/** Who waives here: asked once, kept in the browser. */
export function keptName(): string {
  try {
    return localStorage.getItem(NAME) ?? '';
  } catch {
    return '';
  }
}

export function keepName(name: string): void {
  try {
    localStorage.setItem(NAME, name);
  } catch {
    // A browser that keeps nothing asks again.
  }
}

/** An audit of a revision with what is waived set apart; the record then counts what is open. */
export function setApart(
  record: CharacterRecord,
  revision: string,
  audited: readonly Finding[] | null,
  isMoved = false,
): Pick<DocumentSlice, 'record' | 'audited' | 'findings' | 'waived' | 'waiverNotes'> {
  if (!audited) return { record, audited, findings: null, waived: [], waiverNotes: [] };
  const stands = record.waivers.flatMap((waiver): WaiverOnDesk[] =>
    waiver.withdrawn ? [] : [{ ...waiver.waiver, id: waiver.id }],
  );
  const number = record.revisions.find((candidate) => candidate.id === revision)?.number;
  const { open, waived, notes } = applyWaivers(audited, stands, { today: today(), revision: number });
  // Where the figure was not moved nobody knows whether what shows then is there still.
  const known = isMoved ? notes : notes.filter(({ key }) => !isKeyInMotion(key));
  const counts = countGravity(open);
  const revisions = record.revisions.map((candidate) =>
    candidate.id === revision ? { ...candidate, counts } : candidate,
  );
  return { record: { ...record, revisions }, audited, findings: open, waived, waiverNotes: known };
}

/** Accepts findings of the revision on the desk. True where it was kept. */
export const waive = (
  keys: readonly string[],
  words: Pick<Waiver, 'reason' | 'by' | 'until' | 'untilRevision'>,
): Promise<boolean> =>
  change(
    ({ id, head }) => call(waiveFindings, { id, revision: head, keys: [...keys], ...words }),
    () => (keys.length === 1 ? 'Waived; it stops nothing any more.' : `${keys.length} findings are waived.`),
  );

/** Takes a waiver back; what it accepted is open again. True where it was kept. */
export const withdraw = (waiver: string, by: string): Promise<boolean> =>
  change(
    ({ id }) => call(withdrawWaiver, { id, waiver, by }),
    () => 'The waiver is withdrawn; the ledger keeps it, and can take it up again.',
  );

/** Takes the waivers of a file that concern the revision on the desk. True where they were taken. */
export async function bringWaiversIn(file: File): Promise<boolean> {
  let offered: readonly Waiver[];
  try {
    offered = waiversFrom(JSON.parse(await file.text()));
  } catch (error) {
    setDesk({
      said: null,
      error: `“${file.name}” is no file of waivers: ${messageOf(error)}. Nothing was taken in.`,
    });
    return false;
  }
  return change(
    ({ id, head }) => call(bringWaivers, { id, revision: head, waivers: [...offered] }),
    ({ taken, left }) => broughtWords(taken, left),
  );
}

/** What came of a file of waivers, in words. */
function broughtWords(taken: number, { known, elsewhere, over }: WaiversTaken['left']): string {
  const left = [
    known && `${known} stood here already`,
    elsewhere && `${elsewhere} ${elsewhere === 1 ? 'waives' : 'waive'} what this character does not have`,
    over && `${over} held until a day or a revision that has passed`,
  ].filter(Boolean);
  const all = taken === 1 ? 'One waiver was taken in' : `${taken || 'No'} waivers were taken in`;
  return `${[all, ...left].join('; ')}.`;
}

async function change<A extends { waivers: WaiverRecord[] }>(
  work: (record: CharacterRecord) => Promise<A>,
  said: (answer: A) => string,
): Promise<boolean> {
  const { record, revision } = desk();
  if (!record || !revision) return false;
  setDesk({ error: null, said: null });
  try {
    const answer = await work(record);
    const { waivers } = answer;
    const now = desk();
    if (now.record?.id !== record.id || !now.revision) return false;
    const apart = setApart({ ...now.record, waivers }, now.revision, now.audited, isTried(now));
    const isOpen = apart.findings?.some((finding) => finding.key === now.chosen);
    // What was waived leaves its place to the next one of the room.
    const next = isOpen
      ? now.chosen
      : (apart.findings?.find((finding) => finding.room === now.room)?.key ?? null);
    setDesk({ ...apart, said: said(answer), chosen: next });
    return true;
  } catch (error) {
    setDesk({ error: messageOf(error) });
    return false;
  }
}
