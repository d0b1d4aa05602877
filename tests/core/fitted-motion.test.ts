/** Motion on a rig with other bones: as near as its joints can bring the mesh. */
import fc from 'fast-check';
import { withRules } from '@/core/anatomy/crosswalk';
import { type Skeleton, type SkeletonBone, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { topDown } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { multiply, normalise, quatAbout, quatRotate } from '@/core/geometry/matrix';
import { rotationOf } from '@/core/geometry/rotation';
import { MotionFit } from '@/core/motion/fit';
import { posedWorld, transferPose } from '@/core/motion/pose';
import { posesFor } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { type Remapped, remap } from '@/core/rooms/crosswalk/remap';
import { castCharacter } from './support/cast';
import { rmsApart } from './support/moved';
import { real } from './support/random';

describe('the rotation nearest to a matrix', () => {
  it('is R of R·S, where S is symmetric and stretches (polar decomposition)', () => {
    const axis = fc.tuple(real(-1, 1), real(-1, 1), real(-1, 1)).filter((a) => Math.hypot(...a) > 0.1);
    const stretch = fc.tuple(real(0.2, 3), real(0.2, 3), real(0.2, 3));
    fc.assert(
      fc.property(axis, real(-2.6, 2.6), axis, stretch, (a, angle, b, [x, y, z]) => {
        const rotation = quatAbout(normalise(a), angle);
        const turned = quatAbout(normalise(b), 0.7);
        // S = T·diag·Tᵀ, column by column, then R·S.
        const s = [0, 1, 2].map((bone) => {
          const unit = [0, 0, 0].map((_, k) => (k === bone ? 1 : 0));
          const [share, v, w] = quatRotate([-turned[0], -turned[1], -turned[2], turned[3]], unit);
          return quatRotate(rotation, quatRotate(turned, [share * x, v * y, w * z]));
        });
        const matrix = Float64Array.from([0, 1, 2].flatMap((row) => s.map((column) => column[row])));
        const found = rotationOf(matrix);
        const same = Math.abs(found.reduce((sum, value, k) => sum + value * rotation[k], 0));
        expect(same).toBeGreaterThan(1 - 1e-9);
      }),
    );
  });
  it('of nothing at all is no turn', () => {
    expect(rotationOf(new Float64Array(9))).toEqual([0, 0, 0, 1]);
  });
});

/** How far all points lie off in a pose. */
const offOf = (before: Character, remapped: Remapped, world: Float64Array, moved: Float64Array) =>
  rmsApart(before, remapped, [{ world, moved }]);

const clean = () => castCharacter('deckhand-clean.glb');

describe('on fewer bones', () => {
  const before = clean();
  const crosswalk = suggest(skeletonOf(before), VRM_HUMANOID);
  const out = remap(before, VRM_HUMANOID, crosswalk, { limit: 4 });
  const fit = new MotionFit({ source: before, target: out.character, sourceNodeOf: out.sourceNodeOf });
  const poses = posesFor(before, crosswalk);
  const plain = (world: Float64Array) => transferPose(before, world, out.character, out.sourceNodeOf);

  it('lies nearer over all poses, by more than half, and farther in none', () => {
    let [mine, theirs] = [0, 0];
    for (const { label, world } of poses) {
      const a = offOf(before, out, world, fit.pose(world));
      const b = offOf(before, out, world, plain(world));
      mine += a * a;
      theirs += b * b;
      // Fitted to a share of the points, and held against all of them.
      expect([label, a <= b * 1.03 + 1e-6]).toEqual([label, true]);
    }
    expect(Math.sqrt(mine / theirs)).toBeLessThan(0.45);
  });

  it('keeps the length of every bone, and what hangs on what', () => {
    const { nodes } = out.character;
    const length = (world: Float64Array, node: number) => {
      const p = nodes[node].parent * 16;
      return Math.hypot(...[12, 13, 14].map((k) => world[node * 16 + k] - world[p + k]));
    };
    for (const { world } of poses.filter((_, k) => k % 7 === 0)) {
      const moved = fit.pose(world);
      const rest = plain(world);
      for (const node of topDown(nodes))
        if (nodes[node].kind === 'bone' && nodes[node].parent >= 0)
          expect(length(moved, node)).toBeCloseTo(length(rest, node), 9);
    }
  });

  it('no joint can be turned a little and bring the mesh noticeably nearer', () => {
    const { world } = poses.find((pose) => pose.label === 'spine_5')!;
    const moved = fit.pose(world);
    const best = offOf(before, out, world, moved);
    const { nodes } = out.character;
    const bones = nodes.flatMap((node, i) =>
      /^(spine|chest|upperChest|neck|leftUpperArm)$/.test(node.name) ? [i] : [],
    );
    expect(bones.length).toBe(5);
    for (const bone of bones)
      for (const axis of [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ])
        for (const degrees of [-1, 1]) {
          const turned = turnedBranch(nodes, moved, bone, quatAbout(axis, (degrees * Math.PI) / 180));
          expect(offOf(before, out, world, turned)).toBeGreaterThan(best * 0.97);
        }
  });
});

/** World matrices with one node and all under it turned about the node's own place. */
function turnedBranch(
  nodes: Character['nodes'],
  world: Float64Array,
  node: number,
  rotation: readonly number[],
): Float64Array {
  const out = world.slice();
  const isIn = new Set([node]);
  const points = world.slice(node * 16 + 12, node * 16 + 15);
  const at = points.map((x, k) => x - quatRotate(rotation, points)[k]);
  const columns = [0, 1, 2].flatMap((bone) => [
    ...quatRotate(
      rotation,
      [0, 1, 2].map((k) => (k === bone ? 1 : 0)),
    ),
    0,
  ]);
  const turn = Float64Array.from([...columns, ...at, 1]);
  for (const i of topDown(nodes)) {
    if (isIn.has(nodes[i].parent)) isIn.add(i);
    if (isIn.has(i)) multiply(out, i * 16, turn, 0, world, i * 16);
  }
  return out;
}

it('on the same bones it is what it was, to float precision', () => {
  const before = clean();
  const out = remap(before, QUAY, suggest(skeletonOf(before), QUAY), { limit: 4 });
  const fit = new MotionFit({ source: before, target: out.character, sourceNodeOf: out.sourceNodeOf });
  for (const { world } of posesFor(before, suggest(skeletonOf(before), QUAY)).slice(0, 12)) {
    const plain = transferPose(before, world, out.character, out.sourceNodeOf);
    expect(fit.pose(world)).toEqual(plain);
  }
});

it('a finger folded whole into its first bone points where its end pointed', () => {
  const before = clean();
  const source = skeletonOf(before);
  const at = (name: string) => source.bones.findIndex((bone) => bone.name === name);
  const bone = (name: string, parent: number, of: string): SkeletonBone => ({
    ...source.bones[at(of)],
    name,
    parent,
    weight: 0,
    node: -1,
  });
  const target: Skeleton = {
    id: '',
    title: 'one bone a finger',
    bones: [bone('hand', -1, 'hand_lt'), bone('finger', 0, 'point_1_lt')],
  };
  const fingers = ['point_1_lt', 'point_2_lt', 'point_3_lt'].map(at);
  const carried = withRules(suggest(source, target), [at('hand_lt')], 'carry', 0);
  const crosswalk = withRules(carried, fingers, 'fold', 1);
  const out = remap(before, target, crosswalk, { limit: 4 });
  const node = source.bones[fingers[1]].node;
  const world = posedWorld(before, new Map([[node, quatAbout([0, 1, 0], 0.6)]]));
  const fit = new MotionFit({ source: before, target: out.character, sourceNodeOf: out.sourceNodeOf });
  const plain = transferPose(before, world, out.character, out.sourceNodeOf);
  const [a, b] = [fit.pose(world), plain].map((moved) => offOf(before, out, world, moved));
  expect(a).toBeLessThan(0.8 * b);
});

it('no joint turns for points whose weights had to be mended: of the delivered Deckhand the others stay where they were', () => {
  const before = castCharacter('deckhand.glb');
  const crosswalk = suggest(skeletonOf(before), QUAY);
  const out = remap(before, QUAY, crosswalk, { limit: 4 });
  expect(out.report.vertices.trimmed).toBeGreaterThan(150);
  const proof = prove(out, posesFor(out.reference, crosswalk));
  expect(proof.max).toBeGreaterThan(0.01);
  expect(proof.byPairs).toBeLessThan(0.0015);
});
