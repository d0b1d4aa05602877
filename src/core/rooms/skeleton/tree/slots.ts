/**
 * The tree folded along its middle: a bone and its twin stand in one slot, so that each side can be drawn as the mirror
 * image of the other, and what is missing, longer or under the wrong side is seen as what it is.
 */
import type { TreeBone } from './bones';

/** A place in the mirrored tree: a bone of the middle, or a pair of which one may be missing. */
export interface Slot {
  readonly key: string;
  readonly left: TreeBone | null;
  readonly right: TreeBone | null;
  readonly middle: TreeBone | null;
  readonly children: Slot[];
  /** Bones at and under it. */
  size: number;
}

/** All bones of a slot, left before right. */
export const bonesOfSlot = ({ left, right, middle }: Slot): TreeBone[] =>
  [left, middle, right].filter((bone) => bone !== null);

/** The slots of bones without a parent, each with all that hangs under it. */
export function slotsOf(bones: readonly TreeBone[]): Slot[] {
  const byNode = new Map(bones.map((bone) => [bone.node, bone]));
  const slotOfNode = new Map<number, Slot>();
  const all: Slot[] = [];
  const roots: Slot[] = [];
  const keys = new Set<string>();
  for (const bone of bones) {
    if (slotOfNode.has(bone.node)) continue;
    const twin = twinIn(byNode, bone);
    const slot = newSlot(bone, twin, keys);
    const parents = [bone, ...(twin ? [twin] : [])].map((one) => byNode.get(one.parent));
    const above = parents.map((parent) => parent && slotOfNode.get(parent.node));
    // The one of the two that hangs under its own side says where the pair belongs, where its place is known already.
    const isAstray = crosses(bone, parents[0]) && !!above[1] && !crosses(twin as TreeBone, parents[1]);
    const under = isAstray ? above[1] : above[0];
    for (const one of bonesOfSlot(slot)) slotOfNode.set(one.node, slot);
    all.push(slot);
    (under ? under.children : roots).push(slot);
  }
  // Children were made after their parents.
  for (const slot of all.reverse())
    slot.size = slot.children.reduce((sum, child) => sum + child.size, bonesOfSlot(slot).length);
  return roots;
}

function twinIn(byNode: ReadonlyMap<number, TreeBone>, bone: TreeBone): TreeBone | null {
  const twin = byNode.get(bone.twin);
  return twin && bone.side !== 0 && twin.side === -bone.side && twin.twin === bone.node ? twin : null;
}

function newSlot(bone: TreeBone, twin: TreeBone | null, keys: Set<string>): Slot {
  // Names may be there twice.
  const key = bone.name && !keys.has(bone.name) ? bone.name : `${bone.name}#${bone.node}`;
  keys.add(key);
  const on = (side: number) => [bone, twin].find((one) => one?.side === side) ?? null;
  return {
    key,
    left: on(1),
    right: on(-1),
    middle: bone.side === 0 ? bone : null,
    children: [],
    size: 0,
  };
}

/** Whether a bone of one side hangs under a bone of the other. */
export const crosses = (bone: TreeBone, parent: TreeBone | undefined): boolean =>
  !!parent && bone.side !== 0 && parent.side === -bone.side;
