/** The mesh brought to a skeleton's rest pose, there and back. */
import fc from 'fast-check';
import { conformityOf } from '@/core/anatomy/conformity';
import { type Skeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { bonesOf, parentBone, restWorld } from '@/core/character/hierarchy';
import { brokenInvariants } from '@/core/character/invariants';
import { bodyMeshes, characterHeight, placedMeshes } from '@/core/character/measure';
import type { Channel, Character } from '@/core/character/model';
import { halfOf } from '@/core/geometry/half';
import { composeMatrix, inverseOr, normalise, quatAbout, times } from '@/core/geometry/matrix';
import { clipSeconds, clipWorld } from '@/core/motion/pose';
import { boundInPose } from '@/core/motion/bound-in-pose';
import { posesFor } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { posedFor } from '@/core/rooms/crosswalk/mesh-mode';
import { remap } from '@/core/rooms/crosswalk/remap';
import { writeGlb } from '@/core/formats/gltf/write';
import { castCharacter } from './support/cast';
import { real } from './support/random';
import { validate } from './support/validator';

describe('half of a motion', () => {
  const motion = fc
    .tuple(
      fc.tuple(real(-2, 2), real(-2, 2), real(-2, 2)),
      fc.tuple(real(-1, 1), real(-1, 1), real(-1, 1)).filter((a) => Math.hypot(...a) > 0.1),
      real(-2.2, 2.2),
      fc.tuple(real(0.7, 1.4), real(0.7, 1.4), real(0.7, 1.4)),
    )
    .map(([translation, axis, angle, scale]) =>
      composeMatrix(translation, quatAbout(normalise(axis), angle), scale),
    );
  it('done twice is the whole (principal square root)', () => {
    fc.assert(
      fc.property(motion, (matrix) => {
        const half = halfOf(matrix);
        times(half, half).forEach((x, i) => expect(x).toBeCloseTo(matrix[i], 7));
      }),
    );
  });
  it('of a turn is half the turn about the same axis (closed form)', () => {
    const half = halfOf(composeMatrix([0, 0, 0], quatAbout([0, 0, 1], 1.2), [1, 1, 1]));
    expect(half[0]).toBeCloseTo(Math.cos(0.6), 9);
    expect(half[1]).toBeCloseTo(Math.sin(0.6), 9);
  });
  it('of the way back is the way back of the half', () => {
    fc.assert(
      fc.property(motion, (matrix) => {
        const back = halfOf(inverseOr(matrix));
        inverseOr(halfOf(matrix)).forEach((x, i) => expect(back[i]).toBeCloseTo(x, 6));
      }),
    );
  });
  it('of a turn by half a circle there is none', () => {
    expect(() => halfOf(composeMatrix([0, 0, 0], quatAbout([0, 0, 1], Math.PI), [1, 1, 1]))).toThrow(
      RangeError,
    );
  });
});

/** Largest distance between the same points of two characters, as a share of the height. */
function apart(a: Character, b: Character): number {
  let far = 0;
  const other = placedMeshes(b);
  placedMeshes(a).forEach((placed, i) => {
    const points = other[i].points;
    for (let k = 0; k < placed.points.length; k += 3)
      far = Math.max(
        far,
        Math.hypot(
          placed.points[k] - points[k],
          placed.points[k + 1] - points[k + 1],
          placed.points[k + 2] - points[k + 2],
        ),
      );
  });
  return far / characterHeight(a);
}

/** The clean Deckhand with its arms turned down by so many degrees and bound there: its own skeleton in an A-pose. */
function armsDown(character: Character, degrees: number): Character {
  const by = (side: 1 | -1) => quatAbout([0, 0, 1], (-side * degrees * Math.PI) / 180);
  const arm = (name: string) => character.nodes.findIndex((node) => node.name === name);
  return boundInPose(
    character,
    new Map([
      [arm('arm_upper_lt'), by(1)],
      [arm('arm_upper_rt'), by(-1)],
    ]),
  );
}

describe('from T-pose to A-pose and back', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const skeleton: Skeleton = skeletonOf(clean);
  const otherSkeleton: Skeleton = skeletonOf(armsDown(clean, 40));
  const there = remap(clean, otherSkeleton, suggest(skeleton, otherSkeleton), { limit: 8, mode: 'mesh' });
  const back = remap(there.character, skeleton, suggest(skeletonOf(there.character), skeleton), {
    limit: 8,
    mode: 'mesh',
  });

  it('arrives in the other pose', () => {
    expect(apart(clean, there.character)).toBeGreaterThan(0.1);
    const { otherRotation, otherLength } = conformityOf(there.character, otherSkeleton);
    expect([otherRotation.length, otherLength.length]).toEqual([0, 0]);
  });
  it('returns every point to within 1e-5 of the height', () => {
    expect(apart(clean, back.character)).toBeLessThan(1e-5);
  });
  it('keeps every invariant, and files that validate', async () => {
    expect(brokenInvariants(there.character)).toEqual([]);
    expect(await validate(writeGlb(there.character).bytes)).toEqual([]);
  });
  it('goes in motion as the posed mesh goes', () => {
    const poses = posesFor(clean, suggest(skeleton, otherSkeleton)).filter((_, k) => k % 6 === 0);
    expect(poses.length).toBeGreaterThan(10);
    const proof = prove({ ...there, reference: there.motionSource }, poses);
    expect(proof.max).toBeLessThan(1e-5);
    // Against the mesh as it was, joints fold otherwise, and the pairs do none of it.
    const whole = prove(there, poses);
    expect(whole.max).toBeGreaterThan(proof.max);
    expect(whole.byPairs).toBeLessThan(1e-5);
  });
});

it('a stance with its legs apart is no step off the ground: the lowest joint stands as low as it stood', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const leg = (name: string) => clean.nodes.findIndex((node) => node.name === name);
  const apartBy = (side: 1 | -1) => quatAbout([0, 0, 1], side * 0.4);
  const wide = boundInPose(
    clean,
    new Map([
      [leg('leg_upper_lt'), apartBy(1)],
      [leg('leg_upper_rt'), apartBy(-1)],
    ]),
  );
  const [mine, theirs] = [skeletonOf(clean), skeletonOf(wide)];
  const feet = (character: Character) =>
    Math.min(
      ...skeletonOf(character)
        .bones.filter((bone) => /^(toe|foot)/.test(bone.name))
        .map((bone) => bone.place[1]),
    );
  expect(feet(wide) - feet(clean)).toBeGreaterThan(0.03);
  const posed = posedFor(clean, theirs, suggest(mine, theirs), 'kept');
  expect(feet(posed)).toBeCloseTo(feet(clean), 6);
  // The root marks the origin, whatever the legs do.
  expect(skeletonOf(posed).bones[0].place).toEqual(mine.bones[0].place);
});

it('a clip takes the bones where it took them, however the figure was set down; its tangents are left alone', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const node = (name: string) => clean.nodes.findIndex((node) => node.name === name);
  const pelvis = node('pelvis');
  const { translation } = clean.nodes[pelvis];
  const up = translation.map((x, k) => x + (k === 1 ? 0.2 : 0));
  const key = { node: pelvis, path: 'translation', times: Float32Array.of(0, 1) } as const;
  const turn = { node: node('spine_1'), path: 'rotation', interpolation: 'LINEAR' } as const;
  const clips = [
    [{ ...key, interpolation: 'LINEAR', values: Float32Array.of(...translation, ...up) }],
    [
      {
        ...key,
        interpolation: 'CUBICSPLINE',
        values: Float32Array.of(0, 0, 0, ...translation, 0, 1, 0, 0, 1, 0, ...up, 0, 0, 0),
      },
    ],
    // One that leaves the pelvis where the rest had it.
    [{ ...turn, times: Float32Array.of(0, 1), values: Float32Array.of(0, 0, 0, 1, 0, 0.6, 0, 0.8) }],
  ].map((channels, i) => ({ name: `clip ${i}`, channels: channels as Channel[] }));
  const source = { ...clean, clips };
  const legs = new Map(
    [1, -1].map((side) => [
      node(side > 0 ? 'leg_upper_lt' : 'leg_upper_rt'),
      quatAbout([0, 0, 1], side * 0.4),
    ]),
  );
  const wide = skeletonOf(boundInPose(clean, legs));
  const posed = posedFor(source, wide, suggest(skeletonOf(source), wide), 'kept');
  const height = (character: Character, world: Float64Array) => world[pelvis * 16 + 13];
  const lift = height(posed, restWorld(posed.nodes)) - height(source, restWorld(source.nodes));
  expect(Math.abs(lift)).toBeGreaterThan(0.03);
  clips.forEach((clip, i) => {
    for (const at of [0, 0.3, 1]) {
      const [before, after] = [clipWorld(source, clip, at), clipWorld(posed, posed.clips[i], at)];
      for (const bone of bonesOf(source))
        for (let k = 0; k < 16; k++) expect(after[bone * 16 + k]).toBeCloseTo(before[bone * 16 + k], 6);
    }
  });
});

describe('what comes along', () => {
  const stoker = castCharacter('stoker.dae');
  const posed = posedFor(stoker, QUAY, suggest(skeletonOf(stoker), QUAY), 'kept');
  it('clips: every bone goes where it went', () => {
    expect(stoker.clips.length).toBeGreaterThan(0);
    let [seen, most] = [0, 0];
    for (const clip of stoker.clips)
      for (const f of [0, 0.4, 0.9]) {
        const at = clipSeconds(clip) * f;
        const [a, b] = [
          clipWorld(stoker, clip, at),
          clipWorld(posed, posed.clips[stoker.clips.indexOf(clip)], at),
        ];
        for (const bone of bonesOf(stoker))
          for (let k = 0; k < 16; k++) {
            seen++;
            most = Math.max(most, Math.abs(b[bone * 16 + k] - a[bone * 16 + k]));
          }
      }
    expect(seen).toBeGreaterThan(1000);
    expect(most / characterHeight(stoker)).toBeLessThan(1e-5);
  });
  it('what hangs rigid on a bone stays as it hung', () => {
    const [a, b] = [restWorld(stoker.nodes), restWorld(posed.nodes)];
    const lamp = stoker.nodes.findIndex((node) => node.name === 'hand lamp');
    const hand = parentBone(stoker.nodes, lamp);
    const held = (world: Float64Array) => times(inverseOr(world, hand * 16), world, 0, lamp * 16);
    held(b).forEach((x, k) => expect(x).toBeCloseTo(held(a)[k], 9));
  });
});

describe('lengths', () => {
  const stoker = castCharacter('stoker.dae');
  const crosswalk = suggest(skeletonOf(stoker), QUAY);
  it('taken over are those of the skeleton, bone by bone', () => {
    const out = remap(stoker, VRM_HUMANOID, suggest(skeletonOf(stoker), VRM_HUMANOID), {
      limit: 4,
      mode: 'mesh',
      lengths: 'taken',
    });
    expect(conformityOf(out.character, VRM_HUMANOID).otherLength.length).toBeLessThan(4);
  });
  it('kept leave the body about as tall, and it stands as low', () => {
    const posed = posedFor(stoker, QUAY, crosswalk, 'kept');
    expect(characterHeight(posed) / characterHeight(stoker)).toBeGreaterThan(0.97);
    const low = (character: Character) =>
      Math.min(
        ...bodyMeshes(character).map((placed) =>
          placed.points.reduce((least, y, i) => (i % 3 === 1 ? Math.min(least, y) : least), Infinity),
        ),
      );
    expect(Math.abs(low(posed) - low(stoker)) / characterHeight(stoker)).toBeLessThan(0.02);
  });
});
