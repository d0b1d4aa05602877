/**
 * Bones that carry no weight: ends and controls, by the patterns of a brief over their names. What is called a tip
 * may be the last bone of a finger, which bends: flesh decides, not the word.
 */
import { namePattern } from '../../contracts/pattern';
import { closesChain } from '../../anatomy/reading/closing';
import { wordsOf } from '../../anatomy/reading/tokens';
import type { BriefBase } from '../../contracts/brief';
import { childrenOf, parentBone, restPlace } from '../../character/hierarchy';
import { placedMeshes } from '../../character/measure';
import type { Character } from '../../character/model';
import { type Vec3, length, subtract } from '../../geometry/matrix';

/** What a brief says of bones that carry nothing. */
export type KindsBrief = BriefBase & {
  readonly endPattern: string | null;
  readonly controlPattern: string | null;
};

export type KindOfBone = 'end' | 'control' | 'plain';

/** Tells of a bone whether it is an end (a tip with no bone and no flesh beyond it), a control, or neither. */
export function kindsOfBones(
  character: Character,
  brief: Pick<KindsBrief, 'endPattern' | 'controlPattern'>,
): (bone: number) => KindOfBone {
  const { nodes } = character;
  const end = matcher(brief.endPattern);
  const control = matcher(brief.controlPattern);
  const children = childrenOf(nodes);
  let beyond: ReadonlyMap<number, number> | null = null;
  const closing = brief.endPattern ? closingBones(character) : null;
  const isTip = (b: number) =>
    (end(nodes[b].name) || closing?.has(b)) && children[b].every((child) => nodes[child].kind !== 'bone');
  return (bone) => {
    if (isTip(bone)) {
      beyond ??= fleshBeyond(
        character,
        nodes.flatMap((node, i) => (node.kind === 'bone' && isTip(i) ? [i] : [])),
      );
      return (beyond.get(bone) ?? 0) > BENDS ? 'plain' : 'end';
    }
    return control(nodes[bone].name) ? 'control' : 'plain';
  };
}

/** Bones that close their chains by a word that the skeleton itself uses for that. */
function closingBones({ nodes }: Character): ReadonlySet<number> {
  const bones = nodes.flatMap((node, i) => (node.kind === 'bone' ? [i] : []));
  const at = new Map(bones.map((bone, k) => [bone, k]));
  const closes = closesChain(
    bones.map((bone) => wordsOf(nodes[bone].name)),
    bones.map((bone) => at.get(parentBone(nodes, bone)) ?? -1),
  );
  return new Set(bones.filter((_, i) => closes[i]));
}

/** Whether a name, or its words apart (“LeftToeTip”), matches a pattern; nothing matches none. */
function matcher(pattern: string | null): (name: string) => boolean {
  if (!pattern) return () => false;
  const expression = namePattern(pattern, true);
  return (name) => expression.test(name) || expression.test(wordsOf(name).join('_'));
}

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
