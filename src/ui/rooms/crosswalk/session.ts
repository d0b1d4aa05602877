/**
 * The pairing that is worked on. It outlives the room: rules made by hand are there again when one comes
 * back, and when the page was closed.
 */
import { proxy } from 'comlink';
import { create } from 'zustand';
import { type Crosswalk, targetsOf } from '@/core/anatomy/crosswalk';
import { type Skeleton, fingerprintOf } from '@/core/anatomy/skeleton';
import { SKELETONS } from '@/core/anatomy/skeletons';
import { OWN_SKELETON, skeletonWanted } from '@/core/anatomy/skeletons/wanted';
import type { Brief } from '@/core/house/brief';
import { doubtOf, proofOfRules } from '@/core/rooms/crosswalk/doubts';
import { crosswalkFromFile, crosswalkToFile } from '@/core/rooms/crosswalk/file';
import type { Cause } from '@/core/rooms/crosswalk/causes';
import type { DeviationFloor } from '@/core/rooms/crosswalk/deviation-floor';
import type { BoneProof, Proof } from '@/core/rooms/crosswalk/proof';
import type { Adopted } from '@/core/rooms/crosswalk/adopt';
import type { WorstPoint } from '@/core/rooms/crosswalk/worst';
import { type RemapOptions, isRestSolved } from '@/core/rooms/crosswalk/remap';
import { listCharacters } from '@/routes/characters';
import { readCrosswalk } from '@/routes/crosswalks';
import { call, fetchCharacter, messageOf } from '../../kit/api';
import { LatestRequest } from '../../state/latest-request';
import { showPose } from '../../state/pose';
import { desk, setDesk } from '../../state/store';
import { deskWorker } from '../../state/worker';
import type { PairingLook } from '../../worker/desk.worker';
import type { Figure } from '../../worker/figure';
import type { BothPosed, Moved } from '../../worker/moving';
import { solver } from './solver';
import { keptTarget, keptCrosswalks, keepTarget } from './kept-session';

/** A skeleton to move to: one of the house's, or that of a revision on the shelf. */
export interface Target {
  readonly key: string;
  readonly title: string;
  readonly id?: string;
  readonly revision?: string;
}

/** The remap carried out on this page; nothing of it is saved. */
export type RemapTrial = Moved;

/** How the weights are moved. */
export type How = Required<Pick<RemapOptions, 'mode' | 'lengths' | 'weights' | 'rest'>>;

/** A character of the shelf whose clips can be examples. */
export interface Borrowed {
  readonly revision: string;
  readonly name: string;
}

/** What is being worked out behind a trial, and how much of it is done, 0 … 1. */
export interface Solving {
  readonly what: 'weights' | 'price' | 'causes';
  readonly share: number;
}

/** Where a pairing came from. */
export type Origin = 'suggested' | 'saved' | 'draft';

/** A bone that was pointed at and waits for its counterpart. */
export interface HeldBone {
  readonly side: 'source' | 'target';
  /** Index of the bone in its skeleton. */
  readonly bone: number;
}

export interface CrosswalkSession extends PairingLook {
  /** What it was opened for: record, revision and brief. */
  of: string | null;
  targets: readonly Target[];
  target: Target | null;
  source: Skeleton | null;
  skeleton: Skeleton | null;
  targetFigure: Figure | null;
  crosswalk: Crosswalk | null;
  origin: Origin;
  /** The pairing as the house keeps it for these two skeletons; null where it does not. */
  saved: Crosswalk | null;
  /** One that was saved for nearly this skeleton, to be taken up; null where there is none. */
  offered: Adopted | null;
  /** What it was before each change by hand, and what was taken back. */
  past: readonly Crosswalk[];
  future: readonly Crosswalk[];
  /** Bones of the source that wanted a look since the pairing was suggested; those that were looked at stay. */
  listed: ReadonlySet<number>;
  /** Index of the chosen bone of the source, of the target; −1 for none. */
  chosen: number;
  chosenTarget: number;
  /** All bones of the source that are chosen, and the group whose head was chosen. */
  picked: ReadonlySet<number>;
  group: string | null;
  held: HeldBone | null;
  limit: number;
  how: How;
  /** What else on the shelf could move; and the one whose clips are examples as well. */
  motions: readonly Borrowed[];
  motion: Borrowed | null;
  trial: RemapTrial | null;
  /** How what is tried on was moved: in another way it may stand in another pose. */
  triedHow: How | null;
  /** The proof by the rules alone, while what is tried on has weights by example. */
  byRules: Proof | null;
  /** What the skeleton itself costs; null while nobody knows. */
  price: DeviationFloor | null;
  /** Pairs that are likely to be wrong; null while nobody knows. */
  causes: readonly Cause[] | null;
  solving: Solving | null;
  /** What the proof shows of every bone of the source. */
  shown: readonly (BoneProof | null)[];
  /** The pose of the proof that both figures stand in, −1 for none of them. */
  pose: number;
  /** Both figures where a pose, a clip or the hand has put them; null at rest. */
  both: BothPosed | null;
  /** One of the worst places, that is being looked at. */
  place: WorstPoint | null;
  isTrying: boolean;
  isSuggesting: boolean;
  error: string | null;
}

const NOBODY: ReadonlySet<number> = new Set();

/** What belongs to one pairing of two skeletons. */
const noPairing = {
  skeleton: null,
  targetFigure: null,
  crosswalk: null,
  origin: 'suggested',
  saved: null,
  offered: null,
  past: [],
  future: [],
  limbs: [],
  notices: [],
  twins: [],
  targetTwins: [],
  listed: NOBODY,
  chosenTarget: -1,
  picked: NOBODY,
  group: null,
  held: null,
  trial: null,
  triedHow: null,
  byRules: null,
  price: null,
  causes: null,
  solving: null,
  shown: [],
  pose: -1,
  both: null,
  place: null,
  isTrying: false,
  isSuggesting: false,
  error: null,
} satisfies Partial<CrosswalkSession>;

const empty: CrosswalkSession = {
  ...noPairing,
  of: null,
  targets: [],
  target: null,
  source: null,
  chosen: -1,
  limit: 4,
  how: { mode: 'target', lengths: 'kept', weights: 'example', rest: 'example' },
  motions: [],
  motion: null,
};

export const useCrosswalkSession = create<CrosswalkSession>(() => empty);
const set = useCrosswalkSession.setState;
const get = useCrosswalkSession.getState;

/** How long a pairing must stand before it is tried on, milliseconds. */
const PAUSE = 250;

const opening = new LatestRequest();
const trying = new LatestRequest();

/** What lies on the desk; another one is another pairing. */
const deskKey = (): string => {
  const { record, revision, brief } = desk();
  return [record?.id, revision, brief.id].join(' ');
};

/** Opens the room for what lies on the desk; what was made by hand before stays. */
export async function openCrosswalk(): Promise<void> {
  const of = deskKey();
  const { brief, record, revision } = desk();
  if (!record || revision === null || get().of === of) return;
  const isCurrent = opening.begin();
  trying.drop();
  // How it is moved stays as somebody has set it, also where the room is opened anew under the hand.
  set({ ...empty, how: get().how, of });
  try {
    const { characters } = await call(listCharacters, {});
    const source = await deskWorker().skeleton();
    if (!isCurrent()) return;
    const targets: Target[] = [
      ...ownOf(brief),
      ...SKELETONS.map((skeleton) => ({ key: skeleton.id, title: skeleton.title, id: skeleton.id })),
      // Nobody moves onto a character without bones.
      ...characters.flatMap((character) =>
        character.head && character.id !== record.id && character.bones !== 0
          ? [{ key: character.head, title: `${character.name} (from the shelf)`, revision: character.head }]
          : [],
      ),
    ];
    const chosen = source.bones.findIndex((bone) => bone.node === desk().bone);
    const motions = characters.flatMap((character) =>
      character.head && character.id !== record.id && character.bones !== 0
        ? [{ revision: character.head, name: character.name }]
        : [],
    );
    await solver().borrow(null);
    set({ targets, motions, source, limit: brief.limits.influences, chosen, picked: pickedOf(chosen) });
    if (source.bones.length === 0)
      set({
        error: 'This character has no bones, so there is nothing to move. Bring in one that is rigged.',
      });
    else await chooseTarget(firstTarget(targets));
  } catch (error) {
    if (isCurrent()) set({ of: null, error: messageOf(error) });
  }
}

/** One bone chosen by itself; −1 for none. */
export const pickedOf = (bone: number): ReadonlySet<number> => (bone < 0 ? NOBODY : new Set([bone]));

/** The target that was chosen last for this character and brief; else the one that the brief wants. */
function firstTarget(targets: readonly Target[]): Target {
  const { record, brief } = desk();
  const kept = record && keptTarget(record.id, brief.id);
  return (
    targets.find((target) => target.key === kept) ??
    targets.find((target) => target.id === brief.skeleton) ??
    targets[0]
  );
}

/** The skeleton that a brief brings along, as a target. */
const ownOf = ({ ownSkeleton, skeleton }: Brief): Target[] =>
  ownSkeleton && skeleton === OWN_SKELETON
    ? [{ key: OWN_SKELETON, title: `${ownSkeleton.title} (of the brief)`, id: OWN_SKELETON }]
    : [];

/** The skeleton of a target. */
async function skeletonOfTarget(target: Target): Promise<Skeleton> {
  const { ownSkeleton } = desk().brief;
  const ours = target.id ? skeletonWanted({ skeleton: target.id, ownSkeleton }) : undefined;
  if (ours) return ours;
  const { character } = await fetchCharacter(target.revision ?? '');
  return deskWorker().skeletonOf(character);
}

/**
 * Chooses the skeleton to move to: what was set by hand and not saved is taken up, or what was saved for the two;
 * else a pairing is suggested.
 */
export async function chooseTarget(target: Target): Promise<void> {
  const isCurrent = opening.begin();
  trying.drop();
  const { source, chosen } = get();
  set({ ...noPairing, picked: pickedOf(chosen), target });
  if (!source) return;
  try {
    const skeleton = await skeletonOfTarget(target);
    if (!isCurrent()) return;
    if (skeleton.bones.length === 0) {
      set({ error: `“${target.title}” has no bones; choose another skeleton.` });
      return;
    }
    const targetFigure = await deskWorker().skeletonFigure(skeleton);
    const { file, others } = await call(readCrosswalk, {
      source: fingerprintOf(source),
      target: fingerprintOf(skeleton),
    });
    const saved = file ? readKept(file, source, skeleton) : null;
    const kept = await keptCrosswalks.recall(keyOf(source, skeleton));
    const draft = kept ? readKept(kept, source, skeleton) : null;
    const crosswalk = draft ?? saved ?? (await deskWorker().suggest(skeleton, []));
    const look = await deskWorker().describe(skeleton, crosswalk);
    if (!isCurrent()) return;
    const kind = saved ? 'saved' : 'suggested';
    const offered = others.length > 0 ? await deskWorker().adopt(skeleton, others) : null;
    if (!isCurrent()) return;
    set({ skeleton, targetFigure, saved, offered, origin: draft ? 'draft' : kind });
    begin(crosswalk, look);
    keepTargetOfDesk(target.key);
  } catch (error) {
    if (isCurrent()) set({ error: messageOf(error) });
  }
}

function keepTargetOfDesk(key: string): void {
  const { record, brief } = desk();
  if (record) keepTarget(record.id, brief.id, key);
}

const keyOf = (source: Skeleton, target: Skeleton) => `${fingerprintOf(source)} ${fingerprintOf(target)}`;

/** A pairing that was kept; one that does not fit any more is as if there were none. */
function readKept(file: unknown, source: Skeleton, skeleton: Skeleton): Crosswalk | null {
  try {
    return crosswalkFromFile(file, source, skeleton);
  } catch {
    return null;
  }
}

/** Begins with a pairing that no hand has made here: its limbs, and what of it wants a look. */
export function begin(crosswalk: Crosswalk, look: PairingLook): void {
  set({ ...look, listed: new Set(doubtful(crosswalk, [])) });
  setCrosswalk(crosswalk);
}

/** Bones of the source whose pairs want a look. */
const doubtful = (crosswalk: Crosswalk, shown: CrosswalkSession['shown']): number[] =>
  crosswalk.flatMap((rule) =>
    doubtOf(rule, shown[rule.source] ?? null, desk().brief.proofTolerance) ? [rule.source] : [],
  );

/** Takes a pairing, and tries it on once it has stood for a moment, where anything would move otherwise. */
export function setCrosswalk(crosswalk: Crosswalk): void {
  const { crosswalk: before, trial, shown } = get();
  const isSame = (i: number) => !!before && isSameRule(before[i], crosswalk[i]);
  // What the proof showed of a pair says nothing of another one.
  set({ crosswalk, shown: shown.map((proof, i) => (isSame(i) ? proof : null)) });
  if (trial && crosswalk.every((_, i) => isSame(i))) return;
  tryOnSoon();
}

const isSameRule = (a: Crosswalk[number], b: Crosswalk[number]) =>
  a.kind === b.kind && targetsOf(a).join() === targetsOf(b).join();

/** Tries the pairing on as it stands. */
export function tryOnSoon(): void {
  const { crosswalk } = get();
  if (!crosswalk) return;
  stopSolving();
  // What an earlier pairing was blamed for is no advice for this one.
  set({ isTrying: true, causes: null });
  const isCurrent = trying.begin();
  setTimeout(() => isCurrent() && void tryOn(crosswalk, isCurrent), PAUSE);
}

async function tryOn(crosswalk: Crosswalk, isCurrent: () => boolean): Promise<void> {
  const { skeleton } = get();
  if (!skeleton) return;
  try {
    const options = optionsNow();
    const share = await solver().trialOnShare(skeleton, crosswalk, options);
    if (!isCurrent()) return;
    if (share) takeTrial(share);
    const trial = await solver().trial(skeleton, crosswalk, options);
    if (!isCurrent()) return;
    takeTrial(trial);
    set({ isTrying: false, byRules: null, price: null });
    if (isSolved(options) && hasWork(trial)) await solve(skeleton, crosswalk, isCurrent);
    if (isCurrent()) await askPrice(isCurrent);
    if (isCurrent()) await askCauses(isCurrent);
  } catch (error) {
    // The pairing stays: only its trial failed.
    if (!isCurrent()) return;
    set({ isTrying: false, solving: null });
    setDesk({ error: messageOf(error) });
  }
}

const optionsNow = (): RemapOptions => ({ limit: get().limit, skins: desk().brief.skins, ...get().how });

/** Whether anything of a move is solved over examples. */
const isSolved = (options: RemapOptions): boolean => options.weights === 'example' || isRestSolved(options);

/** Whether weights by example could be others: something moves otherwise, or lost a bone to the limit. */
const hasWork = ({ proof, report }: RemapTrial) =>
  proof.compared > 0 && (proof.max > NOTHING || report.vertices.trimmed > 0);

/** What moves by less moves as it did, metres. */
const NOTHING = 1e-6;

function takeTrial(trial: RemapTrial): void {
  const { source, crosswalk, listed, how } = get();
  if (!source) return;
  const shown = proofOfRules(source, trial.proof);
  rest();
  set({ trial, triedHow: how, shown, listed: new Set([...listed, ...doubtful(crosswalk ?? [], shown)]) });
}

const progressOf = (what: Solving['what'], isCurrent: () => boolean) =>
  proxy((share: number) => {
    if (isCurrent() && get().solving?.what === what) set({ solving: { what, share } });
  });

/** Weights by example, behind what is shown by the rules meanwhile. */
async function solve(skeleton: Skeleton, crosswalk: Crosswalk, isCurrent: () => boolean): Promise<void> {
  const plain = get().trial;
  set({ solving: { what: 'weights', share: 0 } });
  const onProgress = progressOf('weights', isCurrent);
  const solved = await solver().solve(skeleton, crosswalk, optionsNow(), onProgress);
  if (!isCurrent()) return;
  set({ solving: null });
  if (!solved) return;
  takeTrial(solved);
  set({ byRules: plain?.proof ?? null });
}

async function askPrice(isCurrent: () => boolean): Promise<void> {
  set({ solving: { what: 'price', share: 0 } });
  const price = await solver().deviationFloor(progressOf('price', isCurrent));
  if (isCurrent()) set({ price, solving: null });
}

async function askCauses(isCurrent: () => boolean): Promise<void> {
  set({ solving: { what: 'causes', share: 0 } });
  const { proofTolerance } = desk().brief;
  const causes = await solver().causes(proofTolerance, progressOf('causes', isCurrent));
  if (isCurrent()) set({ causes, solving: null });
}

function stopSolving(): void {
  if (get().solving) void solver().stopSolving();
  set({ solving: null });
}

/** Ends what is being worked out behind the trial: what is shown stays. */
export function cancelSolving(): void {
  if (get().solving?.what === 'weights') setHow({ weights: 'rules', rest: 'posed' });
  else stopSolving();
}

/** Changes how the weights are moved, and tries that on. */
export function setHow(change: Partial<How>): void {
  set({ how: { ...get().how, ...change } });
  tryOnSoon();
}

/** Takes the clips of another character of the shelf as examples as well; null for none. */
export async function borrowMotion(motion: Borrowed | null): Promise<void> {
  const { of } = get();
  try {
    const character = motion ? (await fetchCharacter(motion.revision)).character : null;
    const hasClips = await solver().borrow(character);
    if (get().of !== of) return;
    if (!hasClips) setDesk({ error: `“${motion?.name}” holds no motion; choose another one.` });
    set({ motion: hasClips ? motion : null });
    tryOnSoon();
  } catch (error) {
    if (get().of === of) setDesk({ error: messageOf(error) });
  }
}

/** Both figures as they stand at rest, or as the hand has left them. */
export function rest(): void {
  if (!get().both) return;
  set({ pose: -1, both: null, place: null });
  void showPose();
}

/** Keeps in the browser what was set by hand; nothing where the house keeps it just so, or would suggest it so. */
export async function keepDraft(): Promise<void> {
  const { crosswalk, source, skeleton, saved } = get();
  if (!crosswalk || !source || !skeleton) return;
  const key = keyOf(source, skeleton);
  const isSuggestion = !saved && !crosswalk.some((rule) => rule.locked);
  if (crosswalk === saved || isSuggestion) await keptCrosswalks.forget(key);
  else await keptCrosswalks.remember(key, crosswalkToFile(crosswalk, source, skeleton));
}

/** Lets go of what was kept in the browser for two skeletons. */
export const forgetDraft = (source: Skeleton, target: Skeleton): Promise<void> =>
  keptCrosswalks.forget(keyOf(source, target));

export function setLimit(limit: number): void {
  set({ limit });
  tryOnSoon();
}
