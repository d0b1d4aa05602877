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
import { showPose, trialOf } from './pose';
import { touching } from './pointer';
import { AT_REST } from './posed';
import { showWeights } from './weights';
import type { WeightBrush } from '@/core/rooms/weights/painting';
import type { Figure } from '../worker/figure';
import { desk, setDesk } from './store';
import { deskWorker } from './worker';

const drafting = new LatestRequest();
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
      await settle(() => deskWorker().draftPut(next, gesture, desk().brief));
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
    takeDraft(draft, figure);
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  }
}

/** What the draft is like now, on the desk and on the stage. */
function takeDraft(draft: DraftState, figure: Figure): void {
  setDesk({ draft: draft.steps > 0 || draft.canRedo ? draft : null, error: null });
  if (draft.touched) {
    if (draft.touched.length > 0) touching.set({ figure, touched: draft.touched });
    const { bone } = desk();
    // The picture of weights is made anew in the store; the stage has it already.
    if (draft.painted > 0 && bone >= 0) void showWeights(bone);
  } else void showPose();
  rememberSoon();
}

/** Samples of the pointer that were not handed over yet, in their order; none is left out. */
let samples: number[] = [];
let isStroking = false;
/** Whether the stroke that was begun last can paint. */
let begun: Promise<boolean> = Promise.resolve(false);

/** Begins a stroke on the mesh of a node with the bone that is chosen; says why where it cannot. */
export function beginStroke(node: number, brush: WeightBrush): Promise<boolean> {
  begun = tryStroke(node, brush);
  return begun;
}

async function tryStroke(node: number, brush: WeightBrush): Promise<boolean> {
  const { figure, pose, brief, character, wide } = desk();
  if (!figure || !character) return false;
  beginGesture();
  samples = [];
  const trial = trialOf(wide ? AT_REST : pose);
  const canPaint = await deskWorker().strokeBegin(node, trial, brush, gesture, brief);
  if (!canPaint)
    setDesk({
      error: `“${character.nodes[node]?.name}” is not bound to “${character.nodes[brush.bone]?.name}”, so that bone cannot be painted on it.`,
    });
  return canPaint;
}

/** Appends a sample to the stroke: a ray, world space, and the pressure. Told: where it met the surface. */
export function strokeTo(
  sample: readonly number[],
  onPlace: (place: readonly number[] | null) => void,
): void {
  samples.push(...sample);
  if (!isStroking) void handOver(onPlace);
}

async function handOver(onPlace: (place: readonly number[] | null) => void): Promise<void> {
  isStroking = true;
  try {
    while (samples.length > 0) {
      const { figure } = desk();
      const next = Float32Array.from(samples);
      samples = [];
      const { touched, place } = await deskWorker().strokeOn(next);
      if (!figure || desk().figure !== figure) return;
      if (touched) touching.set({ figure, touched: [touched] });
      onPlace(place);
    }
  } finally {
    isStroking = false;
  }
}

/** Ends the stroke, after all that was appended. */
export async function endStroke(): Promise<void> {
  if (!(await begun)) return;
  await settle(async () => {
    while (samples.length > 0 || isStroking) await new Promise((resolve) => setTimeout(resolve));
    return deskWorker().strokeEnd();
  });
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

export const undoDraft = (): Promise<void> => settle(() => deskWorker().draftUndo(desk().bone));
export const redoDraft = (): Promise<void> => settle(() => deskWorker().draftRedo(desk().bone));

/** Lets go of all that the hand did. */
export async function dropDraft(): Promise<void> {
  drafting.drop();
  waiting = null;
  const { revision } = desk();
  setDesk({ draft: null });
  await Promise.all([deskWorker().draftDrop(), forget(revision)]);
  void showPose();
}

/** Keeps what the hand did as one step. */
export async function keepDraft(): Promise<boolean> {
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
