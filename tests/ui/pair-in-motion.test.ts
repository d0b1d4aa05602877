/** Two revisions in motion: what bends otherwise, and both in one pose. */
import type { Character } from '@/core/character/model';
import { turnsOfMotion } from '@/core/anatomy/joint-motions';
import { placedPoints } from '@/core/character/deform';
import { USUAL_LIMITS } from '@/core/contracts/trials';
import { influencesFrom } from '@/core/geometry/influences';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { posedWorld } from '@/core/motion/pose';
import { triedMotions } from '@/core/rooms/trials/motions';
import { PairInMotion } from '@/ui/worker/pair-in-motion';
import { chainTube } from '../core/support/chain';

const brief = { ...PLAIN_FIGURE, trials: USUAL_LIMITS };
const quiet = { told: () => {}, isStopped: () => false };
const soft = chainTube(3);

/** The tube with every point wholly on the bone that it lies along. */
const hard: Character = (() => {
  const [mesh] = soft.meshes;
  const rows = Array.from({ length: mesh.vertexCount }, (_, vertex) => {
    const y = mesh.attributes.POSITION.data[vertex * 3 + 1];
    return [[Math.min(2, Math.floor(y / (2 / 3))), 1] as [number, number]];
  });
  return { ...soft, meshes: [{ ...mesh, influences: influencesFrom(rows) }] };
})();

it('what bends as it did is told as such, with how many motions were tried', async () => {
  const found = await new PairInMotion(soft, { ...soft }).changes(brief, quiet);
  expect(found?.changes).toEqual([]);
  expect(found?.count).toBeGreaterThan(5);
});

it('what bends otherwise comes with both figures, the worst first', async () => {
  const shares: number[] = [];
  const found = await new PairInMotion(soft, hard).changes(brief, {
    ...quiet,
    told: (share) => shares.push(share),
  });
  expect(found!.changes.length).toBeGreaterThan(3);
  const losses = found!.changes.map(({ volume, stretch }) => stretch / 10 - (volume ?? 0));
  expect(losses).toEqual([...losses].sort((a, b) => b - a));
  expect(losses[0]).toBeGreaterThan(0.005);
  for (const share of shares) expect(share).toBeGreaterThanOrEqual(0);
  expect(Math.max(0, ...shares)).toBeLessThanOrEqual(1);
});

it('stopped, it tells nothing', async () => {
  const stopped = { told: () => {}, isStopped: () => true };
  const slow = chainTube(24, 481, 24);
  expect(await new PairInMotion(slow, { ...slow }).changes(brief, stopped)).toBeNull();
});

it('bones are found again where another node stands before them', async () => {
  const [first] = soft.nodes;
  const moved: Character = {
    ...soft,
    nodes: [
      { ...first, name: 'a lamp', kind: 'empty', parent: -1 },
      ...soft.nodes.map((node) => ({ ...node, parent: node.parent < 0 ? -1 : node.parent + 1 })),
    ],
    skins: soft.skins.map((skin) => ({ ...skin, joints: skin.joints.map((joint) => joint + 1) })),
  };
  const pair = new PairInMotion(soft, moved);
  expect((await pair.changes(brief, quiet))?.changes).toEqual([]);
  const motion = triedMotions(moved, USUAL_LIMITS).find(({ bone }) => bone === 2)!;
  expect(pair.inMotion(2, motion.motion, motion.degrees, brief)!.most).toBeLessThan(1e-6);
});

it('both stand in the very motion: every point is as far from the other as skinning has it', () => {
  const pair = new PairInMotion(soft, hard);
  const motion = triedMotions(hard, USUAL_LIMITS).find(({ bone }) => bone === 1)!;
  const { apart, most } = pair.inMotion(1, motion.motion, motion.degrees, brief)!;
  const world = posedWorld(hard, turnsOfMotion(motion, motion.degrees));
  const [before, after] = [soft, hard].map(({ meshes, skins }) =>
    placedPoints(meshes[0], skins[0], 3, world),
  );
  expect(apart).toHaveLength(1);
  let farthest = 0;
  apart[0].distance.forEach((distance, vertex) => {
    const wanted = Math.hypot(...[0, 1, 2].map((k) => after[vertex * 3 + k] - before[vertex * 3 + k]));
    expect(distance).toBeCloseTo(wanted, 5);
    farthest = Math.max(farthest, wanted);
  });
  expect(farthest).toBeGreaterThan(0.01);
  expect(most).toBeCloseTo(farthest, 5);
  expect(pair.inMotion(1, 'no such motion', 30, brief)).toBeNull();
});
