/** What the page's worker does while a move is tried on: both figures in motion, and work that gives way. */
import { skeletonOf } from '@/core/anatomy/skeleton';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { receiverById } from '@/core/rooms/docket/receivers';
import { refineTo } from '@/bench/refine';
import { type Pose, figureOf } from '@/ui/worker/figure';
import { Moving } from '@/ui/worker/moving';
import { castCharacter } from '../core/support/cast';

const clean = castCharacter('fine/deckhand-clean.glb');
const source = skeletonOf(clean);
const crosswalk = suggest(source, VRM_HUMANOID);
const options = { limit: 4, weights: 'example' } as const;
const begun = () => {
  const moving = new Moving();
  const tried = moving.try(clean, VRM_HUMANOID, crosswalk, options);
  return { moving, tried };
};

/** How far the points of two poses lie apart at most, metres. */
function apart(a: Pose, b: Pose): number {
  let far = 0;
  a.meshes.forEach((mesh, i) =>
    mesh.points.forEach((x, k) => (far = Math.max(far, Math.abs(x - b.meshes[i].points[k])))),
  );
  return far;
}

describe('both figures', () => {
  const { moving, tried } = begun();
  const nodeOf = (name: string) => source.bones.find((bone) => bone.name === name)!.node;
  const theirs = (name: string) => tried.figure!.bones.find((bone) => bone.name === name)!.node;
  const rest = moving.inPose(clean, 0)!;

  it('turn together, whichever is turned', () => {
    const left = moving.turned(clean, { side: 'source', node: nodeOf('leg_lower_lt'), degrees: [40, 0, 0] })!;
    const right = moving.turned(clean, {
      side: 'target',
      node: theirs('leftLowerLeg'),
      degrees: [40, 0, 0],
    })!;
    for (const both of [left, right]) {
      expect(both.isAlone).toBe(false);
      expect(apart(both.before, rest.before)).toBeGreaterThan(0.1);
      expect(apart(both.after, rest.after)).toBeGreaterThan(0.1);
      expect(both.most).toBeLessThan(0.002);
    }
  });
  it('say when nothing on the other side goes with what is turned', () => {
    const { isAlone, before } = moving.turned(clean, {
      side: 'target',
      node: theirs('jaw'),
      degrees: [20, 0, 0],
    })!;
    expect(isAlone).toBe(true);
    expect(apart(before, rest.before)).toBe(0);
  });
  it('go through a clip, and lie apart as the proof says', () => {
    const both = moving.inClip(clean, 0, 0.4)!;
    expect(apart(both.before, rest.before)).toBeGreaterThan(0.05);
    expect(both.most).toBeLessThanOrEqual(tried.proof.max * 1.5);
    const worst = tried.worst[0];
    const posed = moving.inPose(clean, worst.pose)!;
    expect(posed.apart.find((a) => a.node === worst.node)!.distance[worst.vertex]).toBeCloseTo(
      worst.distance,
      5,
    );
  });
  it('are not shown for another character', () => {
    expect(moving.inPose(castCharacter('stoker.dae'), 0)).toBe(null);
    expect(moving.inPose(clean, 10_000)).toBe(null);
  });
  it('arrive at a receiver, which says what it did', () => {
    const { said, max } = moving.arrive({ ...receiverById('browser')!, influences: 1 })!;
    expect(said[0].text).toMatch(/points lose bones/);
    expect(max).toBeGreaterThan(tried.proof.max);
  });
});

describe('what takes long', () => {
  it('gives way to a newer move, and tells how far it has come', async () => {
    const { moving } = begun();
    const shares: number[] = [];
    const solving = moving.solve(clean, VRM_HUMANOID, crosswalk, options, (share) => {
      shares.push(share);
      if (shares.length === 3) moving.try(clean, VRM_HUMANOID, crosswalk, { limit: 2 });
    });
    expect(await solving).toBe(null);
    expect(shares.length).toBeLessThan(6);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    // What was tried meanwhile stays.
    expect(moving.inPose(clean, 1)).not.toBe(null);
  });
  it('ends when it is told to, and leaves what was tried', async () => {
    const { moving } = begun();
    expect(await moving.deviationFloor(() => moving.stop())).toBe(null);
    expect(moving.inPose(clean, 1)).not.toBe(null);
    moving.drop();
    expect(await moving.deviationFloor(() => {})).toBe(null);
    expect(moving.arrive(receiverById('browser')!)).toBe(null);
  });
});

describe('a body of very many points', () => {
  it('is tried on a share of them first, which tells nearly what all of them tell', () => {
    const { moving, tried } = begun();
    // Small ones are tried at once.
    expect(moving.tryOnShare(clean, VRM_HUMANOID, crosswalk, options)).toBeNull();
    const fine = refineTo(clean, 180_000);
    const share = moving.tryOnShare(fine, VRM_HUMANOID, crosswalk, options)!;
    expect(share.share!.of).toBeGreaterThan(150_000);
    expect(share.share!.points).toBeLessThan(0.2 * share.share!.of);
    // The finer body has the same shape, so that its proof is that of the coarser one.
    expect(share.proof.max / tried.proof.max).toBeGreaterThan(0.8);
    expect(share.proof.max / tried.proof.max).toBeLessThan(1.1);
    expect(share.proof.rms / tried.proof.rms).toBeGreaterThan(0.7);
    expect(share.proof.rms / tried.proof.rms).toBeLessThan(1.4);
    // What was tried whole stays what the figures show.
    expect(moving.inPose(clean, 1)).not.toBeNull();
  });
  it('is drawn coarsely while it turns, over the same points; a smaller one never is', () => {
    const fine = refineTo(clean, 180_000);
    const [whole, small] = [figureOf(fine), figureOf(clean)];
    const count = (list: readonly (Uint32Array | null)[]) =>
      list.reduce((sum, t) => sum + (t?.length ?? 0), 0);
    expect(count(whole.meshes.map((mesh) => mesh.coarse))).toBeLessThan(
      0.5 * count(whole.meshes.map((mesh) => mesh.triangles)),
    );
    for (const mesh of whole.meshes)
      expect(mesh.coarse!.reduce((most, value) => Math.max(most, value), 0)).toBeLessThan(
        mesh.points.length / 3,
      );
    expect(small.meshes.every((mesh) => mesh.coarse === null)).toBe(true);
  });
});
