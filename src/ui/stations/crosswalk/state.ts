import { create } from 'zustand';
import { type Crosswalk, type RuleKind, withRule } from '@/core/anatomy/crosswalk';
import { crosswalkFromFile, crosswalkToFile } from '@/core/rooms/crosswalk/file';
import type { Proof } from '@/core/rooms/crosswalk/proof';
import type { RemapReport } from '@/core/rooms/crosswalk/remap';
import type { Skeleton } from '@/core/anatomy/skeleton';
import { SKELETONS, skeletonById } from '@/core/anatomy/skeletons';
import { api, fetchCharacter } from '../../kit/api';
import { deskWorker, perform, useDesk } from '../../desk/store';
import type { Figure } from '../../worker/figure';

export interface Target {
  readonly key: string;
  readonly title: string;
  readonly id?: string;
  readonly revision?: string;
}
export interface Trial {
  readonly report: RemapReport;
  readonly proof: Proof;
  readonly figure: Figure;
}

interface State {
  targets: readonly Target[];
  target: Target | null;
  source: Skeleton | null;
  skeleton: Skeleton | null;
  targetFigure: Figure | null;
  crosswalk: Crosswalk | null;
  chosen: number;
  chosenTarget: number;
  limit: number;
  trial: Trial | null;
  trying: boolean;
  saved: 'offered' | 'used' | null;
  error: string | null;
}

const clear: State = {
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
  trying: false,
  saved: null,
  error: null,
};
export const useWalk = create<State>(() => clear);
const set = useWalk.setState;
const get = useWalk.getState;

let wave = 0;

/** Opens the room for the character that is on the desk: skeletons to choose from, the brief's own first. */
export async function openWalk(): Promise<void> {
  const { brief, sheet } = useDesk.getState();
  const mine = ++wave;
  try {
    const { characters } = await api<{ characters: { id: string; name: string; head: string }[] }>(
      '/api/characters',
    );
    const targets: Target[] = [
      ...SKELETONS.map((s) => ({ key: s.id, title: s.title, id: s.id })),
      ...characters
        .filter((c) => c.id !== sheet?.id)
        .map((c) => ({ key: c.head, title: `${c.name} (from the shelf)`, revision: c.head })),
    ];
    if (mine !== wave) return;
    const source = await deskWorker().skeleton();
    set({ ...clear, targets, source, limit: brief.limits.influences });
    if (source.bones.length === 0) {
      set({
        error: 'This character has no bones, so there is nothing to move. Bring in one that is rigged.',
      });
      return;
    }
    await chooseTarget(targets.find((t) => t.id === brief.skeleton) ?? targets[0]);
  } catch (e) {
    set({ error: e instanceof Error ? e.message : String(e) });
  }
}

export async function chooseTarget(target: Target): Promise<void> {
  const mine = ++wave;
  set({
    target,
    crosswalk: null,
    trial: null,
    skeleton: null,
    targetFigure: null,
    saved: null,
    error: null,
    chosen: -1,
    chosenTarget: -1,
  });
  try {
    const desk = deskWorker();
    const skeleton = target.id
      ? (skeletonById(target.id) as Skeleton)
      : await desk.skeletonOf((await fetchCharacter(target.revision as string)).character);
    if (skeleton.bones.length === 0) {
      set({ error: `“${target.title}” has no bones; choose another skeleton.` });
      return;
    }
    const targetFigure = await desk.skeletonFigure(skeleton);
    const prints = await desk.fingerprints(skeleton);
    const { file } = await api<{ file: unknown }>(
      `/api/crosswalks?source=${prints.source}&target=${prints.target}`,
    );
    if (mine !== wave) return;
    const source = get().source as Skeleton;
    let crosswalk: Crosswalk | null = null;
    if (file) {
      try {
        crosswalk = crosswalkFromFile(file, source, skeleton);
      } catch {
        crosswalk = null;
      }
    }
    const used = crosswalk !== null;
    crosswalk ??= await desk.suggest(skeleton, []);
    if (mine !== wave) return;
    set({ skeleton, targetFigure, saved: used ? 'used' : null });
    setCrosswalk(crosswalk);
  } catch (e) {
    set({ error: e instanceof Error ? e.message : String(e) });
  }
}

let timer: ReturnType<typeof setTimeout> | undefined;

function setCrosswalk(crosswalk: Crosswalk): void {
  set({ crosswalk, trying: true });
  clearTimeout(timer);
  const mine = wave;
  timer = setTimeout(() => {
    const { skeleton, limit } = get();
    if (!skeleton) return;
    void deskWorker()
      .trial(skeleton, crosswalk, limit)
      .then(
        (t) => {
          if (mine === wave && get().crosswalk === crosswalk) set({ trial: t, trying: false });
        },
        (e: unknown) => set({ trying: false, error: e instanceof Error ? e.message : String(e) }),
      );
  }, 250);
}

export function setLimit(limit: number): void {
  set({ limit });
  const { crosswalk } = get();
  if (crosswalk) setCrosswalk(crosswalk);
}

export function change(source: number, kind: RuleKind, target: number): void {
  const { crosswalk } = get();
  if (crosswalk) setCrosswalk(withRule(crosswalk, source, kind, target));
}

export function toggleLock(source: number): void {
  const { crosswalk } = get();
  if (crosswalk)
    set({ crosswalk: crosswalk.map((r) => (r.source === source ? { ...r, locked: !r.locked } : r)) });
}

/** Suggests anew; locked pairs stay. `fresh` lets go of a saved crosswalk and of all locks. */
export async function suggestAgain(fresh = false): Promise<void> {
  const { skeleton, crosswalk } = get();
  if (!skeleton) return;
  const next = await deskWorker().suggest(skeleton, fresh ? [] : (crosswalk ?? []));
  set({ saved: null });
  setCrosswalk(next);
}

export async function save(): Promise<void> {
  const { crosswalk, source, skeleton } = get();
  if (!crosswalk || !source || !skeleton) return;
  await api('/api/crosswalks', { method: 'PUT', body: crosswalkToFile(crosswalk, source, skeleton) });
  set({ saved: 'used' });
}

export async function moveWeights(): Promise<void> {
  const { crosswalk, source, skeleton, target, limit } = get();
  if (!crosswalk || !source || !skeleton || !target) return;
  const done = await perform('Moving the weights …', async (sheet) => {
    const { revision } = await api<{ revision: { number: number } }>(
      `/api/characters/${sheet.id}/steps/remap`,
      {
        method: 'POST',
        body: {
          base: sheet.head,
          kind: 'remap',
          limit,
          target: { id: target.id, revision: target.revision, title: skeleton.title },
          crosswalk: crosswalkToFile(crosswalk, source, skeleton),
        },
      },
    );
    return `Revision ${revision.number}: the weights now stand on ${skeleton.title}. Undo brings the old skeleton back.`;
  });
  if (done) await openWalk();
}

/** Chooses a pair by its source bone, or by the target bone of its counterpart. */
export function choosePair(source: number): void {
  const { crosswalk } = get();
  set({ chosen: source, chosenTarget: source >= 0 ? (crosswalk?.[source].target ?? -1) : -1 });
}

export function chooseByTarget(target: number): void {
  const r =
    get().crosswalk?.find((x) => x.target === target && x.kind === 'carry') ??
    get().crosswalk?.find((x) => x.target === target);
  set({ chosen: r ? r.source : -1, chosenTarget: target });
}
