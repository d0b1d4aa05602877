/**
 * The pairing that is worked on. It outlives the room: rules made by hand are there again when one comes
 * back.
 */
import { create } from 'zustand';
import { type Crosswalk, type Rule, type RuleKind, withRule } from '@/core/anatomy/crosswalk';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { SKELETONS, skeletonById } from '@/core/anatomy/skeletons';
import { twinOf } from '@/core/anatomy/twins';
import { crosswalkFromFile, crosswalkToFile } from '@/core/rooms/crosswalk/file';
import type { Proof } from '@/core/rooms/crosswalk/proof';
import type { RemapReport } from '@/core/rooms/crosswalk/remap';
import { listCharacters } from '@/routes/characters';
import { readCrosswalk, saveCrosswalk } from '@/routes/crosswalks';
import { remapStep } from '@/routes/steps';
import { call, fetchCharacter, messageOf } from '../../kit/api';
import { Asking } from '../../state/asking';
import { chooseBone } from '../../state/choose';
import { perform } from '../../state/open';
import { desk, setDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import type { Figure } from '../../worker/figure';

/** A skeleton to move to: one of the house's, or that of a revision on the shelf. */
export interface Target {
  readonly key: string;
  readonly title: string;
  readonly id?: string;
  readonly revision?: string;
}

/** The remap carried out on this page; nothing of it is saved. */
export interface RemapTrial {
  readonly report: RemapReport;
  readonly proof: Proof;
  readonly figure: Figure;
}

interface Walk {
  /** What it was opened for: record, revision and brief. */
  of: string | null;
  targets: readonly Target[];
  target: Target | null;
  source: Skeleton | null;
  skeleton: Skeleton | null;
  targetFigure: Figure | null;
  crosswalk: Crosswalk | null;
  /** Index of the chosen bone of the source, of the target; −1 for none. */
  chosen: number;
  chosenTarget: number;
  limit: number;
  trial: RemapTrial | null;
  isTrying: boolean;
  isSuggesting: boolean;
  /** The pairing is as it was saved for these two skeletons. */
  isSaved: boolean;
  error: string | null;
}

const empty: Walk = {
  of: null,
  targets: [],
  target: null,
  source: null,
  skeleton: null,
  targetFigure: null,
  crosswalk: null,
  chosen: -1,
  chosenTarget: -1,
  limit: 4,
  trial: null,
  isTrying: false,
  isSuggesting: false,
  isSaved: false,
  error: null,
};

export const useWalk = create<Walk>(() => empty);
const set = useWalk.setState;
const get = useWalk.getState;

/** How long a pairing must stand before it is tried on, milliseconds. */
const PAUSE = 250;

const opening = new Asking();
const trying = new Asking();
const suggesting = new Asking();

/** What lies on the desk; another one is another pairing. */
const deskKey = (): string => {
  const { record, revision, brief } = desk();
  return [record?.id, revision, brief.id].join(' ');
};

/** Opens the room for what lies on the desk; what was made by hand before stays. */
export async function openWalk(): Promise<void> {
  const of = deskKey();
  const { brief, record, revision } = desk();
  if (!record || revision === null || get().of === of) return;
  const isCurrent = opening.begin();
  trying.drop();
  suggesting.drop();
  set({ ...empty, of });
  try {
    const { characters } = await call(listCharacters, {});
    const source = await deskWorker().skeleton();
    if (!isCurrent()) return;
    const targets: Target[] = [
      ...SKELETONS.map((s) => ({ key: s.id, title: s.title, id: s.id })),
      ...characters.flatMap((c) =>
        c.head && c.id !== record.id
          ? [{ key: c.head, title: `${c.name} (from the shelf)`, revision: c.head }]
          : [],
      ),
    ];
    const chosen = source.bones.findIndex((b) => b.node === desk().bone);
    set({ targets, source, limit: brief.limits.influences, chosen });
    if (source.bones.length === 0)
      set({
        error: 'This character has no bones, so there is nothing to move. Bring in one that is rigged.',
      });
    else await chooseTarget(targets.find((t) => t.id === brief.skeleton) ?? targets[0]);
  } catch (error) {
    if (isCurrent()) set({ of: null, error: messageOf(error) });
  }
}

/** The skeleton of a target. */
async function skeletonOfTarget(target: Target): Promise<Skeleton> {
  const ours = target.id ? skeletonById(target.id) : undefined;
  if (ours) return ours;
  const { character } = await fetchCharacter(target.revision ?? '');
  return deskWorker().skeletonOf(character);
}

/** Chooses the skeleton to move to: what was saved for the two is taken up, else a pairing is suggested. */
export async function chooseTarget(target: Target): Promise<void> {
  const isCurrent = opening.begin();
  trying.drop();
  suggesting.drop();
  const { source } = get();
  set({
    target,
    crosswalk: null,
    trial: null,
    skeleton: null,
    targetFigure: null,
    isSaved: false,
    isSuggesting: false,
    error: null,
    chosenTarget: -1,
  });
  if (!source) return;
  try {
    const skeleton = await skeletonOfTarget(target);
    if (!isCurrent()) return;
    if (skeleton.bones.length === 0) {
      set({ error: `“${target.title}” has no bones; choose another skeleton.` });
      return;
    }
    const targetFigure = await deskWorker().skeletonFigure(skeleton);
    const { file } = await call(readCrosswalk, await deskWorker().fingerprints(skeleton));
    const saved = file ? readSaved(file, source, skeleton) : null;
    const crosswalk = saved ?? (await deskWorker().suggest(skeleton, []));
    if (!isCurrent()) return;
    set({ skeleton, targetFigure, isSaved: saved !== null });
    setCrosswalk(crosswalk);
  } catch (error) {
    if (isCurrent()) set({ error: messageOf(error) });
  }
}

/** A saved pairing; one that does not fit any more is as if there were none. */
function readSaved(file: unknown, source: Skeleton, skeleton: Skeleton): Crosswalk | null {
  try {
    return crosswalkFromFile(file, source, skeleton);
  } catch {
    return null;
  }
}

/** Takes a pairing and tries it on once it has stood for a moment. */
function setCrosswalk(crosswalk: Crosswalk): void {
  set({ crosswalk, isTrying: true });
  const isCurrent = trying.begin();
  setTimeout(() => isCurrent() && void tryOn(crosswalk, isCurrent), PAUSE);
}

async function tryOn(crosswalk: Crosswalk, isCurrent: () => boolean): Promise<void> {
  const { skeleton, limit } = get();
  if (!skeleton) return;
  try {
    const trial = await deskWorker().trial(skeleton, crosswalk, limit);
    if (isCurrent()) set({ trial, isTrying: false });
  } catch (error) {
    // The pairing stays: only its trial failed.
    if (!isCurrent()) return;
    set({ isTrying: false });
    setDesk({ error: messageOf(error) });
  }
}

export function setLimit(limit: number): void {
  set({ limit });
  const { crosswalk } = get();
  if (crosswalk) setCrosswalk(crosswalk);
}

export function changeRule(source: number, kind: RuleKind, target: number): void {
  const { crosswalk } = get();
  if (!crosswalk) return;
  set({ isSaved: false });
  setCrosswalk(withRule(crosswalk, source, kind, target));
}

/** Gives the bone on the other side the same rule, onto the other side's counterpart; where it has none, the same one. */
export function setTwinAlike(rule: Rule): void {
  const { source, skeleton } = get();
  if (!source || !skeleton) return;
  const mine = twinOf(source, rule.source);
  const theirs = rule.target < 0 ? -1 : twinOf(skeleton, rule.target);
  if (mine >= 0) changeRule(mine, rule.kind, theirs < 0 ? rule.target : theirs);
}

export function toggleLock(source: number): void {
  const { crosswalk } = get();
  const turned = crosswalk?.map((r) => (r.source === source ? { ...r, locked: !r.locked } : r));
  if (turned) set({ crosswalk: turned, isSaved: false });
}

/** Suggests anew; locked pairs stay. `fresh` lets go of a saved crosswalk and of all locks. */
export async function suggestAgain(fresh = false): Promise<void> {
  const { skeleton, crosswalk, of } = get();
  if (!skeleton) return;
  const isCurrent = suggesting.begin();
  set({ isSuggesting: true });
  try {
    const next = await deskWorker().suggest(skeleton, fresh ? [] : (crosswalk ?? []));
    if (!isCurrent() || get().of !== of) return;
    set({ isSaved: false });
    setCrosswalk(next);
  } finally {
    if (isCurrent()) set({ isSuggesting: false });
  }
}

export async function saveWalk(): Promise<void> {
  const { crosswalk, source, skeleton } = get();
  if (!crosswalk || !source || !skeleton) return;
  try {
    await call(saveCrosswalk, crosswalkToFile(crosswalk, source, skeleton));
    if (get().crosswalk === crosswalk) set({ isSaved: true });
  } catch (error) {
    setDesk({ error: messageOf(error) });
  }
}

export async function moveWeights(): Promise<void> {
  const { crosswalk, source, skeleton, target, limit } = get();
  if (!crosswalk || !source || !skeleton || !target) return;
  await perform('Moving the weights …', async ({ id, head }) => {
    const { revision } = await call(remapStep, {
      id,
      base: head,
      limit,
      target: { id: target.id, revision: target.revision, title: skeleton.title },
      crosswalk: crosswalkToFile(crosswalk, source, skeleton),
    });
    return `Revision ${revision.number}: the weights now stand on ${skeleton.title}. Undo brings the old skeleton back.`;
  });
}

/** Chooses a pair by its source bone; the bone is chosen on the desk too. */
export function choosePair(source: number): void {
  const node = get().source?.bones[source]?.node ?? -1;
  pairOf(source);
  if (desk().bone !== node) chooseBone(node);
}

/** Follows the bone that was chosen on the stage. */
export function followBone(node: number): void {
  const { source, chosen } = get();
  const index = source?.bones.findIndex((b) => b.node === node) ?? -1;
  if (index >= 0 && index !== chosen) pairOf(index);
}

const pairOf = (source: number): void =>
  set({ chosen: source, chosenTarget: get().crosswalk?.[source]?.target ?? -1 });

/** Chooses the pair of a target bone. */
export function chooseByTarget(target: number): void {
  const rules = get().crosswalk?.filter((x) => x.target === target) ?? [];
  const rule = rules.find((x) => x.kind === 'carry') ?? rules[0];
  choosePair(rule?.source ?? -1);
  set({ chosenTarget: target });
}
