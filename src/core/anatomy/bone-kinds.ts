/** What each bone of a character is for, with the reason: said by hand, or read off its name, its weight and the tree. */
import type { BoneKind } from '../character/bone-kinds';
import { parentBone, restPlace } from '../character/hierarchy';
import { placedMeshes } from '../character/measure';
import type { Character } from '../character/model';
import { type Vec3, length, subtract } from '../geometry/matrix';
import { skeletonReading } from './looks';
import { closesChain } from './reading/closing';
import { wordsOf } from './reading/tokens';
import { type Skeleton, skeletonOf } from './skeleton';

export interface BoneKindReading {
  readonly kind: BoneKind;
  /** Why, to be read after the kind. */
  readonly why: string;
  readonly isByHand: boolean;
}

const known = new WeakMap<Character, ReadonlyMap<number, BoneKindReading>>();

/** The kinds of all bones, by node; made once. */
export function boneKindsOf(character: Character): ReadonlyMap<number, BoneKindReading> {
  let kinds = known.get(character);
  if (!kinds) known.set(character, (kinds = readKinds(character)));
  return kinds;
}

function readKinds(character: Character): Map<number, BoneKindReading> {
  const skeleton = skeletonOf(character);
  const { readings, speaks } = skeletonReading(skeleton);
  const { bones } = skeleton;
  const hasBelow = new Uint8Array(bones.length);
  const carriersBelow = new Int32Array(bones.length);
  // Parents come before children.
  for (let i = bones.length - 1; i >= 0; i--) {
    const { parent, weight } = bones[i];
    if (parent < 0) continue;
    hasBelow[parent] = 1;
    carriersBelow[parent] += carriersBelow[i] + Number(weight > 0);
  }
  const free = freeChains(skeleton, readings, speaks);
  const closes = closingBones(skeleton);
  const isEnd = (i: number) => !hasBelow[i] && (closes[i] || isCalledEnd(bones[i].name));
  const tips = bones.flatMap(({ node, weight }, i) => (isEnd(i) && weight > 0 ? [node] : []));
  const beyond = tips.length > 0 ? fleshBeyond(character, tips) : null;
  // A skeleton by itself: nothing carries anything.
  const isBare = bones.every(({ weight, holds }) => !(weight > 0) && !holds);
  const kindOf = (i: number): [BoneKind, string] => {
    const { node, weight, holds } = bones[i];
    const { kind: role } = readings[i];
    if (isEnd(i) && !((beyond?.get(node) ?? 0) > BENDS))
      return ['end', 'it closes its chain, and no flesh lies beyond it'];
    if (role === 'control') return ['control', 'its name says so'];
    if (weight > 0 && role === 'cloth')
      return ['cloth', 'it carries weight, and is called after cloth or hair'];
    if (weight > 0 && free[i])
      return ['cloth', 'it carries weight, and its chain swings freely off the body'];
    if (weight > 0) return ['deforming', 'it carries weight'];
    if (holds) return ['deforming', 'a mesh hangs on it'];
    if (role === 'attach') return ['helper', 'things are held by it'];
    if (isBare && role !== 'helper')
      return [role === 'cloth' ? 'cloth' : 'deforming', 'no mesh tells what it carries'];
    if (!hasBelow[i]) return ['end', 'nothing hangs on it, and it carries nothing'];
    const count = carriersBelow[i];
    return [
      'helper',
      count > 0 ? `it carries nothing, and ${count} below it do` : 'nothing at or below it carries anything',
    ];
  };
  return new Map(
    bones.map(({ node }, i): [number, BoneKindReading] => {
      const said = character.nodes[node].boneKind;
      if (said) return [node, { kind: said, why: 'said by hand', isByHand: true }];
      const [kind, why] = kindOf(i);
      return [node, { kind, why, isByHand: false }];
    }),
  );
}

/** What ends are called in English. In other languages the word for it is often that of a part, too (“fin”). */
const ENGLISH_ENDS = new Set(['end', 'tip', 'null', 'leaf', 'effector', 'endeffector', 'terminal', 'site']);

/** Whether a name says an end, whatever else it says: the end of a coat is no cloth. */
const isCalledEnd = (name: string): boolean => wordsOf(name).some((word) => ENGLISH_ENDS.has(word));

/** A chain of so many bones that are no part of the body swings freely. */
const FREE = 3;

/** Bones in chains that are no part of the body, in a skeleton whose names tell its parts. */
function freeChains(
  { bones }: Skeleton,
  readings: readonly { readonly part: string; readonly kind: string }[],
  speaks: boolean,
): Uint8Array {
  const out = new Uint8Array(bones.length);
  if (!speaks) return out;
  const isFree = (i: number) => readings[i].part === '' && readings[i].kind !== 'twist';
  const run = new Int32Array(bones.length);
  bones.forEach(({ parent }, i) => {
    if (isFree(i) && parent >= 0) run[i] = run[parent] + 1;
  });
  // Those above count with the longest chain that goes on below.
  for (let i = bones.length - 1; i >= 0; i--) {
    const { parent } = bones[i];
    if (run[i] > 0 && parent >= 0 && run[parent] > 0) run[parent] = Math.max(run[parent], run[i]);
    out[i] = Number(run[i] >= FREE);
  }
  return out;
}

/** Bones that close their chains by a word that the skeleton itself uses for that. */
const closingBones = ({ bones }: Skeleton): readonly boolean[] =>
  closesChain(
    bones.map(({ name }) => wordsOf(name)),
    bones.map(({ parent }) => parent),
  );

/** Flesh so far beyond a joint, as a share of the bone before it, is a bone's own and bends with it. */
const BENDS = 0.15;

/**
 * How far the flesh that a bone carries lies beyond its joint, along the way from the joint above and as a share of
 * it: the mean over its weights. For bones without a bone above, and without flesh, nothing.
 */
function fleshBeyond(character: Character, bones: readonly number[]): Map<number, number> {
  const { nodes } = character;
  const places = new Map(bones.map((bone) => [bone, restPlace(nodes, bone) as Vec3]));
  const sums = new Map(bones.map((bone) => [bone, { along: 0, weight: 0 }]));
  const ways = new Map(
    bones.flatMap((bone): [number, Vec3][] => {
      const above = parentBone(nodes, bone);
      return above < 0 ? [] : [[bone, subtract(places.get(bone) as Vec3, restPlace(nodes, above))]];
    }),
  );
  for (const { mesh, skin, points } of placedMeshes(character)) {
    const influences = mesh.influences;
    if (!skin || !influences) continue;
    const boneOfJoint = skin.joints.map((j) => (ways.has(j) ? j : -1));
    for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++)
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
        const bone = boneOfJoint[influences.joint[k]];
        if (bone < 0 || !(influences.weight[k] > 0)) continue;
        const way = ways.get(bone) as Vec3;
        const at = places.get(bone) as Vec3;
        const sum = sums.get(bone) as { along: number; weight: number };
        const along =
          (points[vertex * 3] - at[0]) * way[0] +
          (points[vertex * 3 + 1] - at[1]) * way[1] +
          (points[vertex * 3 + 2] - at[2]) * way[2];
        sum.along += influences.weight[k] * along;
        sum.weight += influences.weight[k];
      }
  }
  return new Map(
    [...ways].map(([b, way]) => {
      const { along, weight } = sums.get(b) as { along: number; weight: number };
      const square = length(way) ** 2;
      return [b, weight > 0 && square > 0 ? along / weight / square : 0];
    }),
  );
}
