/** Bones folded away: what hangs on them hangs on the next bone above, what they carried is carried by it. */
import { parentBone, restLocals } from '../character/hierarchy';
import { withWeightGiven, withoutJoints } from '../character/give-weight';
import { type Channel, type Character, type Clip, replaceAt } from '../character/model';
import { channelThrough, withLocal } from '../character/rehang';
import { type Removed, withoutNodes } from '../character/remove';
import { IDENTITY, decompose, times } from '../geometry/matrix';
import { clipLocals } from './pose';

/** Bones that cannot be folded away; the message says which and what to do. */
export class FoldError extends Error {}

/**
 * The character without some bones. Their weight goes to the nearest bone above each that stays, and what hangs on them
 * moves as it did in every clip: its keys take up the motion of what it hung on. Nothing moves at rest.
 * Throws {@link FoldError}.
 */
export function withBonesFolded(character: Character, bones: ReadonlySet<number>): Removed {
  const { nodes } = character;
  const heirs = new Map([...bones].map((bone) => [bone, heirOf(character, bone, bones)] as const));
  const given = withoutJoints(withWeightGiven(character, heirs), bones);
  const orphans = nodes.flatMap(({ parent }, i) => (bones.has(parent) && !bones.has(i) ? [i] : []));
  const chains = new Map(orphans.map((node) => [node, chainAbove(character, node, bones)] as const));
  const locals = restLocals(nodes);
  const changed = new Map(
    [...chains].map(([node, chain]) => {
      const { parent } = nodes[chain[0]];
      return [node, { ...withLocal(nodes[node], product(locals, [...chain, node])), parent }] as const;
    }),
  );
  const clips = character.clips.map((clip) => clipWithout(character, clip, chains));
  return withoutNodes({ ...given, nodes: replaceAt(given.nodes, changed), clips }, bones);
}

function heirOf(character: Character, bone: number, bones: ReadonlySet<number>): number {
  const node = character.nodes[bone];
  if (node.mesh >= 0 || node.camera !== undefined)
    throw new FoldError(
      `“${node.name}” is a bone that shows something itself; hang that on it as a node of its own first.`,
    );
  let heir = parentBone(character.nodes, bone);
  while (bones.has(heir)) heir = parentBone(character.nodes, heir);
  if (heir < 0)
    throw new FoldError(
      `“${node.name}” has no bone above it that stays and could take its weight; leave out the bones at the top.`,
    );
  return heir;
}

/** The folded bones that a node hangs on, from the top down. */
function chainAbove({ nodes }: Character, node: number, bones: ReadonlySet<number>): number[] {
  const chain: number[] = [];
  for (let above = nodes[node].parent; bones.has(above); above = nodes[above].parent) chain.unshift(above);
  return chain;
}

const product = (locals: Float64Array, chain: readonly number[]): Float64Array =>
  chain.reduce<Float64Array>(
    (matrix, node) => times(matrix, locals, 0, node * 16),
    Float64Array.from(IDENTITY),
  );

/** A clip in which what hung on folded bones moves as it did. */
function clipWithout(character: Character, clip: Clip, chains: ReadonlyMap<number, readonly number[]>): Clip {
  const moving = new Set(clip.channels.filter(({ path }) => path !== 'weights').map(({ node }) => node));
  const concerned = [...chains].filter(([node, chain]) => [node, ...chain].some((i) => moving.has(i)));
  if (concerned.length === 0) return clip;
  const still = restLocals(character.nodes);
  const gone = new Set(concerned.map(([node]) => node));
  const kept = clip.channels.filter(({ node, path }) => path === 'weights' || !gone.has(node));
  const baked = concerned.flatMap(([node, chain]) => {
    const through = product(still, chain);
    if (!chain.some((i) => moving.has(i)) && isEven(through))
      return clip.channels
        .filter((channel) => channel.node === node && channel.path !== 'weights')
        .map((channel) => channelThrough(channel, through));
    return bakedChannels(character, clip, [...chain, node]);
  });
  return { ...clip, channels: [...kept, ...baked] };
}

function isEven(matrix: Float64Array): boolean {
  const { scale, shear } = decompose(matrix);
  return shear < 1e-7 && Math.max(...scale) - Math.min(...scale) < 1e-7 * Math.max(...scale);
}

/** Between two keys of several that turn at once the motion is no straight way: so many keys are set in their place. */
const BETWEEN = 4;

/** The last of a chain with the motion of the whole chain, key by key. */
function bakedChannels(character: Character, clip: Clip, chain: readonly number[]): Channel[] {
  const own = clip.channels.filter(({ node, path }) => chain.includes(node) && path !== 'weights');
  const steps = own.every(({ interpolation }) => interpolation === 'STEP');
  const keys = [...new Set(own.flatMap(({ times }) => [...times]))].sort((a, b) => a - b);
  const single = own.length === 1 && own[0].interpolation === 'LINEAR';
  const at = Float32Array.from(steps || single ? keys : withBetween(keys));
  const node = chain[chain.length - 1];
  const rest = decompose(product(restLocals(character.nodes), chain));
  const poses = [...at].map((time) => decompose(product(clipLocals(character, clip, time), chain)));
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
