/** The turn test of a pair, against turns and reflections by three.js. */
import { Matrix4, Quaternion, Vector3 } from 'three';
import { bonesOf } from '@/core/character/hierarchy';
import { withTurnedAxes } from '@/core/character/turn-axes';
import { quatAbout, type Quat } from '@/core/geometry/matrix';
import { judgedPairs } from '@/core/rooms/skeleton/pairs';
import { turnTestOf } from '@/core/rooms/skeleton/turn-test';
import { castCharacter } from './support/cast';

const clean = castCharacter('deckhand-clean.glb');

/** Degrees between the turn of the twin and the mirror image of the turn of a bone, both about one own axis. */
function apartByThree(character: typeof clean, node: number, k: number, sign: number): number {
  const { skeleton, plane, pairs } = judgedPairs(character)!;
  const { pair, left } = pairs.find((one) => one.left.node === node || one.right.node === node)!;
  const [mine, other] = left.node === node ? pair : [pair[1], pair[0]];
  const normal = new Vector3(...plane.normal);
  const reflect = new Matrix4().set(
    1 - 2 * normal.x ** 2,
    -2 * normal.x * normal.y,
    -2 * normal.x * normal.z,
    0,
    -2 * normal.x * normal.y,
    1 - 2 * normal.y ** 2,
    -2 * normal.y * normal.z,
    0,
    -2 * normal.x * normal.z,
    -2 * normal.y * normal.z,
    1 - 2 * normal.z ** 2,
    0,
    0,
    0,
    0,
    1,
  );
  const angle = 0.7;
  const inWorld = (i: number, by: number) => {
    const own = new Quaternion(...skeleton.bones[i].rotation);
    const axis = new Vector3().setComponent(k, 1);
    return own.clone().multiply(new Quaternion().setFromAxisAngle(axis, by)).multiply(own.clone().invert());
  };
  const turned = new Matrix4().makeRotationFromQuaternion(inWorld(mine, angle));
  const image = new Quaternion().setFromRotationMatrix(reflect.clone().multiply(turned).multiply(reflect));
  return (image.angleTo(inWorld(other, sign * angle)) * 180) / Math.PI;
}

it('where it says mirror images they are, and where it says how far off, two turns are apart by what that makes', () => {
  const bones = bonesOf(clean).filter((bone) => turnTestOf(clean, bone));
  expect(bones.length).toBeGreaterThan(40);
  const turns = new Map(
    bones
      .filter((_, i) => i % 3 === 0)
      .map((bone, i): [number, Quat] => [bone, quatAbout([0.3, 0.5, -0.8], 0.1 * i) as Quat]),
  );
  for (const character of [clean, withTurnedAxes(clean, turns)])
    for (const bone of bones)
      turnTestOf(character, bone)!.axes.forEach(({ way, off }, k) => {
        const apart = apartByThree(character, bone, k, way === 'same' ? 1 : -1);
        // Two turns by 0.7 about axes that lie so far apart: from the product of their quaternions.
        const [half, wide] = [0.35, (off * Math.PI) / 180];
        const cosine = Math.cos(half) ** 2 + Math.sin(half) ** 2 * Math.cos(wide);
        expect(apart).toBeCloseTo((2 * Math.acos(Math.min(1, cosine)) * 180) / Math.PI, 3);
      });
});

it('the game’s own pairs turn alike about every axis; a hand turned about one is off about the other two', () => {
  const hand = clean.nodes.findIndex(({ name }) => name === 'hand_rt');
  const sound = turnTestOf(clean, hand)!;
  expect(clean.nodes[sound.twin].name).toBe('hand_lt');
  for (const { off } of sound.axes) expect(off).toBeLessThan(0.1);
  const turned = turnTestOf(
    withTurnedAxes(clean, new Map([[hand, quatAbout([1, 0, 0], 0.35) as Quat]])),
    hand,
  )!;
  expect(turned.axes.map(({ off }) => Math.round(off))).toEqual([0, 20, 20]);
});

it('a bone in the middle has no twin', () =>
  expect(
    turnTestOf(
      clean,
      clean.nodes.findIndex(({ name }) => name === 'head'),
    ),
  ).toBeNull());
