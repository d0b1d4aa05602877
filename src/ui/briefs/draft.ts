/** The brief on the table: as it was saved, as it is being changed, and who stands beside it. */
import { create } from 'zustand';
import type { Brief, CheckRule } from '@/core/house/brief';
import { withValueAt } from '@/core/house/brief-form';
import {
  type BriefEntry,
  readBriefVersions,
  removeBrief,
  saveBrief,
  standUnder,
  tryBrief,
} from '@/routes/briefs';
import { type ShelfEntry, listCharacters } from '@/routes/characters';
import type { AnswerOf } from '@/routes/route';
import { call, messageOf } from '../kit/api';
import { LatestRequest } from '../state/latest-request';
import { keepDraft, keptDraft } from './kept-draft';
import { loadBriefs } from '../state/briefs';

/** A version of a brief, and when it was saved. */
export type Version = AnswerOf<typeof readBriefVersions>['versions'][number];

/** What is measured and found of the character beside the brief. */
export type Standing = AnswerOf<typeof standUnder>;

export type TrialRow = AnswerOf<typeof tryBrief>['rows'][number];

interface Table {
  readonly saved: Brief | null;
  readonly draft: Brief | null;
  readonly origin: BriefEntry['origin'];
  readonly versions: readonly Version[];
  /** Characters that can stand beside it. */
  readonly shelf: readonly ShelfEntry[];
  /** Id of the character that does; empty for none. */
  readonly beside: string;
  readonly standing: Standing | null;
  /** How those that are held against it would stand under the draft; null where it was not asked. */
  readonly trial: readonly TrialRow[] | null;
  readonly isBusy: boolean;
  /** A field of the form holds what the brief cannot be. */
  readonly isWrong: boolean;
  readonly error: string | null;
  readonly said: string | null;
}

const EMPTY: Table = {
  saved: null,
  draft: null,
  origin: 'own',
  versions: [],
  shelf: [],
  beside: '',
  standing: null,
  trial: null,
  isBusy: false,
  isWrong: false,
  error: null,
  said: null,
};

export const useTable = create<Table>(() => EMPTY);

const set = useTable.setState;
const get = useTable.getState;

/** Runs something that may fail with a sentence. Says whether it did not. */
async function attempt(work: () => Promise<void>): Promise<boolean> {
  set({ isBusy: true, error: null, said: null });
  try {
    await work();
    return true;
  } catch (error) {
    set({ error: messageOf(error) });
    return false;
  } finally {
    set({ isBusy: false });
  }
}

const opening = new LatestRequest();

/** Lays a brief on the table, with all its versions; `beside`: a character to stand beside it. */
export async function openBrief(id: string, beside: string): Promise<void> {
  const isCurrent = opening.begin();
  const { shelf } = get();
  set({ ...EMPTY, shelf });
  await attempt(async () => {
    const [{ origin, versions }, { characters }] = await Promise.all([
      call(readBriefVersions, { id }),
      call(listCharacters, {}),
    ]);
    if (!isCurrent()) return;
    const { brief } = versions[0];
    const users = characters.filter((character) => character.head && character.brief === id);
    const chosen =
      characters.find((character) => character.id === beside) ??
      users[0] ??
      characters.find((character) => character.head);
    const kept = origin === 'own' ? keptDraft(brief) : null;
    set({
      saved: brief,
      draft: kept ?? brief,
      origin,
      versions,
      shelf: characters,
      beside: chosen?.id ?? '',
    });
    if (kept) set({ said: 'Your changes from before are here; they are not saved yet.' });
    void standAgain();
  });
}

/** Another value at a path of the draft. */
export function changeAt(path: string, value: unknown): void {
  const { draft } = get();
  if (!draft) return;
  const next = withValueAt(draft, path, value);
  set({ draft: next, trial: null, said: null });
  keepDraft(next, true);
  void standAgain();
}

/** Told whether a field of the form holds what the brief cannot be; such a brief is not saved. */
export const tellWrong = (isWrong: boolean): void => set({ isWrong });

/** What becomes of a check: asked as it is, of another gravity, or not asked. */
export function changeRule(check: string, rule: CheckRule | ''): void {
  const { draft } = get();
  if (!draft) return;
  const { [check]: _, ...others } = draft.checks ?? {};
  const checks = rule === '' ? others : { ...others, [check]: rule };
  changeAt('checks', Object.keys(checks).length > 0 ? checks : undefined);
}

/** The draft is as it was saved again. */
export function takeBack(): void {
  const { saved } = get();
  set({ draft: saved, trial: null, error: null, said: null });
  if (saved) keepDraft(saved, false);
  void standAgain();
}

/** Another character stands beside it; empty for none. */
export function standBeside(id: string): void {
  set({ beside: id, standing: null });
  void standAgain();
}

const standing = new LatestRequest();

/** How long the hand rests before it is looked at anew, milliseconds. */
const REST = 350;

async function standAgain(): Promise<void> {
  const isCurrent = standing.begin();
  await new Promise((resolve) => setTimeout(resolve, REST));
  const { draft, shelf, beside } = get();
  const head = shelf.find((entry) => entry.id === beside)?.head;
  if (!isCurrent() || !draft || !head) return;
  try {
    const found = await call(standUnder, { id: head, brief: draft });
    if (isCurrent()) set({ standing: found, error: null });
  } catch (error) {
    if (isCurrent()) set({ standing: null, error: messageOf(error) });
  }
}

/** Asks how all that are held against the brief would stand under the draft. */
export const askTrial = () =>
  attempt(async () => {
    const { draft } = get();
    if (draft) set({ trial: (await call(tryBrief, { id: draft.id, brief: draft })).rows });
  });

/** Saves the draft as the next version. */
export const saveDraft = () =>
  attempt(async () => {
    const { draft, saved, versions } = get();
    if (!draft || !saved) return;
    const { brief } = await call(saveBrief, { base: saved.version, brief: draft });
    keepDraft(brief, false);
    const now = { brief, at: new Date().toISOString() };
    set({ saved: brief, draft: brief, versions: [now, ...versions], trial: null });
    set({
      said: `Saved as version ${brief.version}. All that are held against it are audited anew when they are opened.`,
    });
    await loadBriefs();
  });

/** Saves a brief under a name of its own. Gives its id; null where that failed, which is told. */
export async function saveAsNew(brief: Brief, title: string): Promise<string | null> {
  const id = idFor(title);
  const isDone = await attempt(async () => {
    await call(saveBrief, { base: 0, brief: { ...brief, id, title } });
    await loadBriefs();
  });
  return isDone ? id : null;
}

/** An id made of a title; letters of other scripts by their numbers, so that no two titles of them are one. */
export const idFor = (title: string): string =>
  title
    .normalize('NFKD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase()
    .replace(/(?![a-z0-9])[\p{L}\p{N}]/gu, (letter) => `-${letter.codePointAt(0)?.toString(16)}-`)
    .replace(/[^a-z0-9]+/g, '-')
    .slice(0, 60)
    .replace(/^-+|-+$/g, '') || 'brief';

/** Takes the brief out of the house. */
export const removeThis = () =>
  attempt(async () => {
    const { saved } = get();
    if (!saved) return;
    await call(removeBrief, { id: saved.id });
    keepDraft(saved, false);
    await loadBriefs();
  });
