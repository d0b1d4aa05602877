/** Where the weights change from bone to bone, against where the joint is: on the loops of edges round a limb. */
import { type LoopOnMesh, loopsAcrossJoints } from '../../anatomy/joint-loops';
import { meaningOf } from '../../anatomy/bones';
import { branchOf, restPlace } from '../../character/hierarchy';
import type { Character } from '../../character/model';
import { distance } from '../../geometry/matrix';

/** A joint whose ring goes with one of its bones rather than half and half. */
export interface RingOffJoint {
  readonly bone: number;
  /** The loop of edges at the joint. */
  readonly ring: LoopOnMesh;
  /** How much of that ring goes with the bone and what hangs below it, 0 … 1. */
  readonly share: number;
  /** How far along the limb from the joint the weights are half and half, metres; below 0 towards the root. */
  readonly halfAt: number;
  /** Radius of the limb there, metres. */
  readonly radius: number;
}

/** A loop no farther from its joint than this share of the limb's radius lies at it. */
const AT_JOINT = 0.25;

/** A ring goes half and half as long as its share differs by no more from one half: common practice is 0.5, feet have 0.6. */
const HALF_WITHIN = 0.25;

/** And the place where it is half and half lies farther from the joint than this share of the radius. */
const OFF_BY = 0.35;

/** A limb that bends goes with the bone above on one of its loops and with that below on another, by so much at least. */
const WITH_ONE = 0.8;

/** Bones that stand at a joint, no farther from it than this share of the limb's radius, may turn by half of what it does. */
const BESIDE_JOINT = 0.35;

/** Where such bones have more of the ring than this, what it goes with cannot be told. */
const HELPED = 0.1;

/**
 * The joints of limbs whose weights change beside the joint: the limb bends there, and not where the bones do. Nothing is told of
 * limbs that go as one with a bone, of those without a loop at the joint, nor where bones that help it carry the ring.
 */
export function ringsOffJoints(character: Character): RingOffJoint[] {
  return loopsAcrossJoints(character).flatMap(({ bone, radius, loops }): RingOffJoint[] => {
    const [ring] = loops.toSorted((a, b) => Math.abs(a.along) - Math.abs(b.along));
    if (!ring || Math.abs(ring.along) > AT_JOINT * radius) return [];
    const helping = shareOf(character, ring, helpersAt(character, bone, BESIDE_JOINT * radius));
    if (helping === null || helping > HELPED) return [];
    const branch = branchOf(character.nodes, [bone]);
    const shares = loops.map((loop) => shareOf(character, loop, branch));
    const told = shares.filter((share) => share !== null);
    const share = shares[loops.indexOf(ring)];
    if (share === null || Math.min(...told) > 1 - WITH_ONE || Math.max(...told) < WITH_ONE) return [];
    if (Math.abs(share - 0.5) <= HALF_WITHIN) return [];
    const halfAt = halfWay(loops, shares, share);
    return halfAt !== null && Math.abs(halfAt) > OFF_BY * radius
      ? [{ bone, ring, share, halfAt, radius }]
      : [];
  });
}

/** By node whether it is another bone at the place of a joint, one that twists along a limb aside. */
function helpersAt(character: Character, bone: number, within: number): boolean[] {
  const { nodes } = character;
  const place = restPlace(nodes, bone);
  return nodes.map(
    ({ kind }, node) =>
      kind === 'bone' &&
      node !== bone &&
      distance(restPlace(nodes, node), place) < within &&
      meaningOf(character, node).kind !== 'twist',
  );
}

/** How much of a loop goes with some bones, in the mean of its vertices; null where nothing pulls it. */
function shareOf(
  { nodes, meshes, skins }: Character,
  { node, vertices }: LoopOnMesh,
  isMeant: readonly boolean[],
): number | null {
  const { influences } = meshes[nodes[node].mesh];
  const { skin } = nodes[node];
  if (!influences || skin < 0) return null;
  const { offsets, joint, weight } = influences;
  let [own, all] = [0, 0];
  for (const vertex of vertices)
    for (let k = offsets[vertex]; k < offsets[vertex + 1]; k++) {
      all += weight[k];
      if (isMeant[skins[skin].joints[joint[k]]]) own += weight[k];
    }
  return all > 0 ? own / all : null;
}

/** Where between two loops the share passes one half, nearest to the joint; null where it never does. */
function halfWay(
  loops: readonly LoopOnMesh[],
  shares: readonly (number | null)[],
  atJoint: number,
): number | null {
  const crossings: number[] = [];
  for (let i = 1; i < loops.length; i++) {
    const [from, to] = [shares[i - 1], shares[i]];
    if (from === null || to === null || from >= 0.5 === to >= 0.5) continue;
    const way = (0.5 - from) / (to - from);
    crossings.push(loops[i - 1].along + way * (loops[i].along - loops[i - 1].along));
  }
  // More than half at the joint: the weights change above it, towards the root.
  const there = crossings.filter((along) => (atJoint > 0.5 ? along < 0 : along > 0));
  return there.length > 0 ? there.reduce((a, b) => (Math.abs(b) < Math.abs(a) ? b : a)) : null;
}
