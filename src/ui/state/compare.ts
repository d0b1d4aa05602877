import type { Character } from '@/core/character/model';
import type { MotionFigures } from '@/core/rooms/trials/rows';
import { fetchCharacter, messageOf } from '../kit/api';
import type { Comparison } from '../worker/compare';
import { LatestRequest } from './latest-request';
import type { ComparedPicture, ComparedRevisions } from './document';
import { HeardProgress } from './heard-progress';
import { desk, setDesk } from './store';
import { deskWorker, solveWorker } from './worker';

const comparing = new LatestRequest();
const turning = new LatestRequest();

/** The two that are compared, and how they lie beside each other at rest. */
let both: { readonly first: Character; readonly second: Character; readonly rest: Comparison } | null = null;

/**
 * Lays two revisions beside each other: the second on the stage, coloured by how far it lies from the first.
 */
export async function compareRevisions(a: string, b: string): Promise<void> {
  const isCurrent = comparing.begin();
  dropMotion();
  const { brief, record } = desk();
  const isWanted = () => isCurrent() && desk().record?.id === record?.id;
  const asked: ComparedRevisions = { a, b, data: null, show: 'difference', inMotion: null, stands: null };
  setDesk({ compared: asked, error: null });
  try {
    const [first, second] = [await fetchCharacter(a), await fetchCharacter(b)];
    const data = await deskWorker().compare(first.character, second.character, brief);
    if (!isWanted()) return;
    both = { first: first.character, second: second.character, rest: data };
    setDesk({ compared: { ...asked, data } });
  } catch (error) {
    if (isWanted()) setDesk({ error: messageOf(error), compared: null });
  }
}

const change = (changed: Partial<ComparedRevisions>): void =>
  setDesk(({ compared }) => (compared ? { compared: { ...compared, ...changed } } : {}));

export const showCompared = (show: ComparedPicture): void => change({ show });

/** Turns every joint of both, and tells what bends otherwise. */
export async function compareInMotion(): Promise<void> {
  const { character, brief } = desk();
  if (!both || !character) return;
  const isCurrent = turning.begin();
  change({ inMotion: { share: 0 } });
  try {
    const solver = solveWorker(character);
    await solver.takePair(both.first, both.second);
    const progress = new HeardProgress((share) => {
      if (isCurrent()) change({ inMotion: { share } });
    });
    const found = await progress.until(solver.changesInMotion(brief, progress.listener));
    if (isCurrent()) change({ inMotion: found });
  } catch (error) {
    if (!isCurrent()) return;
    change({ inMotion: null });
    setDesk({ error: messageOf(error) });
  }
}

/** Shows both in one motion, the second coloured by how far it lies from the first there; null: at rest. */
export async function showBothIn(row: MotionFigures | null): Promise<void> {
  const { character, brief } = desk();
  if (!both || !character) return;
  const isCurrent = turning.begin();
  if (row === null) {
    change({ data: both.rest, stands: null });
    return;
  }
  try {
    const data = await solveWorker(character).pairInMotion(row.node, row.motion, row.degrees, brief);
    if (isCurrent() && data) change({ data, stands: row });
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  }
}

/** Stops turning them. */
export function stopComparingInMotion(): void {
  dropMotion();
  change({ inMotion: null });
}

function dropMotion(): void {
  turning.drop();
  const { character } = desk();
  if (both && character) void solveWorker(character).dropPair();
}

/** Back from a comparison to the revision that is worked on. */
export function endComparison(): void {
  comparing.drop();
  dropMotion();
  both = null;
  setDesk({ compared: null });
}
