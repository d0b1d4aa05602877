/** The draft of what the hand does: kept in the page's worker, committed as one step. */
import { effectsText } from '@/core/contracts/effects-words';
import type { Patch } from '@/core/house/edit';
import type { CharacterRecord } from '@/routes/characters';
import { editStep } from '@/routes/steps';
import { messageOf, sendBytes } from '../kit/api';
import type { DraftState } from '../worker/hand';
import { Asking } from './asking';
import { perform } from './open';
import { posing } from './pointer';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

const drafting = new Asking();
let gesture = 0;

/** Begins a stroke: all patches until the next one are taken back together. */
export const beginGesture = (): void => {
  gesture++;
};

let waiting: Patch | null = null;
let isBusy = false;

/**
 * Does a patch on the draft. While one is being done only the newest of those that follow is kept: the hand
 * is faster than a skin.
 */
export async function putPatch(patch: Patch): Promise<void> {
  waiting = patch;
  if (isBusy) return;
  isBusy = true;
  try {
    while (waiting) {
      const next: Patch = waiting;
      waiting = null;
      await settle(() => deskWorker().draftPut(next, gesture, desk().brief.id));
    }
  } finally {
    isBusy = false;
  }
}

async function settle(work: () => Promise<DraftState>): Promise<void> {
  const isCurrent = drafting.begin();
  const { figure } = desk();
  try {
    const draft = await work();
    if (!isCurrent() || desk().figure !== figure || !figure) return;
    setDesk({ draft: draft.steps > 0 || draft.canRedo ? draft : null, error: null });
    posing.set({ figure, pose: draft.pose });
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  }
}

export const undoDraft = (): Promise<void> => settle(() => deskWorker().draftUndo());
export const redoDraft = (): Promise<void> => settle(() => deskWorker().draftRedo());

/** Lets go of all that the hand did. */
export async function dropDraft(): Promise<void> {
  drafting.drop();
  waiting = null;
  const { figure } = desk();
  setDesk({ draft: null });
  if (figure) posing.set({ figure, pose: null });
  await deskWorker().draftDrop();
}

/** Keeps what the hand did as one step. */
export async function keepDraft(): Promise<boolean> {
  const { draft } = desk();
  if (!draft || draft.steps === 0) return false;
  const bundle = await deskWorker().draftBundle();
  if (!bundle) return false;
  const work = async ({ id, head }: CharacterRecord) => {
    const { revision, effects } = await sendBytes(editStep, { id, base: head }, bundle);
    return `Revision ${revision.number}: ${draft.title}. ${effectsText(effects, desk().brief.unit)}`;
  };
  return perform('Keeping it …', work, true);
}
