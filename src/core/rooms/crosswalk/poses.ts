/** Poses of a character that a move onto other bones is held against. */
import { ancestorsOf, bonesOf, restWorld, weightOfNodes } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import {
  IDENTITY,
  composeMatrix,
  multiply,
  quatAbout,
  quatRotate,
  subtract,
  times,
} from '../../geometry/matrix';
import { type Turns, clipSeconds, clipWorld, posedWorld } from '../../motion/pose';
import { parentsFromPlaces } from '../../anatomy/flat';
import type { Crosswalk } from '../../anatomy/crosswalk';
import { meaningOf } from '../../anatomy/bones';
import { trialTurn, usualTurn } from '../../anatomy/joint-ranges';
import { looksOf } from '../../anatomy/looks';
import { type TwinPair, mirrorPlaneOf } from '../../anatomy/mirrored-pairs';
import { skeletonOf } from '../../anatomy/skeleton';
import { twinOf } from '../../anatomy/twins';
import type { MirrorPlane } from '../../geometry/mirror';
import { makeRandom } from '../../geometry/random';

/** A pose that a proof is made in. */
export interface TrialPose {
  readonly label: string;
  /** World matrices of the source, 16 per node. */
  readonly world: Float64Array;
  /** Nodes that are turned by themselves; none at rest, where all turn together, and in a clip. */
  readonly turned: readonly number[];
}

const AXES = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
] as const;

/** A joint is turned by so much where it turns as far in life, radians. */
const FARTHEST = (40 * Math.PI) / 180;

/** Bones that carry weight, and all above them. */
function busyBones(character: Character): number[] {
  const weight = weightOfNodes(character);
  const busy = new Set<number>();
  for (const b of bonesOf(character))
    if (weight[b] > 0) {
      busy.add(b);
      for (const a of ancestorsOf(character.nodes, b)) if (character.nodes[a].kind === 'bone') busy.add(a);
    }
  return [...busy].sort((a, b) => a - b);
}

/** What turns bones of a character: those of a flat hand as the chains that they lie in. */
function poser(character: Character): (turns: Turns) => Float64Array {
  const parents = parentsOfMotion(character);
  return (turns) => (parents ? turnedAsChains(character, parents, turns) : posedWorld(character, turns));
}

/**
 * Poses that put every joint to work: each bone that carries weight, or has one below that does, turned by up to 40°,
 * and no farther than it turns in life, about one of the world's axes in turn, in at most `most` poses; all of them
 * together by a little; and moments of the character's clips. Bones in `skip` stay still.
 */
export function trialPoses(
  character: Character,
  skip: ReadonlySet<number> = new Set(),
  most = 120,
): TrialPose[] {
  const bones = busyBones(character).filter((bone) => !skip.has(bone));
  const count = Math.min(most, bones.length);
  const posed = poser(character);
  const sides = sidesOf(character);
  const ownTurn = (k: number) =>
    quatAbout(AXES[k % 3], (k % 2 ? -1 : 1) * trialTurn(meaningOf(character, bones[k]), FARTHEST));
  // A bone on the other side turns as its twin does in a mirror, so that both sides can be compared.
  const turnOf = (b: number) => {
    const k = bones.indexOf(b);
    const twin = bones.indexOf(sides?.twin.get(b) ?? -1);
    return sides && twin >= 0 && twin < k ? sides.mirrored(ownTurn(twin)) : ownTurn(k);
  };
  const poses: TrialPose[] = [{ label: 'rest', world: restWorld(character.nodes), turned: [] }];
  for (let i = 0; i < count; i++) {
    // Bones far apart in the tree share a pose where there are more of them than poses.
    const turned = bones.filter((_, k) => k % count === i);
    poses.push({
      label: turned.map((b) => character.nodes[b].name).join(', '),
      world: posed(new Map(turned.map((b) => [b, turnOf(b)]))),
      turned,
    });
  }
  for (let k = 0; k < 3; k++) {
    const turns = new Map(
      bones.map((bone, i) => [bone, quatAbout(AXES[(i + k) % 3], 0.22 * Math.sin(1 + i * 2.4 + k))] as const),
    );
    poses.push({ label: `all together ${k + 1}`, world: posed(turns), turned: [] });
  }
  for (const clip of character.clips) {
    const seconds = clipSeconds(clip);
    for (const factor of [0.2, 0.5, 0.8])
      poses.push({
        label: `${clip.name || 'clip'} at ${(seconds * factor).toFixed(2)} s`,
        world: clipWorld(character, clip, seconds * factor),
        turned: [],
      });
  }
  return poses;
}

/** The other sides of a character. */
interface Sides {
  /** Nodes of the bones on the other side, by node. */
  readonly twin: ReadonlyMap<number, number>;
  /** A turn as a mirror shows it. */
  readonly mirrored: (turn: readonly number[]) => number[];
  /** The plane between both sides at rest. */
  readonly plane: MirrorPlane;
}

/** The plane between both sides of a character at rest; null where no bones stand for each other on either side. */
export const sidePlaneOf = (character: Character): MirrorPlane | null => sidesOf(character)?.plane ?? null;

/** Which bones stand for each other on either side; null where none do. */
function sidesOf(character: Character): Sides | null {
  const skeleton = skeletonOf(character);
  const { bones } = skeleton;
  const twin = new Map<number, number>();
  const pairs: TwinPair[] = [];
  bones.forEach((bone, i) => {
    const other = twinOf(skeleton, i);
    if (other < 0) return;
    twin.set(bone.node, bones[other].node);
    // Every pair counts once, from the bone that comes first.
    if (i < other) pairs.push([i, other]);
  });
  const { side } = looksOf(skeleton);
  const middle = bones.flatMap((_, i) => (side[i] === 0 ? [i] : []));
  const plane = mirrorPlaneOf(skeleton, pairs, middle);
  if (!plane) return null;
  const { normal } = plane;
  const mirrored = ([x, y, z, w0]: readonly number[]) => {
    const along = 2 * (x * normal[0] + y * normal[1] + z * normal[2]);
    return [along * normal[0] - x, along * normal[1] - y, along * normal[2] - z, w0];
  };
  return { twin, mirrored, plane };
}

/**
 * The parents (by node) that bones move with where all of them hang under one node: turning a knuckle of such a hand
 * is to take the finger along, as everything that drives it does. Null where the tree says it.
 */
export function parentsOfMotion(character: Character): Int32Array | null {
  const skeleton = skeletonOf(character);
  const found = parentsFromPlaces(skeleton);
  if (!found) return null;
  const out = Int32Array.from(character.nodes, (node) => node.parent);
  found.forEach((point, i) => {
    if (point >= 0) out[skeleton.bones[i].node] = skeleton.bones[point].node;
  });
  return out;
}

/** Nodes from the roots on in a tree given by its parents. */
export function topDownIn(parents: Int32Array): number[] {
  const children = new Map<number, number[]>();
  parents.forEach((parent, i) => children.set(parent, [...(children.get(parent) ?? []), i]));
  const order = [...(children.get(-1) ?? [])];
  for (let k = 0; k < order.length; k++) order.push(...(children.get(order[k]) ?? []));
  return order;
}

/** World matrices (16 per node) under turns, as if the bones hung in the chains that they lie in. */
function turnedAsChains(character: Character, parents: Int32Array, turns: Turns): Float64Array {
  const rest = restWorld(character.nodes);
  const motion = new Float64Array(rest.length);
  const world = new Float64Array(rest.length);
  for (const i of topDownIn(parents)) {
    const parent = parents[i];
    motion.set(parent < 0 ? IDENTITY : motion.subarray(parent * 16, parent * 16 + 16), i * 16);
    multiply(world, i * 16, motion, i * 16, rest, i * 16);
    const rotation = turns.get(i);
    if (!rotation) continue;
    const at = world.slice(i * 16 + 12, i * 16 + 15);
    const turn = composeMatrix(subtract(at, quatRotate(rotation, at)), rotation, [1, 1, 1]);
    motion.set(times(turn, motion, 0, i * 16), i * 16);
    multiply(world, i * 16, motion, i * 16, rest, i * 16);
  }
  return world;
}

/**
 * The trial poses for a crosswalk: released bones stay still, since there is nothing on the other side that
 * could move like them.
 */
export function posesFor(character: Character, crosswalk: Crosswalk): TrialPose[] {
  return trialPoses(character, stillBones(character, crosswalk));
}

/**
 * Bones that stay still: what is released has nothing on the other side that could move like it, and a root that
 * carries nothing and comes along moves all alike.
 */
const stillBones = (character: Character, crosswalk: Crosswalk): ReadonlySet<number> => {
  const { bones } = skeletonOf(character);
  const isStill = ({ kind, source }: Crosswalk[number]) => {
    const { parent, weight } = bones[source];
    return kind === 'release' || (kind === 'keep' && parent < 0 && weight === 0);
  };
  return new Set(crosswalk.filter(isStill).map((rule) => bones[rule.source].node));
};

/** Parts of several bones that bend as one. */
const AS_ONE = ['spine', 'neck', 'tail'];

/**
 * Poses in which bones turn by themselves, those of one pose far apart in the tree; in which all turn; of
 * bends alone.
 */
const SINGLE = 10;
const COMBINED = 48;
const BENT = 8;

/** How much of its range a joint uses in the combinations, one after the other. */
const WHOLE_RANGE = [1] as const;

/**
 * The same where the rest shape is solved as well: most of what a game plays stays near the stance, and a place that is
 * right for the ends of all ranges alone is not the best there.
 */
export const NEAR_AND_FAR = [1, 0.4] as const;

/** Moments of every clip, and how many clips at most. */
const MOMENTS = 6;
const CLIPS = 6;

/**
 * Motions that weights are solved over, as world matrices of the source, 16 per node: joints by themselves to the end
 * of their range; combinations of all, in which spine and neck bend as one, as bodies do; moments of the
 * clips. Always the same for one character.
 * @param reaches how much of its range a joint uses in the combinations, one after the other; all of it by default
 */
export function exampleWorlds(
  character: Character,
  crosswalk: Crosswalk,
  reaches: readonly number[] = WHOLE_RANGE,
): Float64Array[] {
  const still = stillBones(character, crosswalk);
  const joints = jointsInLife(character).filter((joint) => !still.has(joint.node));
  const posed = poser(character);
  const random = makeRandom(20_011);
  const single = joints.filter((joint) => !AS_ONE.includes(joint.part));
  const sides = sidesOf(character);
  const worlds: Float64Array[] = [];
  /** A pose, and the same as a mirror shows it: what is learned of one side is learned of the other. */
  const addBoth = (turns: Turns) => {
    worlds.push(posed(turns));
    if (!sides) return;
    const other = [...turns].map(([b, turn]) => [sides.twin.get(b) ?? b, sides.mirrored(turn)] as const);
    worlds.push(posed(new Map(other)));
  };
  const each = sides ? 2 : 1;
  for (let k = 0; k < SINGLE / each; k++) {
    const turned = single.filter((_j, i) => i % (SINGLE / each) === k);
    addBoth(new Map(turned.map((j) => [j.node, turnBy(random, j.range, 1)] as const)));
  }
  for (let k = 0; k < (COMBINED + BENT) / each; k++) {
    const bends = new Map(AS_ONE.map((part) => [part, turnBy(random, usualTurn({ part, kind: 'bone' }))]));
    const turns = new Map<number, readonly number[]>();
    for (const { node, part, range } of joints) {
      const bend = bends.get(part);
      if (bend) turns.set(node, bend);
      else if (k < COMBINED / each && range > 0)
        turns.set(node, turnBy(random, range * reaches[k % reaches.length]));
    }
    addBoth(turns);
  }
  for (const clip of character.clips.slice(0, CLIPS))
    for (let k = 0; k < MOMENTS; k++)
      worlds.push(clipWorld(character, clip, (clipSeconds(clip) * (k + 0.5)) / MOMENTS));
  return worlds;
}

/** Bones that move points, with what names and shape say they are, and how far such a joint turns, radians. */
function jointsInLife(character: Character): { node: number; part: string; range: number }[] {
  const skeleton = skeletonOf(character);
  const { readings } = looksOf(skeleton);
  const known = new Map(
    skeleton.bones.map((bone, i) => {
      const { part, kind } = readings[i];
      const isBone = kind === 'bone' && part !== '';
      return [bone.node, { part: isBone ? part : '', range: usualTurn({ part, kind }) }];
    }),
  );
  const unknown = { part: '', range: usualTurn({ part: '', kind: '' }) };
  return busyBones(character).map((node) => ({ node, ...(known.get(node) ?? unknown) }));
}

/** A turn about any axis, by up to `most`, or by at least `least` of it. */
export function turnBy(random: () => number, most: number, least = 0): number[] {
  const [x, y, z] = [random() - 0.5, random() - 0.5, random() - 0.5];
  const size = Math.hypot(x, y, z) || 1;
  return quatAbout([x / size, y / size, z / size], most * (least + (1 - least) * random()));
}
