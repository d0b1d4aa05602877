/**
 * What a person does to the pairing: every change can be taken back, and is kept in the browser until it is
 * saved.
 */
import {
  type Crosswalk,
  type Rule,
  type RuleKind,
  withChain,
  withRule,
  withRules,
  openChain,
  withShare,
} from '@/core/anatomy/crosswalk';
import { type Cause, withCauseRemoved } from '@/core/rooms/crosswalk/causes';
import { accept } from '@/core/rooms/crosswalk/doubts';
import { afterChange, redone, undone } from '@/core/contracts/undo-line';
import { crosswalkToFile } from '@/core/rooms/crosswalk/file';
import { saveCrosswalk } from '@/routes/crosswalks';
import { remapStep } from '@/routes/steps';
import { call, messageOf } from '../../kit/api';
import { LatestRequest } from '../../state/latest-request';
import { perform } from '../../state/open';
import { setDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import { begin, forgetDraft, keepDraft, setCrosswalk, useCrosswalkSession } from './session';

const set = useCrosswalkSession.setState;
const get = useCrosswalkSession.getState;

/** Tells the head of the desk what Undo and Redo can do here, from now on. Returns what ends it. */
export function tellWayBack(): () => void {
  const tell = ({ past, future }: ReturnType<typeof get>) =>
    setDesk({ ownWay: { canUndo: past.length > 0, canRedo: future.length > 0 } });
  tell(get());
  const stop = useCrosswalkSession.subscribe((now, before) => {
    if (now.past !== before.past || now.future !== before.future) tell(now);
  });
  return () => {
    stop();
    setDesk({ ownWay: null });
  };
}

function change(next: Crosswalk): void {
  const { crosswalk } = get();
  if (!crosswalk || next === crosswalk) return;
  set(afterChange(get(), crosswalk));
  take(next);
}

function take(crosswalk: Crosswalk): void {
  setCrosswalk(crosswalk);
  const { chosen } = get();
  if (chosen >= 0) set({ chosenTarget: crosswalk[chosen].target });
  void keepDraft();
}

/** Takes back the last change made here. */
export function undoChange(): void {
  stepTo(undone);
}

/** Makes the change again that was taken back last. */
export function redoChange(): void {
  stepTo(redone);
}

function stepTo(step: typeof undone<Crosswalk>): void {
  const { crosswalk } = get();
  const stepped = crosswalk && step(get(), crosswalk);
  if (!stepped) return;
  set(stepped.line);
  take(stepped.value);
}

export function changeRule(source: number, kind: RuleKind, target: number): void {
  const { crosswalk, source: mine, skeleton } = get();
  if (!crosswalk || !mine || !skeleton) return;
  if (kind !== 'share') return change(withRule(crosswalk, source, kind, target));
  const further = openChain(crosswalk, mine, skeleton, source, target);
  change(withShare(crosswalk, skeleton, source, target, further));
}

/** Shares a bone over these, beside its first counterpart. */
export function changeFurther(source: number, further: readonly number[]): void {
  const { crosswalk, skeleton } = get();
  if (!crosswalk || !skeleton) return;
  change(withShare(crosswalk, skeleton, source, crosswalk[source].target, further));
}

/** Changes the pair that a deviation is likely to come from. */
export function removeCause(cause: Cause): void {
  const { crosswalk, skeleton } = get();
  if (crosswalk && skeleton) change(withCauseRemoved(crosswalk, skeleton, cause));
}

/** Gives all chosen bones one rule. */
export function changePicked(kind: Exclude<RuleKind, 'share'>, target: number): void {
  const { crosswalk, picked } = get();
  if (crosswalk) change(withRules(crosswalk, inOrder(picked), kind, target));
}

/** Carries the chosen bones, in their order, onto the target's chain that begins at a bone. */
export function carryInOrder(first: number): void {
  const { crosswalk, skeleton, picked } = get();
  if (crosswalk && skeleton) change(withChain(crosswalk, skeleton, inOrder(picked), first));
}

const inOrder = (bones: ReadonlySet<number>): number[] => [...bones].sort((a, b) => a - b);

/** The bones of the source on the other side of those that are chosen. */
export function twinsOfPicked(): number[] {
  const { twins, picked } = get();
  return inOrder(picked).flatMap((b) => (twins[b] < 0 || picked.has(twins[b]) ? [] : [twins[b]]));
}

/**
 * Gives the bones on the other side the rules of the chosen ones, onto the other side's counterparts; where such a
 * one has no other side, onto the same.
 */
export function setTwinsAlike(): void {
  const { crosswalk, skeleton, twins, targetTwins, picked } = get();
  if (!crosswalk || !skeleton) return;
  let next = crosswalk;
  for (const bone of inOrder(picked)) {
    const rule: Rule = crosswalk[bone];
    const mine = twins[bone];
    if (mine < 0 || picked.has(mine)) continue;
    const theirs = rule.target < 0 ? -1 : targetTwins[rule.target];
    const first = theirs < 0 ? rule.target : theirs;
    const further = (rule.further ?? []).map((twin) => (targetTwins[twin] < 0 ? twin : targetTwins[twin]));
    next =
      rule.kind === 'share'
        ? withShare(next, skeleton, mine, first, further)
        : withRule(next, mine, rule.kind, first);
  }
  change(next);
}

/** Locks the chosen pairs, or lets go of them where all are locked. */
export function toggleLocks(): void {
  const { crosswalk, picked } = get();
  if (!crosswalk || picked.size === 0) return;
  const locked = ![...picked].every((b) => crosswalk[b].locked);
  change(crosswalk.map((rule) => (picked.has(rule.source) ? withoutAccepted({ ...rule, locked }) : rule)));
}

/** A pair that is not locked any more is not found fine any more either. */
function withoutAccepted(rule: Rule): Rule {
  if (rule.locked) return rule;
  const { accepted: _, ...rest } = rule;
  return rest;
}

/** The chosen pairs have been looked at and are fine. */
export function acceptPicked(): void {
  const { crosswalk, picked, shown } = get();
  if (crosswalk && picked.size > 0) change(accept(crosswalk, picked, shown));
}

/** Takes the other reading of the chosen bone, where there is one. */
export function takeOther(): void {
  const { crosswalk, chosen } = get();
  const other = crosswalk?.[chosen]?.other;
  if (other !== undefined) changeRule(chosen, 'carry', other);
}

/** Takes up a crosswalk that was saved for nearly this skeleton. */
export function takeOffered(): void {
  const { offered } = get();
  if (!offered) return;
  change(offered.crosswalk);
  set({ offered: null });
}

const suggesting = new LatestRequest();

/** Suggests anew; locked pairs stay. `fresh` lets go of a kept crosswalk and of all locks. */
export async function suggestAgain(fresh = false): Promise<void> {
  const { skeleton, crosswalk, of } = get();
  if (!skeleton || !crosswalk) return;
  const isCurrent = suggesting.begin();
  set({ isSuggesting: true });
  try {
    const next = await deskWorker().suggest(skeleton, fresh ? [] : crosswalk);
    const look = await deskWorker().describe(skeleton, next);
    if (!isCurrent() || get().of !== of || get().skeleton !== skeleton) return;
    set({ ...afterChange(get(), get().crosswalk ?? crosswalk), origin: 'suggested' });
    begin(next, look);
    take(next);
  } finally {
    if (isCurrent()) set({ isSuggesting: false });
  }
}

export async function saveWalk(): Promise<void> {
  const { crosswalk, source, skeleton } = get();
  if (!crosswalk || !source || !skeleton) return;
  try {
    await call(saveCrosswalk, crosswalkToFile(crosswalk, source, skeleton));
    set({ saved: crosswalk });
    if (get().crosswalk === crosswalk) {
      set({ origin: 'saved' });
      await forgetDraft(source, skeleton);
    }
  } catch (error) {
    setDesk({ error: messageOf(error) });
  }
}

export async function moveWeights(): Promise<void> {
  const { crosswalk, source, skeleton, target, limit, how, motion } = get();
  if (!crosswalk || !source || !skeleton || !target) return;
  const isMoved = await perform('Moving the weights …', async ({ id, head }) => {
    const { revision } = await call(remapStep, {
      id,
      base: head,
      limit,
      how,
      ...(motion && { motion: motion.revision }),
      target: { id: target.id, revision: target.revision, title: skeleton.title },
      crosswalk: crosswalkToFile(crosswalk, source, skeleton),
    });
    return `Revision ${revision.number}: the weights now stand on ${skeleton.title}. Undo brings the old skeleton back.`;
  });
  if (isMoved) await forgetDraft(source, skeleton);
}
