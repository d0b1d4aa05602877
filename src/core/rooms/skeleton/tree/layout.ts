/**
 * Where everything of the picture of a tree stands: the trunk upwards from its root, branches to both sides as mirror images
 * of each other. Rows and their order are those of a cluster layout (d3-hierarchy); a bone stands in the row of its
 * middle child, so that names above and below a row never meet those of another.
 */
import { type HierarchyNode, cluster, hierarchy } from 'd3-hierarchy';
import type { TreeBone } from './bones';
import { type BranchItem, type FoldedBones, type Half, type TreeShown, branchItems } from './items';
import { labelsOf } from './labels';
import { type Slot, bonesOfSlot, crosses, slotsOf } from './slots';

/** Pixels: between rows of branches, between bones of the trunk, from bone to bone along a branch, from the trunk to it. */
export const ROW = 34;
const TRUNK = 24;
const COLUMN = 36;
const FIRST = 36;

/** Branches rise a little from the trunk on. */
const RISE = 0.045;

/** Wide and high a letter of a label, pixels. */
export const LETTER = 6;
const LINE = 10;

/** How far above or below a joint the middle of its label stands, and how far beside, pixels. */
const OFF = 10;
const BESIDE = 8;

/** Where a label stands from its joint. */
export type LabelPlace = 'above' | 'below' | 'right' | 'left';

interface Placed {
  readonly key: string;
  readonly x: number;
  /** Downwards, as on a screen. */
  readonly y: number;
  readonly label: string;
  readonly labelAt: LabelPlace;
}

export interface PlacedBone extends Placed {
  readonly node: number;
  /** As its name tells; 0 where the names of its skeleton tell no sides, and which of the two is left is not known. */
  readonly side: -1 | 0 | 1;
  /** Nothing hangs on it. */
  readonly isTip: boolean;
  /** Shown only since something above which it stands is. */
  readonly isFaint: boolean;
  readonly canFold: boolean;
  readonly isFolded: boolean;
  readonly foldKey: string;
  /** Bones from the root, for whoever cannot see it. */
  readonly depth: number;
}

/** Branches that lie folded. */
export interface PlacedBud extends Placed {
  readonly foldKey: string;
  readonly nodes: readonly number[];
  readonly side: -1 | 0 | 1;
}

/** Where a bone is missing that the other side has. */
export interface EmptyPlace extends Placed {
  readonly twin: number;
}

export interface PlacedBranch {
  /** The bone or bud at its far end. */
  readonly key: string;
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
  /** `astray`: to a bone that hangs under the other side, or elsewhere than its twin does. */
  readonly kind: 'trunk' | 'branch' | 'astray' | 'missing';
  /** Bones that hang on it, with itself. */
  readonly size: number;
}

/** A tree as it is drawn. Pixels, the trunk's x is 0. */
export interface TreeDrawing {
  readonly bones: readonly PlacedBone[];
  readonly buds: readonly PlacedBud[];
  readonly missing: readonly EmptyPlace[];
  readonly branches: readonly PlacedBranch[];
  readonly box: {
    readonly left: number;
    readonly right: number;
    readonly top: number;
    readonly bottom: number;
  };
}

/** The box of a label, [left, top, right, bottom]. */
export function labelBox({ x, y, label, labelAt }: Placed): [number, number, number, number] {
  const width = [...label].length * LETTER;
  if (labelAt === 'right') return [x + BESIDE, y - LINE / 2, x + BESIDE + width, y + LINE / 2];
  if (labelAt === 'left') return [x - BESIDE - width, y - LINE / 2, x - BESIDE, y + LINE / 2];
  const middle = labelAt === 'above' ? y - OFF : y + OFF;
  return [x - width / 2, middle - LINE / 2, x + width / 2, middle + LINE / 2];
}

/** Draws the bones of a character as a tree. */
export function drawTree(bones: readonly TreeBone[], shown: TreeShown): TreeDrawing {
  const drawing = new Drawing(bones, shown);
  let bottom = 0;
  for (const root of [...slotsOf(bones)].sort((a, b) => b.size - a.size))
    bottom = drawing.place(root, bottom) + (shown.only ? 0 : ROW / 2);
  return drawing.done();
}

class Drawing {
  private readonly bones: PlacedBone[] = [];
  private readonly buds: PlacedBud[] = [];
  private readonly missing: EmptyPlace[] = [];
  private readonly branches: PlacedBranch[] = [];
  private readonly labels: ReadonlyMap<number, string>;
  private readonly byNode: ReadonlyMap<number, TreeBone>;
  private readonly placeOf = new Map<number, readonly [number, number]>();
  private readonly depthOf = new Map<number, number>();
  /** What is shown and what it hangs on; null for all. */
  private readonly kept: ReadonlySet<number> | null;

  constructor(
    all: readonly TreeBone[],
    private readonly shown: TreeShown,
  ) {
    this.labels = labelsOf(all);
    this.byNode = new Map(all.map((bone) => [bone.node, bone]));
    this.kept = shown.only && withAncestors(shown.only, this.byNode);
    for (const { node, parent } of all) this.depthOf.set(node, (this.depthOf.get(parent) ?? 0) + 1);
  }

  /** Places what hangs on a root below what stands there; gives where it ends. */
  place(root: Slot, top: number): number {
    const trunk = this.trunkFrom(root);
    if (trunk.length === 0) return top;
    let y = top;
    const places: (readonly [number, number])[] = [];
    const beside: { items: BranchItem[]; rows: number; top: number }[] = [];
    for (const [k, slot] of trunk.toReversed().entries()) {
      const goesOn = trunk[trunk.length - k];
      const items = branchItems(
        slot.children.filter((child) => child !== goesOn),
        this.shown,
        this.byNode.size,
      );
      const rows = rowsOf(items);
      beside.unshift({ items, rows, top: y });
      y += rows * ROW + TRUNK;
      places.unshift([0, y - TRUNK / 2]);
    }
    trunk.forEach((slot, k) => this.placeTrunk(slot, places[k], k > 0 ? places[k - 1] : null));
    // What is drawn astray begins at bones of either half: all of them are placed first.
    const drawn = beside.map((branches, k) => this.placeBranches(places[k], branches));
    for (const draw of drawn) draw();
    return y;
  }

  /** The bones of the middle from a root up, the larger branch each time. */
  private trunkFrom(root: Slot): Slot[] {
    const isShown = (slot: Slot) => bonesOfSlot(slot).some(({ node }) => this.isKept(node));
    if (!isShown(root)) return [];
    const out = [root];
    for (let at = root; ; out.push(at)) {
      const on = at.children.filter((child) => child.middle && isShown(child));
      if (on.length === 0) return out;
      at = on.reduce((a, b) => (higher(b, a) ? b : a));
    }
  }

  private placeTrunk(
    slot: Slot,
    [x, y]: readonly [number, number],
    under: readonly [number, number] | null,
  ): void {
    // A root may have a side, and a twin beside it.
    const bones = bonesOfSlot(slot).filter(({ node }) => this.isKept(node));
    bones.forEach((bone, k) => {
      const at = [x + (k === 0 ? 0 : -COLUMN / 2), y] as const;
      this.addBone(bone, slot.key, at, k === 0 ? 'right' : 'left', {}, slot.children.length === 0);
      if (under && k === 0)
        this.branches.push({ key: slot.key, from: under, to: at, kind: 'trunk', size: slot.size });
    });
  }

  private addBone(
    bone: TreeBone,
    key: string,
    [x, y]: readonly [number, number],
    labelAt: LabelPlace,
    { canFold, isFolded, foldKey }: Partial<BranchItem>,
    isTip: boolean,
  ): void {
    this.placeOf.set(bone.node, [x, y]);
    this.bones.push({
      key,
      node: bone.node,
      x,
      y,
      label: this.labels.get(bone.node) as string,
      labelAt,
      side: sideNamed(bone),
      isTip,
      isFaint: !!this.shown.only && !this.shown.only.has(bone.node),
      canFold: canFold ?? false,
      isFolded: isFolded ?? false,
      foldKey: foldKey ?? key,
      depth: this.depthOf.get(bone.node) ?? 0,
    });
  }

  /** Places the branches of one bone of the trunk; what it gives draws the ways to them. */
  private placeBranches(
    at: readonly [number, number],
    { items, top }: { items: readonly BranchItem[]; top: number },
  ): () => void {
    const ways: (() => void)[] = [];
    for (const node of laidOut(items)?.descendants().slice(1) ?? []) {
      const { data: item, depth, x: row } = node as HierarchyNode<BranchItem> & { x: number };
      const halves: readonly (1 | -1)[] = item.half === 0 ? [1, -1] : [item.half];
      for (const half of halves) {
        const x = half * (FIRST + (depth - 1) * COLUMN);
        const y = top + (row + 0.5) * ROW - RISE * Math.abs(x);
        const labelAt = depth % 2 === 1 ? 'above' : 'below';
        const above = depth === 1 ? at : placeOnWay(node, half, top);
        this.placeItem(item, half, [x, y], labelAt, above, ways);
      }
    }
    return () => {
      for (const draw of ways) draw();
    };
  }

  private placeItem(
    item: BranchItem,
    half: 1 | -1,
    to: readonly [number, number],
    labelAt: LabelPlace,
    above: readonly [number, number],
    ways: (() => void)[],
  ): void {
    const side = half === 1 ? 'left' : 'right';
    const key = `${item.key}/${half}`;
    if (item.bud) {
      this.placeBud(item, item.bud[side], half, to, above);
      return;
    }
    const own = item[side];
    const bone = own && this.isKept(own.node) ? own : null;
    const twin = half === 1 ? item.right : item.left;
    if (bone) {
      this.addBone(bone, key, to, labelAt, item, item.children.length === 0 && !item.isFolded);
      ways.push(() => this.drawWay(bone, twin, key, to, sizeOf(item, side)));
    } else if (!own && twin && !this.kept && this.isFirstMissing(twin)) {
      const label = `${this.labels.get(twin.node)}?`;
      this.missing.push({ key, x: to[0], y: to[1], label, labelAt, twin: twin.node });
      this.branches.push({ key, from: above, to, kind: 'missing', size: 1 });
    }
  }

  private isKept(node: number): boolean {
    return !this.kept || this.kept.has(node);
  }

  /** Of a chain that is missing its first bone is told: the one whose parent is there on that side, or in the middle. */
  private isFirstMissing(twin: TreeBone): boolean {
    const parent = this.byNode.get(twin.parent);
    return !!parent && (parent.side === 0 || parent.twin >= 0);
  }

  private placeBud(
    item: BranchItem,
    { nodes, chains }: FoldedBones,
    half: 1 | -1,
    to: readonly [number, number],
    above: readonly [number, number],
  ): void {
    if (nodes.length === 0) return;
    const word = item.bud?.word ?? '';
    const bone = this.byNode.get(nodes[0]);
    const key = `${item.key}/${half}`;
    this.buds.push({
      key,
      foldKey: item.foldKey,
      nodes,
      x: to[0],
      y: to[1],
      label: word && chains > 1 ? `${word} · ${nodes.length} in ${chains}` : String(nodes.length),
      labelAt: half === 1 ? 'right' : 'left',
      side: bone ? sideNamed(bone) : 0,
    });
    this.branches.push({ key, from: above, to, kind: 'branch', size: nodes.length });
  }

  /** The way from the bone that it really hangs under. */
  private drawWay(
    bone: TreeBone,
    twin: TreeBone | null,
    key: string,
    to: readonly [number, number],
    size: number,
  ): void {
    const parent = this.byNode.get(bone.parent);
    const from = this.placeOf.get(bone.parent);
    if (!parent || !from) return;
    const isAstray = crosses(bone, parent) || (!!twin && !isBeside(parent, this.byNode.get(twin.parent)));
    this.branches.push({ key, from, to, kind: isAstray ? 'astray' : 'branch', size });
  }

  done(): TreeDrawing {
    const { bones, buds, missing, branches } = this;
    const box = { left: 0, right: 0, top: 0, bottom: 0 };
    for (const placed of [...bones, ...buds, ...missing]) {
      const [left, top, right, bottom] = labelBox(placed);
      box.left = Math.min(box.left, left, placed.x);
      box.right = Math.max(box.right, right, placed.x);
      box.top = Math.min(box.top, top, placed.y);
      box.bottom = Math.max(box.bottom, bottom, placed.y);
    }
    return { bones, buds, missing, branches, box };
  }
}

function withAncestors(
  nodes: ReadonlySet<number>,
  byNode: ReadonlyMap<number, TreeBone>,
): ReadonlySet<number> {
  const out = new Set<number>();
  for (const node of nodes)
    for (let at = byNode.get(node); at && !out.has(at.node); at = byNode.get(at.parent)) out.add(at.node);
  return out;
}

const sideNamed = ({ side, isSideNamed }: TreeBone): -1 | 0 | 1 => (isSideNamed ? side : 0);

/** Of two ways on for the trunk: the one with more on it, and of two alike the one that rises higher. */
function higher(a: Slot, b: Slot): boolean {
  if (a.size !== b.size) return a.size > b.size;
  return (a.middle?.height ?? 0) > (b.middle?.height ?? 0);
}

/** Whether two parents are the same bone, or each other's twins. */
const isBeside = (a: TreeBone, b: TreeBone | undefined) => !!b && (a.node === b.node || a.twin === b.node);

/** Where the bone before one stands, if it is there or not. */
function placeOnWay(node: HierarchyNode<BranchItem>, half: 1 | -1, top: number): readonly [number, number] {
  const { parent, depth } = node;
  const row = (parent as HierarchyNode<BranchItem> & { x: number }).x;
  const x = half * (FIRST + (depth - 2) * COLUMN);
  return [x, top + (row + 0.5) * ROW - RISE * Math.abs(x)];
}

const NO_BONE = {
  half: 0 as Half,
  left: null,
  right: null,
  bud: null,
  canFold: false,
  isFolded: false,
  foldKey: '',
};

/** The branches as rows: every tip has one of its own, and each bone that of its middle child. */
function laidOut(items: readonly BranchItem[]): HierarchyNode<BranchItem> | null {
  if (items.length === 0) return null;
  const root = cluster<BranchItem>()
    .nodeSize([1, 1])
    .separation(() => 1)(hierarchy<BranchItem>({ ...NO_BONE, key: '', children: items }));
  const first = Math.min(...root.leaves().map((leaf) => leaf.x));
  root.eachAfter((node) => {
    const { children } = node;
    node.x = children ? children[Math.floor((children.length - 1) / 2)].x : node.x - first;
  });
  return root;
}

const rowsOf = (items: readonly BranchItem[]): number =>
  items.reduce((sum, { children }) => sum + (children.length === 0 ? 1 : rowsOf(children)), 0);

function sizeOf(item: BranchItem, side: 'left' | 'right'): number {
  const own = item.bud ? item.bud[side].nodes.length : Number(item[side] !== null);
  return item.children.reduce((sum, child) => sum + sizeOf(child, side), own);
}
