/** Which bones a body can do without: how far its points stray in motion when their weight goes to the bone above. */
import { meshNodesOf, parentBone, restWorld } from '../character/hierarchy';
import type { Character } from '../character/model';
import { type CarriedPoints, broughtBy, carriedBy, fittedPoints } from './carried';
import { probedWorld, probesOf } from './probe';
import { inverseOr, times } from '../geometry/matrix';

/** A bone that is folded away, and what that has cost by then. */
export interface FoldCost {
  readonly bone: number;
  /** The bone above that takes its weight, as things stand then. */
  readonly heir: number;
  /** How far points are from where they were, RMS over points and poses, with all that were folded before, metres. */
  readonly rms: number;
  /** The farthest of them, metres. */
  readonly max: number;
}

/** What must stay, what goes together, and until when is folded. */
export interface FoldPlan {
  readonly keeps: ReadonlySet<number>;
  /** The bone on the other side of each that has one: they go together, so that both sides stay alike. */
  readonly twins: ReadonlyMap<number, number>;
  /** How many joints the largest skin may list. */
  readonly most: number;
}

/**
 * Bones to fold until no skin lists more than so many, cheapest first: in each turn the one whose weight, given to the bone
 * above, moves the points least beside where they were, over poses in which all bones turn and moments of the clips.
 * Greedy, so not always the best choice of all; twins go together; bones that show or hold something stay. Ends early where nothing is left to
 * fold. O(turns · entries · poses).
 */
export function cheapestFolds(character: Character, { keeps, twins, most }: FoldPlan): FoldCost[] {
  const work = new Strays(character);
  const stays = new Set([...keeps, ...holders(character)]);
  const skins = character.skins.map(({ joints }) => new Set(joints));
  const folded = new Set<number>();
  const out: FoldCost[] = [];
  const heirOf = (bone: number): number => {
    let heir = parentBone(character.nodes, bone);
    while (folded.has(heir)) heir = parentBone(character.nodes, heir);
    return heir;
  };
  const isFree = (bone: number, large: readonly ReadonlySet<number>[]): boolean => {
    const heir = heirOf(bone);
    // One that no skin lists would be listed in its place.
    const isListed = large.every((joints) => !joints.has(bone) || joints.has(heir));
    return heir >= 0 && isListed && !stays.has(bone) && !folded.has(bone);
  };
  for (;;) {
    const large = skins.filter((joints) => joints.size > most);
    const candidates = new Set(large.flatMap((joints) => [...joints]));
    let best: { together: readonly number[]; cost: number } | null = null;
    for (const bone of candidates) {
      const twin = twins.get(bone);
      const together = twin === undefined ? [bone] : [bone, twin];
      if (!together.every((one) => isFree(one, large))) continue;
      const cost = together.reduce((sum, one) => sum + work.costOf(one, heirOf(one)), 0) / together.length;
      if (!best || cost < best.cost) best = { together, cost };
    }
    if (!best) return out;
    for (const bone of best.together) {
      const heir = heirOf(bone);
      work.fold(bone, heir);
      folded.add(bone);
      for (const joints of skins) if (joints.delete(bone)) joints.add(heir);
      out.push({ bone, heir, ...work.strayed() });
    }
  }
}

/** Nodes that show something by themselves, or hold what does: what hangs there is meant to. */
function holders({ nodes, skins }: Character): number[] {
  const things = nodes.flatMap(({ mesh, skin, camera, extensions }, i) =>
    (mesh >= 0 && skin < 0) || camera !== undefined || extensions ? [i, parentBone(nodes, i)] : [],
  );
  return [...things, ...skins.flatMap(({ skeleton }) => (skeleton === undefined ? [] : [skeleton]))];
}

/** How far points are from where they were, in every pose. */
class Strays {
  private readonly carried: CarriedPoints;
  /** What each entry carries, in the world at rest, times its weight; 3 each. */
  private readonly rest: Float64Array;
  private readonly pointOf: Int32Array;
  /** Entries by the node that carries them now. */
  private readonly entries = new Map<number, number[]>();
  /** From rest to each pose, 16 per node. */
  private readonly carries: readonly Float64Array[];
  /** Pose by pose, 3 per point. */
  private readonly off: readonly Float64Array[];

  constructor(character: Character) {
    const still = Int32Array.from(character.nodes, (_, i) => i);
    const chosen = fittedPoints(character, character, still);
    const bound = new Set(meshNodesOf(character).filter((node) => character.nodes[node].skin >= 0));
    this.carried = carriedBy(
      character,
      chosen.filter(({ node }) => bound.has(node)),
    );
    const world = restWorld(character.nodes);
    this.rest = broughtBy(this.carried, world);
    const { node, offsets } = this.carried;
    this.pointOf = new Int32Array(node.length);
    for (let point = 0; point + 1 < offsets.length; point++)
      this.pointOf.fill(point, offsets[point], offsets[point + 1]);
    node.forEach((carrier, entry) => {
      const list = this.entries.get(carrier);
      if (list) list.push(entry);
      else this.entries.set(carrier, [entry]);
    });
    const bones = new Set([...this.entries.keys()].flatMap((bone) => chainOf(character, bone)));
    this.carries = probesOf(character).map((probe) => {
      const posed = probedWorld(character, probe);
      const out = new Float64Array(posed.length);
      for (const bone of bones)
        out.set(times(posed.subarray(bone * 16, bone * 16 + 16), inverseOr(world, bone * 16)), bone * 16);
      return out;
    });
    this.off = this.carries.map(() => new Float64Array((offsets.length - 1) * 3));
  }

  /** What the sum of squares grows by where a bone's weight goes to its heir. */
  costOf(bone: number, heir: number): number {
    let grown = 0;
    this.visit(bone, heir, (off, at, move) => {
      for (let axis = 0; axis < 3; axis++) grown += move[axis] * (move[axis] + 2 * off[at + axis]);
    });
    return grown;
  }

  fold(bone: number, heir: number): void {
    this.visit(bone, heir, (off, at, move) => {
      for (let axis = 0; axis < 3; axis++) off[at + axis] += move[axis];
    });
    const moved = this.entries.get(bone) ?? [];
    this.entries.set(heir, [...(this.entries.get(heir) ?? []), ...moved]);
    this.entries.delete(bone);
  }

  strayed(): { rms: number; max: number } {
    let sum = 0;
    let max = 0;
    let count = 0;
    for (const off of this.off)
      for (let at = 0; at < off.length; at += 3) {
        const square = off[at] ** 2 + off[at + 1] ** 2 + off[at + 2] ** 2;
        sum += square;
        max = Math.max(max, square);
        count++;
      }
    return { rms: Math.sqrt(sum / Math.max(1, count)), max: Math.sqrt(max) };
  }

  /** Where every entry of a bone would go with its heir instead, beside where it goes now. */
  private visit(
    bone: number,
    heir: number,
    tell: (off: Float64Array, at: number, move: Float64Array) => void,
  ): void {
    const entries = this.entries.get(bone);
    if (!entries) return;
    const { weight } = this.carried;
    const { rest } = this;
    const move = new Float64Array(3);
    this.carries.forEach((carry, pose) => {
      for (const entry of entries) {
        for (let axis = 0; axis < 3; axis++) {
          let sum = weight[entry] * (carry[heir * 16 + 12 + axis] - carry[bone * 16 + 12 + axis]);
          for (let k = 0; k < 3; k++)
            sum += rest[entry * 3 + k] * (carry[heir * 16 + k * 4 + axis] - carry[bone * 16 + k * 4 + axis]);
          move[axis] = sum;
        }
        tell(this.off[pose], this.pointOf[entry] * 3, move);
      }
    });
  }
}

/** A bone and all above it. */
function chainOf({ nodes }: Character, bone: number): number[] {
  const chain: number[] = [];
  for (let at = bone; at >= 0; at = parentBone(nodes, at)) chain.push(at);
  return chain;
}
