/** Steps, undoing, the brief, pins and words: what goes to the server. */
import { effectsText } from '@/core/contracts/effects-words';
import type { Brief } from '@/core/house/brief';
import {
  type CharacterRecord,
  changeCharacter,
  labelPin as labelPinRoute,
  moveHead,
  readCharacter,
  removePin,
} from '@/routes/characters';
import { writeOnRevision } from '@/routes/revisions';
import { applyRemedyStep, editStep } from '@/routes/steps';
import { call, expectRevision, sendBytes } from '../kit/api';
import { BROKEN_OFF, perform } from './open';
import { changeRecord } from './record';
import { desk } from './store';
import { deskWorker } from './worker';

export function applyRemedy(
  remedy: string,
  params: Record<string, unknown>,
  title: string,
): Promise<boolean> {
  return perform(`${title} …`, async ({ id, head }) => {
    const { revision, effects } = await call(applyRemedyStep, { id, base: head, remedy, params });
    expectRevision(revision.id);
    return `Revision ${revision.number}: ${title.toLowerCase()}. ${effectsText(effects, desk().brief.unit)}`;
  });
}

/** Applies one remedy to many findings as one step; `bundle` holds its patches. */
export function applyForKind(bundle: Uint8Array, title: string): Promise<boolean> {
  return perform(`${title} …`, async ({ id, head }) => {
    const { revision, effects } = await sendBytes(editStep, { id, base: head }, bundle);
    expectRevision(revision.id);
    return `Revision ${revision.number}: ${title.toLowerCase()}. ${effectsText(effects, desk().brief.unit)}`;
  });
}

/** A remedy whose parameters hold points or polygons: these go as they are, not as text. */
export async function applyOnChoice(
  remedy: string,
  params: Record<string, unknown>,
  title: string,
): Promise<boolean> {
  return applyForKind(await deskWorker().packed({ remedy, params }), title);
}

/** Goes to another revision: undo, redo, or back. False where there is none to go to. */
export async function moveTo(to: string | null, word: string): Promise<boolean> {
  if (!to) return false;
  return perform(`${word} …`, async ({ id, head, revisions }) => {
    expectRevision(to);
    await call(moveHead, { id, base: head, to });
    const revision = revisions.find((candidate) => candidate.id === to);
    return `${word}: back at revision ${revision?.number}, “${revision?.label}”.`;
  });
}

/** Another brief is another audit; broken off, the brief stays what it was. */
export async function setBrief({ id: brief, title }: Pick<Brief, 'id' | 'title'>): Promise<void> {
  const before = desk().record?.brief;
  if (!before || before === brief) return;
  const change = (to: string, said: string) => async (record: CharacterRecord) => {
    await call(changeCharacter, { id: record.id, brief: to });
    return said;
  };
  const titleBefore = desk().brief.title;
  await perform('Auditing under the brief …', change(brief, `The brief is now “${title}”.`));
  if (desk().error === BROKEN_OFF.message)
    await perform('Going back …', change(before, `Cancelled; the brief is still “${titleBefore}”.`));
}

/** Names a pinned measure. True where it could be kept. */
export const labelPin = (pin: string, label: string): Promise<boolean> =>
  changeRecord(({ id }) => call(labelPinRoute, { id, pin, label }));

export const dropPin = (pin: string): Promise<boolean> =>
  changeRecord(({ id }) => call(removePin, { id, pin }));

/** Writes on a revision: its label, its note. */
export const writeOn = (revision: string, words: { label: string; note: string }): Promise<boolean> =>
  changeRecord(async ({ id }) => {
    await call(writeOnRevision, { id: revision, ...words });
    return call(readCharacter, { id });
  });
