/**
 * One side made the mirror image of the other, bone by bone: which bone is to be which, where it belongs, what it is called,
 * how its axes lie.
 */
import {
  type MirrorRule,
  mirrorPlaneOf,
  mirrorRuleOf,
  mirroredRotation,
  type TwinPair,
} from '../../anatomy/mirrored-pairs';
import { withOtherSide } from '../../anatomy/side-in-name';
import { type Skeleton, type SkeletonBone, skeletonOf } from '../../anatomy/skeleton';
import { childrenOf, restPlace } from '../../character/hierarchy';
import { type Character, node } from '../../character/model';
import { withJointsAt } from '../../character/place-joints';
import { hungUnder, rehung } from '../../character/rehang';
import { whyNotTurned, withTurnedAxes } from '../../character/turn-axes';
import type { RemedyCall } from '../../contracts/finding';
import { RemedyError } from '../../contracts/remedy';
import { type MirrorPlane, mirroredPlace } from '../../geometry/mirror';
import { type Quat, type Vec3, distance, quatConjugate, quatMultiply } from '../../geometry/matrix';
import { judgedPairs } from './pairs';
import { renamed } from './renaming';
import { treeBonesOf } from './tree/bones';

/** A bone of the model side, and what its mirror image is to be. */
export interface MirroredBone {
  readonly model: number;
  /** The node that becomes it; −1 for a new bone. */
  readonly node: number;
  readonly name: string;
  readonly place: Vec3;
  readonly rotation: Quat;
  /** What it is to hang under: a node, or the mirror image of another model bone. */
  readonly parent: { readonly node: number } | { readonly model: number };
}

/** The plane between the sides where no pair tells it: that in which glTF figures stand. */
const MIDDLE: MirrorPlane = { normal: [1, 0, 0], offset: 0 };

/** Turned or standing by less than this is as it should be: radians by two, and metres. */
const LEAST = 1e-6;

/** A joint so near to the plane stands in the middle, metres. */
const NEAR = 1e-3;

/**
 * What the branch under a bone is to be on the other side.
 * @param onto the branch that becomes it; −1 where bones of those names do, and where there are none new ones
 * @throws RemedyError where a bone has no side in its name, or nothing to hang under on the other side
 */
export function mirroredBranch(character: Character, top: number, onto: number): MirroredBone[] {
  const { nodes } = character;
  const skeleton = skeletonOf(character);
  const at = new Map(skeleton.bones.map((bone, i) => [bone.node, i]));
  const { plane, ruleOf } = rulesOf(character, skeleton);
  const boneOf = (node: number): SkeletonBone => skeleton.bones[at.get(node) as number];
  // What is to become the other side may still hang on this one.
  const branch = bonesUnder(character, top, onto);
  if (onto >= 0 && bonesUnder(character, onto).includes(top))
    throw new RemedyError('A branch cannot become the mirror image of one that it hangs on; choose another.');
  const placeOf = (model: number) => mirroredPlace(plane, boneOf(model).place);
  const given =
    onto >= 0
      ? counterparts(character, top, onto, (model, other) => distance(placeOf(model), boneOf(other).place))
      : new Map<number, number>();
  const taken = new Set(given.values());
  const byName = new Map(
    nodes.flatMap(({ name, kind }, i) => (kind === 'bone' && !taken.has(i) ? [[name, i] as const] : [])),
  );
  const isModel = new Set(branch);
  return branch.map((model): MirroredBone => {
    const bone = boneOf(model);
    const name = withOtherSide(bone.name);
    if (name === null)
      throw new RemedyError(
        `“${bone.name}” says no side that could be exchanged; give it a side in its name first.`,
      );
    const found = given.get(model) ?? byName.get(name) ?? -1;
    if (isModel.has(found))
      throw new RemedyError(`“${bone.name}” and “${name}” are in one branch; choose a branch of one side.`);
    return {
      model,
      node: found,
      name,
      place: placeOf(model),
      rotation: mirroredRotation(plane, ruleOf(model), bone.rotation),
      parent:
        model === top ? { node: parentOfTop(character, top, plane, boneOf) } : { model: nodes[model].parent },
    };
  });
}

/** A bone this near to where a mirror image belongs was meant to be it, as a share of how far the skeleton reaches. */
const MEANT = 0.01;

/**
 * Of bones that were mirrored by half, the topmost ones with what they are to be the mirror image of: a bone that lacks a
 * twin as they do, and stands where theirs belongs. Those that cannot be mirrored are left out.
 */
export function halfMirrored(character: Character, bones: readonly number[]): RemedyCall[] {
  const among = new Set(bones);
  const alone = treeBonesOf(character).filter(({ node, twin }) => twin < 0 && !among.has(node));
  const tops = bones.filter((bone) => !among.has(character.nodes[bone].parent));
  if (tops.length === 0 || alone.length === 0) return [];
  const skeleton = skeletonOf(character);
  const { plane } = rulesOf(character, skeleton);
  const near = MEANT * reachOf(skeleton);
  return tops.flatMap((onto) => {
    const place = mirroredPlace(plane, restPlace(character.nodes, onto));
    const apart = ({ node }: { node: number }) => distance(restPlace(character.nodes, node), place);
    const model = alone.reduce((best, candidate) => (apart(candidate) < apart(best) ? candidate : best));
    if (apart(model) > near || whyNotMirrored(character, model.node, onto) !== null) return [];
    return [{ id: 'mirror-branch', params: { bone: model.node, onto } }];
  });
}

/** The longest side of the box about all joints, metres. */
function reachOf({ bones }: Skeleton): number {
  const sideOf = (k: number) => {
    const all = bones.map(({ place }) => place[k]);
    return Math.max(...all) - Math.min(...all);
  };
  return Math.max(sideOf(0), sideOf(1), sideOf(2));
}

function whyNotMirrored(character: Character, bone: number, onto: number): string | null {
  try {
    mirroredBranch(character, bone, onto);
    return null;
  } catch (error) {
    if (error instanceof RemedyError) return error.message;
    throw error;
  }
}

/** The plane between the sides of a character. */
export const planeBetweenSides = (character: Character): MirrorPlane =>
  rulesOf(character, skeletonOf(character)).plane;

/** The bone that a bone's name has on the other side; −1 for none. */
export const twinOfBone = (character: Character, bone: number): number =>
  twinByName(character, character.nodes[bone].name);

/** The plane of a character, and the rule that a bone’s mirror image follows. */
function rulesOf(character: Character, skeleton: Skeleton) {
  const judged = judgedPairs(character);
  const pairs = pairsByName(skeleton);
  const plane = judged?.plane ?? mirrorPlaneOf(skeleton, pairs, middleByName(skeleton)) ?? MIDDLE;
  const general = mirrorRuleOf(skeleton, plane, pairs);
  const known = new Map<number, MirrorRule | null>(
    (judged?.pairs ?? []).flatMap(({ left, right, rule }) => [
      [left.node, rule] as const,
      [right.node, rule] as const,
    ]),
  );
  // Where the limb tells nothing, what it hangs on does, then the skeleton; else turns can be taken over as they are.
  const ruleOf = (model: number): MirrorRule => {
    for (let up = model; up >= 0; up = character.nodes[up].parent) {
      const rule = known.get(up);
      if (rule) return rule;
    }
    return general ?? 'same-turn';
  };
  return { plane, ruleOf };
}

/** Pairs by their plain names: where one side is missing the names together may not tell sides. */
function pairsByName({ bones }: Skeleton): TwinPair[] {
  const at = new Map(bones.map(({ name }, i) => [name, i]));
  return bones.flatMap(({ name }, i): TwinPair[] => {
    const twin = at.get(withOtherSide(name) ?? '');
    return twin !== undefined && i < twin ? [[i, twin]] : [];
  });
}

const middleByName = ({ bones }: Skeleton): number[] =>
  bones.flatMap(({ name }, i) => (withOtherSide(name) === null ? [i] : []));

function bonesUnder({ nodes }: Character, top: number, without = -1): number[] {
  const children = childrenOf(nodes);
  const out = [top];
  for (let k = 0; k < out.length; k++)
    out.push(...children[out[k]].filter((child) => nodes[child].kind === 'bone' && child !== without));
  return out;
}

function twinByName({ nodes }: Character, name: string): number {
  const other = withOtherSide(name);
  return other === null
    ? -1
    : nodes.findIndex((candidate) => candidate.kind === 'bone' && candidate.name === other);
}

function parentOfTop(
  character: Character,
  top: number,
  plane: MirrorPlane,
  boneOf: (node: number) => SkeletonBone,
): number {
  const { parent } = character.nodes[top];
  if (parent < 0 || character.nodes[parent].kind !== 'bone') return parent;
  const bone = boneOf(parent);
  const twin = twinByName(character, bone.name);
  if (twin >= 0) return twin;
  if (distance(bone.place, mirroredPlace(plane, bone.place)) < 2 * NEAR || withOtherSide(bone.name) === null)
    return parent;
  throw new RemedyError(
    `“${bone.name}”, which it hangs under, has no twin on the other side; begin with the branch of “${bone.name}”.`,
  );
}

/** Bone by bone, which of another branch lies nearest to the mirror image, from the tops outwards. */
function counterparts(
  { nodes }: Character,
  top: number,
  onto: number,
  apart: (model: number, other: number) => number,
): Map<number, number> {
  const children = childrenOf(nodes).map((list) => list.filter((child) => nodes[child].kind === 'bone'));
  const out = new Map([[top, onto]]);
  for (const [model, other] of out) {
    const free = new Set(children[other]);
    const ways = children[model]
      .flatMap((child) => [...free].map((candidate) => ({ child, candidate, off: apart(child, candidate) })))
      .sort((a, b) => a.off - b.off);
    for (const { child, candidate } of ways)
      if (!out.has(child) && free.delete(candidate)) out.set(child, candidate);
  }
  return out;
}

/** The character with that branch: names, parents, axes and places as they are to be, new bones where there were none. */
export function withMirroredBranch(character: Character, wanted: readonly MirroredBone[]): Character {
  const added = withNewBones(character, wanted);
  const nodeOf = new Map(wanted.map(({ model }, i) => [model, added.nodes[i]]));
  const parentOf = ({ parent }: MirroredBone): number =>
    'node' in parent ? parent.node : (nodeOf.get(parent.model) as number);
  let out = added.character;
  wanted.forEach((bone, i) => {
    const own = added.nodes[i];
    if (out.nodes[own].parent !== parentOf(bone)) out = rehung(out, own, parentOf(bone));
  });
  const bones = new Map(skeletonOf(out).bones.map((bone) => [bone.node, bone]));
  const turns = new Map<number, Quat>();
  wanted.forEach(({ rotation }, i) => {
    const own = added.nodes[i];
    const turn = quatMultiply(quatConjugate((bones.get(own) as SkeletonBone).rotation), rotation);
    if (Math.hypot(turn[0], turn[1], turn[2]) > LEAST) turns.set(own, turn);
  });
  const why = whyNotTurned(out, turns.keys());
  if (why) throw new RemedyError(why);
  if (turns.size > 0) out = withTurnedAxes(out, turns);
  const places = new Map(
    wanted.flatMap(({ place }, i) =>
      distance(place, (bones.get(added.nodes[i]) as SkeletonBone).place) > LEAST
        ? [[added.nodes[i], place] as const]
        : [],
    ),
  );
  if (places.size > 0) out = withJointsAt(out, places);
  const names = new Map(
    wanted.flatMap(({ name }, i) =>
      out.nodes[added.nodes[i]].name === name ? [] : [[added.nodes[i], name] as const],
    ),
  );
  return names.size > 0 ? renamed(out, names) : out;
}

/** The character with a bone for every one that is new, at the end of its nodes; and the node of every wanted bone. */
function withNewBones(
  character: Character,
  wanted: readonly MirroredBone[],
): { character: Character; nodes: readonly number[] } {
  let next = character.nodes.length;
  const nodes = wanted.map((bone) => (bone.node >= 0 ? bone.node : next++));
  if (next === character.nodes.length) return { character, nodes };
  const at = new Map(wanted.map(({ model }, i) => [model, nodes[i]]));
  const made = wanted.flatMap((bone, i) => {
    if (bone.node >= 0) return [];
    const { name, place, rotation, parent } = bone;
    const under = 'node' in parent ? parent.node : (at.get(parent.model) as number);
    // Where it is to stand in the world, first without a parent.
    return [
      {
        at: nodes[i],
        under,
        node: node({ name, kind: 'bone', translation: [...place], rotation: [...rotation] }),
      },
    ];
  });
  let out: Character = { ...character, nodes: [...character.nodes, ...made.map((one) => one.node)] };
  for (const { at: own, under } of made) {
    const list = [...out.nodes];
    list[own] = hungUnder(out, own, under);
    out = { ...out, nodes: list };
  }
  return { character: out, nodes };
}
