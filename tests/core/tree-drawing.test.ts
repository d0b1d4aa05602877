/** The picture of the tree: nothing stands on top of anything else, and both sides are mirror images of each other. */
import { makeBeast } from '@/bench/match/beasts';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { type FigureKind, KINDS } from '@/bench/match/roles';
import { type TreeBone, treeBonesOf } from '@/core/rooms/skeleton/tree/bones';
import { withOtherSide, withoutSide } from '@/core/anatomy/side-in-name';
import { labelsOf } from '@/core/rooms/skeleton/tree/labels';
import { type TreeDrawing, drawTree, labelBox } from '@/core/rooms/skeleton/tree/layout';
import type { TreeShown } from '@/core/rooms/skeleton/tree/items';
import { characterOfSkeleton } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { castCharacter } from './support/cast';

const AS_IT_IS: TreeShown = { folds: new Map(), only: null };

/** Everything opened: what is a bud by itself is open. */
function allOpen(bones: readonly TreeBone[]): TreeShown {
  const folds = new Map<string, boolean>();
  for (;;) {
    const { buds } = drawTree(bones, { folds, only: null });
    if (buds.length === 0) return { folds, only: null };
    for (const { foldKey } of buds) folds.set(foldKey, false);
  }
}

function overlaps({ bones, buds, missing }: TreeDrawing): string[] {
  const boxes = [...bones, ...buds, ...missing].map((placed) => ({ placed, box: labelBox(placed) }));
  boxes.sort((a, b) => a.box[1] - b.box[1]);
  return boxes.flatMap((a, i) =>
    boxes
      .slice(i + 1)
      .filter((b) => b.box[1] < a.box[3] - 1e-6 && b.box[0] < a.box[2] - 1e-6 && b.box[2] > a.box[0] + 1e-6)
      .map((b) => `${a.placed.label} on ${b.placed.label}`),
  );
}

/** Bones that are shown, or lie in a bud. */
const all = ({ bones, buds }: TreeDrawing) =>
  [...bones.map(({ node }) => node), ...buds.flatMap(({ nodes }) => nodes)].sort((a, b) => a - b);

const trees: readonly (readonly [string, readonly TreeBone[]])[] = [
  ...[
    'deckhand.glb',
    'deckhand-clean.glb',
    'stoker.dae',
    'heron.glb',
    'quay-skeleton.glb',
    'capstan.glb',
  ].map((file) => [file, treeBonesOf(castCharacter(`${file}`))] as const),
  ...[QUAY, VRM_HUMANOID].map(
    (skeleton) => [skeleton.title, treeBonesOf(characterOfSkeleton(skeleton))] as const,
  ),
  ...HABITS.map((habit, i) => {
    const kinds = Object.keys(KINDS) as FigureKind[];
    const figure = makeFigure(makeRandom(900 + i), kinds[i % kinds.length], habit);
    return [`a figure named ${habit.id}`, treeBonesOf(characterOfSkeleton(figure.skeleton))] as const;
  }),
  ...Array.from(
    { length: 20 },
    (_, i) =>
      [`beast ${i}`, treeBonesOf(characterOfSkeleton(makeBeast(makeRandom(700 + i)).skeleton))] as const,
  ),
];

describe.each(trees)('%s', (_, bones) => {
  it.each([
    ['as it is by itself', AS_IT_IS],
    ['with everything open', allOpen(bones)],
  ])('%s: every bone is there once, and no label stands on another', (_, shown) => {
    const drawing = drawTree(bones, shown);
    expect(all(drawing)).toEqual(bones.map(({ node }) => node).sort((a, b) => a - b));
    expect(overlaps(drawing)).toEqual([]);
  });

  it('twins stand opposite each other', () => {
    const { bones: placed } = drawTree(bones, allOpen(bones));
    const at = new Map(placed.map((bone) => [bone.node, bone]));
    const trunk = new Set(placed.filter(({ x }) => x === 0).map(({ node }) => node));
    const byNode = new Map(bones.map((bone) => [bone.node, bone]));
    // Those whose way down leads over bones that have a side or stand in the trunk: what hangs on a branch of the middle stands in one half.
    const isFree = (bone: TreeBone): boolean =>
      bone.side === 0 ? trunk.has(bone.node) : bone.parent < 0 || isFree(byNode.get(bone.parent) as TreeBone);
    for (const bone of bones) {
      const twin = byNode.get(bone.twin);
      if (!twin || !isFree(bone) || !isFree(twin) || bone.parent < 0) continue;
      expect(at.get(bone.node)!.x).toBe(-at.get(twin.node)!.x);
      expect(at.get(bone.node)!.y).toBe(at.get(twin.node)!.y);
    }
  });
});

describe('what is wrong is seen', () => {
  const bones = treeBonesOf(characterOfSkeleton(QUAY));
  const open = allOpen(bones);
  const nodeOf = (name: string) => bones.find((bone) => bone.name === name)!.node;
  const names = bones.map(({ name }) => name);
  const [hand] = names.filter((name) => /^hand.*lt$/.test(name));
  const other = hand.replace(/lt$/, 'rt');

  it('the sound one is in balance: nothing astray, nothing missing', () => {
    const { branches, missing } = drawTree(bones, open);
    expect(branches.filter(({ kind }) => kind === 'astray' || kind === 'missing')).toEqual([]);
    expect(missing).toEqual([]);
  });

  it('a hand that hangs under the other arm crosses over', () => {
    const astray = bones.map((bone) =>
      bone.name === hand ? { ...bone, parent: bones.find((b) => b.name === other)!.parent } : bone,
    );
    const { branches, bones: placed } = drawTree(astray, open);
    const crossing = branches.filter(({ kind }) => kind === 'astray');
    expect(crossing).toHaveLength(1);
    const at = placed.find(({ node }) => node === nodeOf(hand))!;
    expect(crossing[0].to).toEqual([at.x, at.y]);
    // It stands on its own side still, and comes from the other one.
    expect(Math.sign(crossing[0].from[0])).toBe(-Math.sign(at.x));
  });

  it('a branch without a twin leaves one empty place, however long it is', () => {
    const gone = new Set<number>();
    for (const bone of bones) if (bone.name === other || gone.has(bone.parent)) gone.add(bone.node);
    const { missing } = drawTree(
      bones
        .filter(({ node }) => !gone.has(node))
        .map((bone) => (gone.has(bone.twin) ? { ...bone, twin: -1 } : bone)),
      open,
    );
    expect(missing.map(({ twin }) => twin)).toEqual([nodeOf(hand)]);
  });

  it('renaming a bone moves nothing', () => {
    const places = (drawn: TreeDrawing) => drawn.bones.map(({ node, x, y }) => [node, x, y]);
    const renamed = bones.map((bone) =>
      bone.name === hand ? { ...bone, name: 'something_much_longer_lt' } : bone,
    );
    expect(places(drawTree(renamed, AS_IT_IS))).toEqual(places(drawTree(bones, AS_IT_IS)));
  });

  it('of a choice those above it stand faintly, and nothing else', () => {
    const { bones: placed } = drawTree(bones, { folds: new Map(), only: new Set([nodeOf(hand)]) });
    expect(placed.filter(({ isFaint }) => !isFaint).map(({ node }) => node)).toEqual([nodeOf(hand)]);
    const byNode = new Map(bones.map((bone) => [bone.node, bone]));
    const above: number[] = [];
    for (let at = byNode.get(nodeOf(hand))!.parent; at >= 0; at = byNode.get(at)!.parent) above.push(at);
    const wanted = new Set(above);
    for (const { node, isFaint } of placed) if (isFaint) expect(wanted).toContain(node);
  });
});

describe('labels', () => {
  it.each([
    ['L_coat_b_end', 'R_coat_b_end', 'coat_b_end'],
    ['hand_lt', 'hand_rt', 'hand'],
    ['LeftForeArm', 'RightForeArm', 'ForeArm'],
    ['thighL', 'thighR', 'thigh'],
    ['arm.L.001', 'arm.R.001', 'arm.001'],
    ['mano_izq', 'mano_der', 'mano'],
    ['Hand_links', 'Hand_rechts', 'Hand'],
    ['lantern', '', 'lantern'],
  ])('%s → %s', (name, twin, label) => expect(withoutSide(name, twin)).toBe(label));

  it.each([
    ['L_coat_b_end', 'R_coat_b_end'],
    ['hand_lt', 'hand_rt'],
    ['LeftForeArm', 'RightForeArm'],
    ['upperArmLeft2', 'upperArmRight2'],
    ['thighL', 'thighR'],
    ['arm.l.001', 'arm.r.001'],
    ['LEFT hand', 'RIGHT hand'],
  ])('%s and %s are each other’s other side', (left, right) => {
    expect(withOtherSide(left)).toBe(right);
    expect(withOtherSide(right)).toBe(left);
  });

  it.each(['lantern', 'reel', 'Roll', 'pelvis', 'toggle'])('%s says no side', (name) =>
    expect(withOtherSide(name)).toBeNull(),
  );

  it('what all names begin with is left out, and a long one is cut in the middle', () => {
    const bones = treeBonesOf(characterOfSkeleton(QUAY)).map((bone) => ({
      ...bone,
      name: `crew_${bone.name}`,
    }));
    const labels = [...labelsOf(bones).values()];
    expect(labels.filter((label) => label.startsWith('crew'))).toEqual([]);
    expect(labels.every((label) => [...label].length <= 11 && label.length > 0)).toBe(true);
  });
});

describe('a chain as long as a file may have bones', () => {
  const chain = (side: -1 | 0 | 1): TreeBone[] =>
    Array.from({ length: 20_000 }, (_, i) => ({
      node: i,
      name: `chain_${i}`,
      parent: i - 1,
      side: i === 0 ? 0 : side,
      isSideNamed: true,
      twin: -1,
      role: 'bone',
      kind: 'deforming',
      why: '',
      weight: 1,
      height: i,
      word: '',
    }));
  it.each([
    ['in the middle', 0],
    ['on a side', 1],
  ] as const)('%s is drawn', (_, side) => {
    const bones = chain(side);
    expect(all(drawTree(bones, AS_IT_IS))).toHaveLength(bones.length);
    expect(all(drawTree(bones, { folds: new Map(), only: new Set([19_999]) }))).toContain(19_999);
  });
});

it('where only the shape tells sides nothing is said of left and right, and names stay whole', () => {
  const bones = treeBonesOf(castCharacter('capstan.glb'));
  const drawing = drawTree(bones, AS_IT_IS);
  expect(drawing.bones.filter(({ side }) => side !== 0)).toEqual([]);
  expect(
    new Set(drawing.bones.filter(({ label }) => /bar/.test(label)).map(({ label }) => label)).size,
  ).toBeGreaterThan(7);
});
