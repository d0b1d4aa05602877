/** The figure of the desk moved joint by joint: what shows then joins the findings. */
import { create } from 'zustand';
import { restPlace } from '@/core/character/hierarchy';
import { characterHeight } from '@/core/character/measure';
import { inOrderOfWork } from '@/core/house/audit';
import { briefKey } from '@/core/house/brief';
import { isKeyInMotion } from '@/core/house/registry';
import { type MotionFigures, rowChanges, seenChanges } from '@/core/rooms/trials/rows';
import { handedMotion } from '@/routes/dockets';
import { call, messageOf } from '../kit/api';
import { changeLook, frame } from './choose';
import { isTried } from './document';
import { LatestRequest } from './latest-request';
import { beginPose, standAsFound } from './pose';
import { HeardProgress } from './heard-progress';
import { type DeskState, desk, setDesk } from './store';
import { setApart } from './waivers';
import { solveWorker } from './worker';

interface Trying {
  /** How far it is, 0 … 1; null where nothing is under way. */
  readonly share: number | null;
  /** It was stopped, for this revision. */
  readonly stopped: string | null;
}

export const useTrying = create<Trying>(() => ({ share: null, stopped: null }));

const trying = new LatestRequest();

/** Moves every joint of what lies on the desk, where that is not done yet. */
export async function tryInMotion(): Promise<void> {
  const { character, revision, brief, audited, record } = desk();
  if (!character || !revision || !audited || !record || isTried(desk())) return;
  const isCurrent = trying.begin();
  useTrying.setState({ share: 0, stopped: null });
  try {
    const progress = new HeardProgress((share) => {
      if (isCurrent()) useTrying.setState({ share });
    });
    const { motion } = await call(handedMotion, { id: record.id });
    if (!isCurrent()) return;
    const tried = await progress.until(solveWorker(character).tryInMotion(brief, motion, progress.listener));
    if (!isCurrent() || !tried) return;
    const now = desk();
    if (now.revision !== revision || briefKey(now.brief) !== briefKey(brief) || !now.record || !now.audited)
      return;
    const others = now.audited.filter(({ key }) => !isKeyInMotion(key));
    setDesk({
      tried: { revision, brief: briefKey(brief), rows: tried.rows, since: changesSince(now, tried.rows) },
      ...setApart(now.record, revision, inOrderOfWork([...others, ...tried.findings]), true),
    });
  } catch (error) {
    if (isCurrent()) setDesk({ error: messageOf(error) });
  } finally {
    if (isCurrent()) useTrying.setState({ share: null });
  }
}

/** What differs from the trial that was made before, of another revision of the same character; bones by their names. */
function changesSince(
  { tried, record }: Pick<DeskState, 'tried' | 'record'>,
  rows: readonly MotionFigures[],
): NonNullable<DeskState['tried']>['since'] {
  const before = record?.revisions.find(({ id }) => id === tried?.revision);
  if (!before || !tried) return null;
  const nodeOf = new Map(tried.rows.map(({ bone, node }) => [bone, node]));
  const nameOf = new Map(rows.map(({ bone, node }) => [node, bone]));
  const changes = rowChanges(tried.rows, rows, (node) => nodeOf.get(nameOf.get(node) ?? '') ?? -1);
  return { revision: before.number, changes: seenChanges(changes) };
}

/** Stops what is under way; the figure counts as not tried. */
export function stopTrying(): void {
  const { character, revision } = desk();
  trying.drop();
  useTrying.setState({ share: null, stopped: revision });
  if (character) void solveWorker(character).stopTrying();
}

/** So much of the figure round a joint is in the picture, as a share of its height: what moves with it swings about. */
const ROUND = 0.2;

/** Brings a joint into the picture, with room for what it swings. */
export function frameJoint(node: number): void {
  const { character } = desk();
  if (!character || node < 0) return;
  const [x, y, z] = restPlace(character.nodes, node);
  const reach = ROUND * characterHeight(character);
  frame([
    [x - reach, y - reach, z - reach],
    [x + reach, y + reach, z + reach],
  ]);
}

/** Stands in a motion at so many degrees. */
export async function standInMotion(node: number, motion: string, degrees: number): Promise<void> {
  const { character, revision, brief } = desk();
  if (!character) return;
  try {
    const pose = await solveWorker(character).trialStance(node, motion, degrees, brief);
    if (!pose || desk().revision !== revision) return;
    beginPose();
    standAsFound(pose);
  } catch (error) {
    setDesk({ error: messageOf(error) });
  }
}

/** The picture ends at this stretch, as a factor. */
const MOST_STRETCH = 3;

const picturing = new LatestRequest();

/** Shows on the figure how far its surface is stretched in a motion at so many degrees; null: the surface again. */
export async function showStretch(
  at: { readonly node: number; readonly motion: string; readonly degrees: number } | null,
): Promise<void> {
  const isCurrent = picturing.begin();
  const { character, revision, brief } = desk();
  if (!at || !character) {
    changeLook({ heat: null });
    return;
  }
  try {
    const stretch = await solveWorker(character).stretchPicture(at.node, at.motion, at.degrees, brief);
    if (!isCurrent() || !stretch || desk().revision !== revision) return;
    const values = new Map(
      [...stretch].map(([node, factors]) => [
        node,
        factors.map((factor) => Math.min(1, Math.max(0, (factor - 1) / (MOST_STRETCH - 1)))),
      ]),
    );
    changeLook({
      heat: { title: 'stretch of the surface', values, most: 1, ticks: ['1 ×', '1.5', '2', '2.5', '3 ×'] },
    });
  } catch (error) {
    setDesk({ error: messageOf(error) });
  }
}
