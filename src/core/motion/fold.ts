/** Bones folded away: what hangs on them hangs on the next bone above, what they carried is carried by it. */
import { ancestorsOf, parentBone, restWorld } from '../character/hierarchy';
import { withWeightGiven, withoutJoints } from '../character/give-weight';
import { type Channel, type Character, type Clip, replaceAt } from '../character/model';
import { channelThrough, withLocal } from '../character/rehang';
import { type Removed, withoutNodes } from '../character/remove';
import { decompose, inverseOr, scalesEvenly, times } from '../geometry/matrix';
import { clipWorld } from './pose';

/** Bones that cannot be folded away; the message says which and what to do. */
export class FoldError extends Error {}

/**
 * The character without some bones. Their weight goes to the nearest bone above each that stays, or to one that is named,
 * and what hangs on them hangs there and moves as it did in every clip: its keys take up the motion of what it hung on.
 * Nothing moves at rest. Throws {@link FoldError}.
 * @param into the bone that takes over, −1 for the nearest above
 */
export function withBonesFolded(character: Character, bones: ReadonlySet<number>, into = -1): Removed {
  const { nodes } = character;
  refuseBelow(character, bones, into);
  const heirs = new Map([...bones].map((bone) => [bone, heirOf(character, bone, bones, into)] as const));
  const given = withoutJoints(withWeightGiven(character, heirs), bones);
  const orphans = nodes.flatMap(({ parent }, i): Orphan[] => {
    if (!bones.has(parent) || bones.has(i)) return [];
    return [wayOf(character, i, into >= 0 ? into : nodes[topOf(character, i, bones)].parent)];
  });
  const world = restWorld(nodes);
  const changed = new Map(
    orphans.map((orphan) => {
      const { node, under } = orphan;
      return [node, { ...withLocal(nodes[node], relative(world, under, node)), parent: under }] as const;
    }),
  );
  const clips = character.clips.map((clip) => clipWithout(character, clip, orphans));
  return withoutNodes({ ...given, nodes: replaceAt(given.nodes, changed), clips }, bones);
}

function refuseBelow({ nodes }: Character, bones: ReadonlySet<number>, into: number): void {
  if (into < 0) return;
  const ofInto = new Set([into, ...ancestorsOf(nodes, into)]);
  const above = [...bones].find((bone) => ofInto.has(bone));
  if (above !== undefined)
    throw new FoldError(
      `“${nodes[into].name}” is one of the bones that go, or hangs on “${nodes[above].name}”, which goes; fold into a bone that stays where it is.`,
    );
}

function heirOf(character: Character, bone: number, bones: ReadonlySet<number>, into: number): number {
  const node = character.nodes[bone];
  if (node.mesh >= 0 || node.camera !== undefined)
    throw new FoldError(
      `“${node.name}” is a bone that shows something itself; hang that on it as a node of its own first.`,
    );
  if (into >= 0) return into;
  let heir = parentBone(character.nodes, bone);
  while (bones.has(heir)) heir = parentBone(character.nodes, heir);
  if (heir < 0)
    throw new FoldError(
      `“${node.name}” has no bone above it that stays and could take its weight; leave out the bones at the top.`,
    );
  return heir;
}

/** The topmost of the folded bones that a node hangs on. */
function topOf({ nodes }: Character, node: number, bones: ReadonlySet<number>): number {
  let top = node;
  while (bones.has(nodes[top].parent)) top = nodes[top].parent;
  return top;
}

/** A node that hung on a folded bone. */
interface Orphan {
  readonly node: number;
  /** What it hangs under now. */
  readonly under: number;
  /** Nodes between the two in the tree as it was, whose motion it takes up; itself not. */
  readonly between: readonly number[];
}

function wayOf({ nodes }: Character, node: number, under: number): Orphan {
  const [mine, theirs] = [ancestorsOf(nodes, node), under < 0 ? [] : [under, ...ancestorsOf(nodes, under)]];
  const common = new Set(mine.filter((i) => theirs.includes(i)));
  return { node, under, between: [...mine, ...theirs].filter((i) => !common.has(i)) };
}

/** A node in the space of what it hangs under, −1 for the world. */
const relative = (world: Float64Array, under: number, node: number): Float64Array => {
  const own = world.slice(node * 16, node * 16 + 16);
  return under < 0 ? own : times(inverseOr(world, under * 16), own);
};

/** A clip in which what hung on folded bones moves as it did. */
function clipWithout(character: Character, clip: Clip, orphans: readonly Orphan[]): Clip {
  const moving = new Set(clip.channels.filter(({ path }) => path !== 'weights').map(({ node }) => node));
  const concerned = orphans.filter(({ node, between }) => [node, ...between].some((i) => moving.has(i)));
  if (concerned.length === 0) return clip;
  const still = restWorld(character.nodes);
  const gone = new Set(concerned.map(({ node }) => node));
  const kept = clip.channels.filter(({ node, path }) => path === 'weights' || !gone.has(node));
  const baked = concerned.flatMap((orphan) => {
    const { node, under, between } = orphan;
    const through = relative(still, under, character.nodes[node].parent);
    if (!between.some((i) => moving.has(i)) && scalesEvenly(through, 1e-7))
      return clip.channels
        .filter((channel) => channel.node === node && channel.path !== 'weights')
        .map((channel) => channelThrough(channel, through));
    return bakedChannels(character, clip, orphan);
  });
  return { ...clip, channels: [...kept, ...baked] };
}

/** Between two keys of several that turn at once the motion is no straight way: so many keys are set in their place. */
const BETWEEN = 4;

/** A node with the motion of all that it hung on, key by key. */
function bakedChannels(character: Character, clip: Clip, { node, under, between }: Orphan): Channel[] {
  const way = new Set([node, ...between]);
  const own = clip.channels.filter((channel) => way.has(channel.node) && channel.path !== 'weights');
  const steps = own.every(({ interpolation }) => interpolation === 'STEP');
  const keys = [...new Set(own.flatMap(({ times }) => [...times]))].sort((a, b) => a - b);
  const single = own.length === 1 && own[0].interpolation === 'LINEAR';
  const at = Float32Array.from(steps || single ? keys : withBetween(keys));
  const rest = decompose(relative(restWorld(character.nodes), under, node));
  const poses = [...at].map((time) => decompose(relative(clipWorld(character, clip, time), under, node)));
  const interpolation = steps ? 'STEP' : 'LINEAR';
  const channel = (path: 'translation' | 'rotation' | 'scale'): Channel => ({
    node,
    path,
    interpolation,
    times: at,
    values: Float32Array.from(poses.flatMap((pose) => [...pose[path]])),
  });
  const moves = (path: 'translation' | 'scale', within: number) =>
    poses.some((pose) => pose[path].some((x, axis) => Math.abs(x - rest[path][axis]) > within));
  return [
    channel('rotation'),
    ...(moves('translation', 1e-7) ? [channel('translation')] : []),
    ...(moves('scale', 1e-6) ? [channel('scale')] : []),
  ];
}

const withBetween = (keys: readonly number[]): number[] =>
  keys.flatMap((key, i) => {
    const next = keys[i + 1];
    if (next === undefined) return [key];
    return Array.from({ length: BETWEEN }, (_, k) => key + ((next - key) * k) / BETWEEN);
  });
