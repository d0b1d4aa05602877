/** How the figure stands: bones turned by hand or a moment of a clip, taken back and done again, in whatever room. */
import { allNamed, finderOf } from '@/core/character/named';
import type { Character } from '@/core/character/model';
import type { FindingPose } from '@/core/contracts/finding';
import { type Stepped, afterChange, redone, undone } from '@/core/contracts/undo-line';
import {
  type TurnAxes,
  degreesOfTurn,
  mirroredTurn,
  restRotation,
  turnOfDegrees,
} from '@/core/motion/hand-pose';
import type { KeptPose } from '@/routes/kept-pose';
import { keepPose as keepPoseRoute, removePose } from '@/routes/poses';
import { call, messageOf } from '../kit/api';
import type { Trial } from '../worker/desk.worker';
import { posing } from './pointer';
import {
  AT_REST,
  type BoneTurn,
  type PosedMoment,
  type StandingPose,
  type TwinFollows,
  isAtRest,
} from './posed';
import { changeRecord } from './record';
import { type DeskState, desk, setDesk } from './store';
import { deskWorker } from './worker';

let isWanted = false;
let isBusy = false;

/** Shows how the figure stands. While a pose is computed only the newest of those that follow is waited for. */
export async function showPose(): Promise<void> {
  isWanted = true;
  if (isBusy) return;
  isBusy = true;
  try {
    while (isWanted) {
      isWanted = false;
      await showOnce();
    }
  } finally {
    isBusy = false;
  }
}

async function showOnce(): Promise<void> {
  const { figure, draft, pose, wide } = desk();
  if (!figure) return;
  // Rooms that keep the stage to a column of their own put the figure into poses of theirs, from rest.
  if ((isAtRest(pose) || wide) && !draft?.painted) {
    posing.set({ figure, pose: draft?.pose ?? null });
    return;
  }
  try {
    // A room that stands by itself shows a painted figure at rest.
    const shown = await deskWorker().pose(asSkinned(trialOf(wide ? AT_REST : pose)));
    if (desk().figure === figure && desk().pose === pose && desk().wide === wide)
      posing.set({ figure, pose: shown });
  } catch (error) {
    if (desk().figure === figure) setDesk({ error: messageOf(error) });
  }
}

/** How the figure stands as the worker takes it. */
export const trialOf = ({ turns, moment }: StandingPose): Trial => ({
  turns: new Map([...turns].map(([node, { turn }]) => [node, turn])),
  moment: moment && { clip: moment.clip, time: moment.time, from: moment.from?.revision },
});

/**
 * The pose as the engine skins it that the brief is of. In Trials alone: elsewhere weights are edited on the pose, and what they
 * do shows plainly where they are mixed linearly.
 */
const asSkinned = (trial: Trial): Trial => {
  const { room, brief } = desk();
  return room === 'trials' ? { ...trial, skinning: brief.trials?.skinning } : trial;
};

let isNewGesture = true;

/** Whatever comes until the next gesture is taken back together; a gesture that changes nothing is none. */
export const beginPose = (): void => {
  isNewGesture = true;
};

function stand(pose: StandingPose): void {
  const { pose: before, poseLine } = desk();
  setDesk(isNewGesture ? { pose, poseLine: afterChange(poseLine, before) } : { pose });
  isNewGesture = false;
  void showPose();
}

/** Another pose that is no gesture: one that was taken back, or done again. */
function standAgain(stepped: Stepped<StandingPose> | null): void {
  if (!stepped) return;
  setDesk({ pose: stepped.value, poseLine: stepped.line });
  isNewGesture = true;
  void showPose();
}

/** Turns a bone to so many degrees about its own or the world's axes, as the desk says. */
export function turnToDegrees(node: number, degrees: readonly number[]): void {
  const { character, turnAxes: axes } = desk();
  if (!character || node < 0) return;
  putTurn(node, { turn: turnOfDegrees(degrees, axes, restRotation(character, node)), degrees, axes });
}

/** Turns a bone to a rotation in the frame that it has at rest. */
export function turnTo(node: number, turn: readonly number[]): void {
  const { character, turnAxes: axes } = desk();
  if (!character || node < 0) return;
  putTurn(node, { turn, degrees: degreesOfTurn(turn, axes, restRotation(character, node)), axes });
}

function putTurn(node: number, turn: BoneTurn): void {
  const { character, pose, twinFollows, twins } = desk();
  if (!character) return;
  const turns = new Map(pose.turns).set(node, turn);
  const twin = twinFollows === 'stays' ? -1 : (twins?.[node] ?? -1);
  if (twin >= 0) turns.set(twin, twinTurnOf(character, node, twin, turn, twinFollows));
  for (const [bone, { degrees }] of turns) if (degrees.every((x) => x === 0)) turns.delete(bone);
  stand({ turns, moment: pose.moment });
}

function twinTurnOf(
  character: Character,
  node: number,
  twin: number,
  { turn, axes }: BoneTurn,
  follows: TwinFollows,
): BoneTurn {
  const rest = restRotation(character, twin);
  const turned = follows === 'same' ? turn : mirroredTurn(turn, restRotation(character, node), rest);
  return { turn: turned, degrees: degreesOfTurn(turned, axes, rest), axes };
}

/** What sliders and numbers show of a bone: degrees about the axes that the desk is set to. */
export function degreesOf(
  { character, pose, turnAxes }: Pick<DeskState, 'character' | 'pose' | 'turnAxes'>,
  node: number,
): readonly number[] {
  const turned = pose.turns.get(node);
  if (!turned || !character) return NONE;
  if (turned.axes === turnAxes) return turned.degrees;
  return degreesOfTurn(turned.turn, turnAxes, restRotation(character, node));
}

const NONE = [0, 0, 0];

export const setTurnAxes = (turnAxes: TurnAxes): void => setDesk({ turnAxes });

/** What the other side does; which bone that is, the worker tells. */
export async function setTwinFollows(twinFollows: TwinFollows): Promise<void> {
  setDesk({ twinFollows });
  const { figure, twins } = desk();
  if (twinFollows === 'stays' || !figure || twins) return;
  const told = await deskWorker().twins();
  if (desk().figure === figure) setDesk({ twins: told });
}

/** Stands as at a moment of a clip; bones that are turned stay so on top of it. */
export const standAt = (clip: number, time: number, from?: PosedMoment['from']): void =>
  stand({ turns: desk().pose.turns, moment: { clip, time, ...(from && { from }) } });

/** Shows a moment while a clip plays: what follows the clock does not go through the page's state. */
export async function playAt(clip: number, time: number, from?: PosedMoment['from']): Promise<void> {
  const { figure, pose } = desk();
  if (!figure) return;
  const moment = asSkinned(trialOf({ turns: pose.turns, moment: { clip, time, ...(from && { from }) } }));
  const shown = await deskWorker().pose({ ...moment, isPlaying: true });
  // Put to rest or turned meanwhile, it stands as that says.
  if (desk().figure === figure && desk().pose === pose) posing.set({ figure, pose: shown });
}

/** For what is done at rest alone, as moving a joint: the figure goes back to rest, and that is said. */
export function restForPlaces(): void {
  if (isAtRest(desk().pose)) return;
  backToRest();
  setDesk({ said: 'Back at rest: places are edited at rest. Undo strikes the pose again.' });
}

/** Back to rest: what was turned can be taken up again. */
export function backToRest(): void {
  if (isAtRest(desk().pose)) return;
  beginPose();
  stand(AT_REST);
}

export const undoPose = (): void => standAgain(undone(desk().poseLine, desk().pose));
export const redoPose = (): void => standAgain(redone(desk().poseLine, desk().pose));

/** Keeps how the figure stands under a name, with the character. True where it could be kept. */
export async function keepPose(name: string): Promise<boolean> {
  const { character, pose } = desk();
  if (!character || isAtRest(pose)) return false;
  const named = allNamed(character.nodes.map((node) => node.name));
  // A moment that another character lends is kept as the turns that it makes of this one's bones.
  const isLent = pose.moment?.from !== undefined;
  const all = isLent ? await deskWorker().turnsOf(trialOf(pose)) : trialOf(pose).turns;
  const turns = [...all].map(([node, turn]) => ({ ...named[node], turn: [...turn] }));
  const own = isLent ? null : pose.moment;
  const moment = own && { clip: character.clips[own.clip].name, time: own.time };
  return changeRecord(({ id }) => call(keepPoseRoute, { id, name, turns, moment }));
}

export const dropPose = (pose: string): Promise<boolean> =>
  changeRecord(({ id }) => call(removePose, { id, pose }));

/** Strikes a pose that was kept; what of it this revision does not have is told. */
export function strikePose({ name, turns, moment }: KeptPose): void {
  const { character, turnAxes: axes } = desk();
  if (!character) return;
  const find = finderOf(character.nodes.map((node) => node.name));
  const found = turns.flatMap(({ turn, ...bone }): [number, BoneTurn][] => {
    const node = find(bone);
    if (node < 0) return [];
    return [[node, { turn, degrees: degreesOfTurn(turn, axes, restRotation(character, node)), axes }]];
  });
  const clip = moment ? character.clips.findIndex((candidate) => candidate.name === moment.clip) : -1;
  const missing = moment ? Number(clip < 0) : turns.length - found.length;
  beginPose();
  stand({ turns: new Map(found), moment: moment && clip >= 0 ? { clip, time: moment.time } : null });
  if (missing > 0)
    setDesk({
      said: moment
        ? `The clip of “${name}” is not in this revision; the figure stays at rest.`
        : `${missing} of the ${turns.length} bones of “${name}” are not in this revision and stay as they are at rest.`,
    });
}

/** Stands as where something shows: nodes with their turns in the frames that they have at rest. */
export function standAsFound({ turns, moment }: FindingPose): void {
  const { character, turnAxes: axes } = desk();
  if (!character) return;
  if (moment) {
    beginPose();
    stand({ turns: new Map(), moment: { clip: moment.clip, time: moment.seconds } });
    return;
  }
  const made = turns.map(([node, turn]): [number, BoneTurn] => [
    node,
    { turn, degrees: degreesOfTurn(turn, axes, restRotation(character, node)), axes },
  ]);
  beginPose();
  stand({ turns: new Map(made), moment: null });
}

/** Whether there is a pose to take back: one that was struck since the last step. */
export const canUndoPose = (): boolean => desk().poseLine.past.length > 0;
export const canRedoPose = (): boolean => desk().poseLine.future.length > 0;

/** The pose on another revision of a character: bones by their names; a clip by its place and name. */
export function carriedPose(
  { turns, moment }: StandingPose,
  before: Character,
  after: Character,
): StandingPose {
  const named = allNamed(before.nodes.map((node) => node.name));
  const find = finderOf(after.nodes.map((node) => node.name));
  const kept = [...turns].flatMap(([node, turn]): [number, BoneTurn][] => {
    const now = find(named[node]);
    return now >= 0 && after.nodes[now].kind === 'bone' ? [[now, turn]] : [];
  });
  const isSame =
    moment && (moment.from || after.clips[moment.clip]?.name === before.clips[moment.clip]?.name);
  if (kept.length === 0 && !isSame) return AT_REST;
  return { turns: new Map(kept), moment: isSame ? moment : null };
}
