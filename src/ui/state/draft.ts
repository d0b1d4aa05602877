/** The draft of what the hand does: kept in the page's worker, committed as one step. */
import { effectsText } from '@/core/contracts/effects-words';
import type { Patch } from '@/core/house/edit';
import type { CharacterRecord } from '@/routes/characters';
import { editStep } from '@/routes/steps';
import { messageOf, sendBytes } from '../kit/api';
import type { DraftState } from '../worker/edit-session';
import { LatestRequest } from './latest-request';
import { keptDrafts } from './kept-draft';
import { perform } from './open';
import { showPose } from './pose';
import { strokesDone } from './stroke-line';
import { touching } from './pointer';
import { showWeights } from './weights';
import type { Figure } from '../worker/figure';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

const drafting = new LatestRequest();
let gesture = 0;

/** Begins a movement of the hand: all until the next one is taken back together. Gives its number. */
export const beginGesture = (): number => ++gesture;

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
      await settle(() => deskWorker().draftPut(next, gesture, desk().brief));
    }
  } finally {
    isBusy = false;
  }
}

/** Does something to the draft, and shows what it is like then; what was begun later counts. */
export async function settle(work: () => Promise<DraftState>): Promise<void> {
  const isCurrent = drafting.begin();
  const { figure } = desk();
  try {
    const draft = await work();
    if (!isCurrent() || desk().figure !== figure || !figure) return;
    takeDraft(draft, figure);
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  }
}

/** What the draft is like now, on the desk and on the stage. */
function takeDraft(draft: DraftState, figure: Figure): void {
  const wasPainted = (desk().draft?.painted ?? 0) > 0;
  setDesk({ draft: draft.steps > 0 || draft.canRedo ? draft : null, error: null });
  if (!draft.touched) void showPose();
  else if (draft.touched.length > 0) touching.set({ figure, touched: draft.touched });
  // The picture of weights is made anew in the store; the stage has what was touched already.
  if (wasPainted || draft.painted > 0) refreshWeights();
  rememberSoon();
}

function refreshWeights(): void {
  const { bone } = desk();
  if (bone >= 0) void showWeights(bone);
}

/** How long the hand rests before what it did is kept in the browser, milliseconds. */
const REST = 250;

let resting: ReturnType<typeof setTimeout> | undefined;

function rememberSoon(): void {
  clearTimeout(resting);
  const { revision } = desk();
  resting = setTimeout(async () => {
    if (!revision || desk().revision !== revision) return;
    const bundle = await deskWorker().draftBundle();
    if (desk().revision !== revision) return;
    await (bundle ? keptDrafts.remember(revision, bundle) : keptDrafts.forget(revision));
  }, REST);
}

/** Nothing is left to keep of what the hand did on a revision. */
async function forget(revision: string | null): Promise<void> {
  clearTimeout(resting);
  if (revision) await keptDrafts.forget(revision);
}

/** Lays what the hand did on this revision before the page was closed on the figure again. */
export async function restoreDraft(revision: string): Promise<void> {
  const bundle = await keptDrafts.recall(revision);
  const { figure, brief, draft } = desk();
  if (!bundle || !figure || draft || desk().revision !== revision) return;
  const isCurrent = drafting.begin();
  try {
    const restored = await deskWorker().draftRestore(bundle, brief);
    if (!isCurrent() || desk().figure !== figure) return;
    setDesk({ draft: restored, said: 'What your hand did here and did not keep is back.' });
    void showPose();
  } catch {
    // Another version of the house made it: nothing can be made of it any more.
    await keptDrafts.forget(revision);
  }
}

export async function undoDraft(): Promise<void> {
  await strokesDone();
  await settle(() => deskWorker().draftUndo(desk().bone));
}

export async function redoDraft(): Promise<void> {
  await strokesDone();
  await settle(() => deskWorker().draftRedo(desk().bone));
}

/** Lets go of all that the hand did. */
export async function dropDraft(): Promise<void> {
  drafting.drop();
  waiting = null;
  const { revision, draft } = desk();
  setDesk({ draft: null });
  await Promise.all([deskWorker().draftDrop(), forget(revision)]);
  void showPose();
  if (draft?.painted) refreshWeights();
}

/** Keeps what the hand did as one step. */
export async function keepDraft(): Promise<boolean> {
  await strokesDone();
  const { draft, revision } = desk();
  if (!draft || draft.steps === 0) return false;
  const bundle = await deskWorker().draftBundle();
  if (!bundle) return false;
  const work = async ({ id, head }: CharacterRecord) => {
    const { revision, effects } = await sendBytes(editStep, { id, base: head }, bundle);
    return `Revision ${revision.number}: ${draft.title}. ${effectsText(effects, desk().brief.unit)}`;
  };
  const isKept = await perform('Keeping it …', work, true);
  if (isKept) await forget(revision);
  return isKept;
}
