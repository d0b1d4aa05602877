/**
 * What is drawn beside the trunk, one half standing for both: pairs, bones of one side only, and buds in which branches lie
 * folded.
 */
import type { TreeBone } from './bones';
import { type Slot, bonesOfSlot } from './slots';

/** Which half of the picture something stands in: 1 the left side's, −1 the right side's, 0 both alike. */
export type Half = -1 | 0 | 1;

/** A place beside the trunk. */
export interface BranchItem {
  readonly key: string;
  readonly half: Half;
  /** The bone in the left side's half, and in the right side's; null where none is. */
  readonly left: TreeBone | null;
  readonly right: TreeBone | null;
  readonly children: readonly BranchItem[];
  /** What lies folded in it, where it is a bud: for each half. */
  readonly bud: { readonly left: FoldedBones; readonly right: FoldedBones; readonly word: string } | null;
  /** It can be folded, or is. */
  readonly canFold: boolean;
  readonly isFolded: boolean;
  /** Key of the bud that it came out of; its own otherwise. */
  readonly foldKey: string;
}

export interface FoldedBones {
  readonly nodes: readonly number[];
  readonly chains: number;
}

/** What of a tree is shown. */
export interface TreeShown {
  /** What a person has folded and opened, by key; the rest is as it is by itself. */
  readonly folds: ReadonlyMap<string, boolean>;
  /** The bones that are shown, with those above them; null for all. */
  readonly only: ReadonlySet<number> | null;
}

/** So many chains alike under one bone are one bud by themselves. */
const ALIKE = 3;

/** Where so many chains leave a bone, and hold more bones than this, they are folded by themselves. */
const FAN = { chains: 3, bones: 6 };

/** A chain goes on so many bones from the trunk; the rest is folded by itself. */
const FARTHEST = 6;

/** What is, on one side, a larger share of a tree than this is what it consists of, and never folded by itself. */
const MOST = 0.35;

/** What is shown of a tree, and of how many bones it is. */
type Folding = TreeShown & { readonly count: number };

const NOTHING: FoldedBones = { nodes: [], chains: 0 };

/** The branches beside the trunk that these slots are, of a tree of so many bones. */
export function branchItems(slots: readonly Slot[], shown: TreeShown, count: number): BranchItem[] {
  let half: 1 | -1 = 1;
  const items: Plain[] = inOrder(slots).flatMap((slot) => {
    // Bones of the middle stand on either side in turn.
    if (!slot.middle) return plainItems(slot, 0);
    half = half === 1 ? -1 : 1;
    return plainItems(slot, half);
  });
  return grouped(items, { ...shown, count }, 1);
}

/** The same before anything is folded. */
interface Plain {
  readonly key: string;
  readonly half: Half;
  readonly left: TreeBone | null;
  readonly right: TreeBone | null;
  readonly children: readonly Plain[];
}

/** A slot as what stands in a half; in both, one item for the pair. */
function plainItems(slot: Slot, half: Half): Plain[] {
  const below = inOrder(slot.children);
  const isPair = half === 0 && !slot.middle;
  if (isPair) {
    const children = below.flatMap((child) =>
      // What has no side of its own stands on the side of what it hangs on.
      child.middle
        ? plainItems(child, child.middle.parent === slot.left?.node ? 1 : -1)
        : plainItems(child, 0),
    );
    return [{ key: slot.key, half, left: slot.left, right: slot.right, children }];
  }
  const bones = bonesOfSlot(slot);
  const children = below.flatMap((child) => plainItems(child, half));
  return bones.map((bone, i) => ({
    key: i === 0 ? slot.key : `${slot.key}#${bone.node}`,
    half,
    left: half === 1 ? bone : null,
    right: half === -1 ? bone : null,
    // In one half twins stand below each other, each with its own.
    children: children.filter((child) => ownerOf(child, bones) === bone),
  }));
}

const ownerOf = ({ left, right }: Plain, bones: readonly TreeBone[]) =>
  bones.find((bone) => bone.node === (left ?? right)?.parent) ?? bones[0];

/** Siblings as they stand, the higher joint first. */
function inOrder(slots: readonly Slot[]): Slot[] {
  const height = (slot: Slot) => Math.max(...bonesOfSlot(slot).map((bone) => Math.round(bone.height * 100)));
  return [...slots].sort((a, b) => height(b) - height(a));
}

/** Folds what is to be folded: chains alike into one bud, a fan or a long chain behind its bone. */
function grouped(items: readonly Plain[], shown: Folding, depth: number): BranchItem[] {
  const kept = shown.only ? items.filter((item) => holdsAny(item, shown.only as ReadonlySet<number>)) : items;
  const groups = new Map<string, Plain[]>();
  for (const item of kept) {
    const key = groupKey(item);
    const list = groups.get(key);
    if (list) list.push(item);
    else groups.set(key, [item]);
  }
  return [...groups].flatMap(([key, list]) => {
    const isGroup = list.length >= ALIKE;
    const size = list.reduce((sum, item) => sum + sizeOf(item), 0);
    if (isGroup && isFolded(key, size < MOST * shown.count, shown)) return [budItem(key, list)];
    return list.map((item) => openItem(item, isGroup ? key : null, shown, depth));
  });
}

function groupKey(item: Plain): string {
  const bone = (item.left ?? item.right) as TreeBone;
  const word = bone.role === 'control' ? 'controls' : bone.word;
  return word ? `${bone.parent}/${item.half}/${word}` : item.key;
}

const isFolded = (key: string, byItself: boolean, { folds, only }: TreeShown) =>
  folds.get(key) ?? (byItself && !only);

function openItem(item: Plain, groupKey: string | null, shown: Folding, depth: number): BranchItem {
  const size = sizeOf(item);
  const isFan = size > FAN.bones && size < MOST * shown.count && item.children.length >= FAN.chains;
  const isLong = depth % FARTHEST === 0 && item.children.length > 0;
  const canFold = item.children.length > 0;
  const folded = canFold && isFolded(item.key, isFan || isLong, shown);
  const children = folded
    ? [{ ...budItem(`${item.key}/…`, item.children), foldKey: item.key }]
    : grouped(item.children, shown, depth + 1);
  return {
    key: item.key,
    half: item.half,
    left: item.left,
    right: item.right,
    children,
    bud: null,
    canFold: canFold || groupKey !== null,
    isFolded: folded,
    foldKey: canFold ? item.key : (groupKey ?? item.key),
  };
}

function budItem(key: string, items: readonly Plain[]): BranchItem {
  const [first] = items;
  const bone = (first.left ?? first.right) as TreeBone;
  const word = bone.role === 'control' ? 'controls' : bone.word;
  const alike = new Set(items.map(groupKey)).size === 1;
  return {
    key,
    half: first.half,
    left: null,
    right: null,
    children: [],
    bud: { left: foldedOf(items, 'left'), right: foldedOf(items, 'right'), word: alike ? word : '' },
    canFold: true,
    isFolded: true,
    foldKey: key,
  };
}

function foldedOf(items: readonly Plain[], side: 'left' | 'right'): FoldedBones {
  const nodes: number[] = [];
  const stack = [...items];
  while (stack.length > 0) {
    const item = stack.pop() as Plain;
    const bone = item[side];
    if (bone) nodes.push(bone.node);
    stack.push(...item.children);
  }
  const chains = items.filter((item) => item[side]).length;
  return nodes.length > 0 ? { nodes, chains } : NOTHING;
}

function holdsAny(item: Plain, only: ReadonlySet<number>): boolean {
  const has = (bone: TreeBone | null) => !!bone && only.has(bone.node);
  return has(item.left) || has(item.right) || item.children.some((child) => holdsAny(child, only));
}

/** Bones at and under an item, on one side. */
const sizeOf = ({ children }: Plain): number => children.reduce((sum, child) => sum + sizeOf(child), 1);
