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

/**
 * A chain goes on so many bones from the trunk, or so many where only some are shown; the rest is folded by itself.
 */
const FARTHEST = { ofAll: 6, ofSome: 30 };

/** What is, on one side, a larger share of a tree than this is what it consists of, and never folded by itself. */
const MOST = 0.35;

/** What is shown of a tree, and of how many bones it is. */
type Folding = TreeShown & { readonly count: number };

const NOTHING: FoldedBones = { nodes: [], chains: 0 };

/** The branches beside the trunk that these slots are, of a tree of so many bones. */
export function branchItems(slots: readonly Slot[], shown: TreeShown, count: number): BranchItem[] {
  let half: 1 | -1 = 1;
  const roots = inOrder(slots).map((slot): Placing => {
    // Bones of the middle stand on either side in turn.
    if (slot.middle) half = half === 1 ? -1 : 1;
    return { slot, half: slot.middle ? half : 0 };
  });
  return grouped(plainItems(roots, shown.only), { ...shown, count }, 1);
}

/** A slot and the half that it stands in. */
interface Placing {
  readonly slot: Slot;
  readonly half: Half;
}

/** The same before anything is folded. */
interface Plain {
  readonly key: string;
  readonly half: Half;
  readonly left: TreeBone | null;
  readonly right: TreeBone | null;
  readonly children: readonly Plain[];
  /** Bones at and under it, on one side. */
  readonly size: number;
  /** It, or something under it, is to be shown. */
  readonly isShown: boolean;
}

/**
 * Slots as what stands in a half; in both, one item for the pair. Each from its tips on, without a call in a call: a chain
 * may be as long as a file has bones.
 */
function plainItems(roots: readonly Placing[], only: ReadonlySet<number> | null): Plain[] {
  const made = new Map<Slot, Plain[]>();
  const below = new Map<Slot, Placing[]>();
  const order = [...roots];
  for (const { slot, half } of order) {
    const children = inOrder(slot.children).map((child) => ({
      slot: child,
      half: halfUnder(slot, half, child),
    }));
    below.set(slot, children);
    for (const child of children) order.push(child);
  }
  for (const { slot, half } of order.toReversed()) {
    const children = (below.get(slot) as Placing[]).flatMap((child) => made.get(child.slot) as Plain[]);
    made.set(slot, itemsOfSlot(slot, half, children, only));
  }
  return roots.flatMap(({ slot }) => made.get(slot) as Plain[]);
}

/** In which half a slot stands below another: what has no side of its own on that of what it hangs on. */
function halfUnder(slot: Slot, half: Half, child: Slot): Half {
  if (half !== 0 || !child.middle) return half;
  return child.middle.parent === slot.left?.node ? 1 : -1;
}

function itemsOfSlot(
  slot: Slot,
  half: Half,
  children: readonly Plain[],
  only: ReadonlySet<number> | null,
): Plain[] {
  const item = (
    key: string,
    left: TreeBone | null,
    right: TreeBone | null,
    under: readonly Plain[],
  ): Plain => ({
    key,
    half,
    left,
    right,
    children: under,
    size: under.reduce((sum, child) => sum + child.size, 1),
    isShown:
      !only ||
      [left, right].some((bone) => bone !== null && only.has(bone.node)) ||
      under.some((child) => child.isShown),
  });
  if (half === 0) return [item(slot.key, slot.left, slot.right, children)];
  const bones = bonesOfSlot(slot);
  return bones.map((bone, i) =>
    item(
      i === 0 ? slot.key : `${slot.key}#${bone.node}`,
      half === 1 ? bone : null,
      half === -1 ? bone : null,
      // In one half twins stand below each other, each with its own.
      children.filter((child) => ownerOf(child, bones) === bone),
    ),
  );
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
  const groups = new Map<string, Plain[]>();
  for (const item of items) {
    if (!item.isShown) continue;
    const key = groupKey(item);
    const list = groups.get(key);
    if (list) list.push(item);
    else groups.set(key, [item]);
  }
  return [...groups].flatMap(([key, list]) => {
    const isGroup = list.length >= ALIKE;
    const isSmall = list.reduce((sum, item) => sum + item.size, 0) < MOST * shown.count;
    // Where only some are shown, all of them are wanted.
    if (isGroup && isFolded(key, isSmall && !shown.only, shown)) return [budItem(key, list, shown)];
    return list.map((item) => openItem(item, isGroup ? key : null, shown, depth));
  });
}

function groupKey(item: Plain): string {
  const bone = (item.left ?? item.right) as TreeBone;
  const word = bone.role === 'control' ? 'controls' : bone.word;
  return word ? `${bone.parent}/${item.half}/${word}` : item.key;
}

const isFolded = (key: string, byItself: boolean, { folds }: TreeShown) => folds.get(key) ?? byItself;

function openItem(item: Plain, groupKey: string | null, shown: Folding, depth: number): BranchItem {
  const { size } = item;
  const isFan =
    !shown.only && size > FAN.bones && size < MOST * shown.count && item.children.length >= FAN.chains;
  const isLong = depth % (shown.only ? FARTHEST.ofSome : FARTHEST.ofAll) === 0;
  const canFold = item.children.some(({ isShown }) => isShown);
  const folded = canFold && isFolded(item.key, isFan || isLong, shown);
  const children = folded
    ? [{ ...budItem(`${item.key}/…`, item.children, shown), foldKey: item.key }]
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

function budItem(key: string, all: readonly Plain[], { only }: Folding): BranchItem {
  const items = all.filter(({ isShown }) => isShown);
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
    bud: {
      left: foldedOf(items, 'left', only),
      right: foldedOf(items, 'right', only),
      word: alike ? word : '',
    },
    canFold: true,
    isFolded: true,
    foldKey: key,
  };
}

function foldedOf(
  items: readonly Plain[],
  side: 'left' | 'right',
  only: ReadonlySet<number> | null,
): FoldedBones {
  const nodes: number[] = [];
  const stack = [...items];
  while (stack.length > 0) {
    const item = stack.pop() as Plain;
    const bone = item[side];
    if (bone && (!only || only.has(bone.node))) nodes.push(bone.node);
    stack.push(...item.children);
  }
  const chains = items.filter((item) => item[side]).length;
  return nodes.length > 0 ? { nodes, chains } : NOTHING;
}
