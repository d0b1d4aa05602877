/** The pairs of a character: the plane between them, what each limb’s axes follow, and who is off. */
import {
  type MirrorRule,
  type PairDeviation,
  type RuledPair,
  type TwinPair,
  mirrorPlaneOf,
  mirrorRuleOf,
  pairDeviation,
} from '../../anatomy/mirrored-pairs';
import { type Skeleton, skeletonOf } from '../../anatomy/skeleton';
import type { Character } from '../../character/model';
import type { MirrorPlane } from '../../geometry/mirror';
import { type TreeBone, treeBonesOf } from './tree/bones';

/** A pair of twins of the body: left and right, with the rule that its limb follows. */
export interface JudgedPair {
  readonly left: TreeBone;
  readonly right: TreeBone;
  /** By index in the skeleton. */
  readonly pair: TwinPair;
  /** Null where most pairs of its limb follow none. */
  readonly rule: MirrorRule | null;
  /** From its limb’s rule; of one without from none, the nearest to it. */
  readonly deviation: PairDeviation;
}

export interface JudgedPairs {
  readonly skeleton: Skeleton;
  readonly plane: MirrorPlane;
  readonly pairs: readonly JudgedPair[];
}

/** So many pairs of a limb tell by themselves how its axes are mirrored. */
const ENOUGH = 3;

const known = new WeakMap<Character, JudgedPairs | null>();

/** The pairs of a character that its names tell; null where there are none. Made once. */
export function judgedPairs(character: Character): JudgedPairs | null {
  let judged = known.get(character);
  if (judged === undefined) known.set(character, (judged = judge(character)));
  return judged;
}

function judge(character: Character): JudgedPairs | null {
  const skeleton = skeletonOf(character);
  const bones = treeBonesOf(character);
  if (!bones.some(({ isSideNamed }) => isSideNamed)) return null;
  const at = new Map(bones.map((bone, i) => [bone.node, i]));
  const pairs = bones.flatMap((bone, i): TwinPair[] => {
    const twin = at.get(bone.twin);
    // Cloth hangs as it falls, ends close their chains anyhow, and controls stand where they are handy.
    const isMeant = bone.side === 1 && bone.kind === 'deforming';
    return isMeant && twin !== undefined ? [[i, twin]] : [];
  });
  const plane = mirrorPlaneOf(
    skeleton,
    pairs,
    bones.flatMap(({ side }, i) => (side === 0 ? [i] : [])),
  );
  if (!plane) return null;
  const limbs = new Map<number, TwinPair[]>();
  for (const pair of pairs) {
    const limb = limbOf(bones, at, pair[0]);
    const list = limbs.get(limb);
    if (list) list.push(pair);
    else limbs.set(limb, [pair]);
  }
  const lone = loneBonesOf(bones, at);
  const general = mirrorRuleOf(skeleton, plane, pairs);
  const ownRules = [...limbs].map(([top, limb]) => ({
    limb,
    own: mirrorRuleOf(skeleton, plane, limb),
    isRest: (lone.get(top) ?? 0) > limb.length,
  }));
  const proven = new Set(ownRules.flatMap(({ limb, own }) => (limb.length >= ENOUGH && own ? [own] : [])));
  const ruled = ownRules.flatMap(({ limb, own, isRest }) => {
    // One or two pairs may all be wrong: a rule that no longer limb follows is theirs only where there is no other, or where
    // they are what is left of a longer limb whose twins are not known as such.
    const isOwn = limb.length >= ENOUGH || isRest || (own && proven.has(own));
    const rule = isOwn ? own : (general ?? own);
    return limb.map((pair): RuledPair => ({ pair, rule }));
  });
  const ofLeft = new Map(ruled.map((one) => [one.pair[0], one]));
  const judged = ruled.map(({ pair, rule }): JudgedPair => {
    const [left, right] = pair.map((i) => bones[i]);
    const above = ofLeft.get(at.get(left.parent) ?? -1) ?? null;
    const isAbove = above !== null && bones[above.pair[1]].node === right.parent;
    const deviation = pairDeviation(skeleton, plane, rule ?? 'same-turn', pair, isAbove ? above : null);
    return { left, right, pair, rule, deviation };
  });
  return { skeleton, plane, pairs: judged };
}

/** How many deforming bones of each limb of the left have no twin. */
function loneBonesOf(bones: readonly TreeBone[], at: ReadonlyMap<number, number>): Map<number, number> {
  const out = new Map<number, number>();
  bones.forEach(({ side, kind, twin }, i) => {
    if (side !== 1 || kind !== 'deforming' || twin >= 0) return;
    const limb = limbOf(bones, at, i);
    out.set(limb, (out.get(limb) ?? 0) + 1);
  });
  return out;
}

/** The topmost bone of a side that a bone hangs on, by index. */
function limbOf(bones: readonly TreeBone[], at: ReadonlyMap<number, number>, bone: number): number {
  let limb = bone;
  for (let up = at.get(bones[bone].parent); up !== undefined; up = at.get(bones[up].parent)) {
    if (bones[up].side === 0) break;
    limb = up;
  }
  return limb;
}
