/** How a figure stands when bones are turned by hand, against three.js and closed forms. */
import fc from 'fast-check';
import { Euler, Object3D, Quaternion } from 'three';
import { bonesOf, localsOfWorld, restLocals } from '@/core/character/hierarchy';
import { decompose, quatMultiply } from '@/core/geometry/matrix';
import {
  type TurnAxes,
  degreesOfTurn,
  mirroredTurn,
  ownPosedWorld,
  restRotation,
  turnOfDegrees,
  turnedFurther,
  turnsOfLocals,
} from '@/core/motion/hand-pose';
import { clipLocals, clipWorld } from '@/core/motion/pose';
import { BorrowedMotion } from '@/core/rooms/crosswalk/borrowed';
import { castCharacter } from './support/cast';

const deckhand = castCharacter('deckhand-clean.glb');
const bones = bonesOf(deckhand);
const named = (name: string) => deckhand.nodes.findIndex((node) => node.name === name);

const angle = fc.double({ min: -179, max: 179, noNaN: true });
const degrees = fc.tuple(angle, fc.double({ min: -89, max: 89, noNaN: true }), angle);

it('turns about x, then y, then z are those of three.js, told back as they were given', () => {
  const turned = new Quaternion();
  fc.assert(
    fc.property(
      degrees,
      fc.constantFrom<TurnAxes>('own', 'world'),
      fc.constantFrom(...bones),
      (wanted, axes, bone) => {
        const rest = restRotation(deckhand, bone);
        const turn = turnOfDegrees(wanted, axes, rest);
        const radians = wanted.map((x) => (x * Math.PI) / 180);
        if (axes === 'own') {
          // Fixed axes x, y, z are turning ones z, y, x.
          turned.setFromEuler(new Euler(radians[0], radians[1], radians[2], 'ZYX'));
          expect(
            Math.abs(turned.x * turn[0] + turned.y * turn[1] + turned.z * turn[2] + turned.w * turn[3]),
          ).toBeCloseTo(1, 9);
        }
        degreesOfTurn(turn, axes, rest).forEach((x, k) => expect(x).toBeCloseTo(wanted[k], 4));
      },
    ),
  );
});

it('bones stand as three.js has them when each is turned in its own frame', () => {
  const some = ['arm_upper_lt', 'arm_lower_lt', 'spine_2', 'leg_upper_rt', 'leg_lower_rt'].map(named);
  const turns = new Map(
    some.map((bone, k) => [bone, turnOfDegrees([20 + 7 * k, -15, 40 - 9 * k], 'own', [])]),
  );
  const world = ownPosedWorld(deckhand, turns);
  const objects = deckhand.nodes.map(({ translation, rotation, scale }) => {
    const object = new Object3D();
    object.position.fromArray([...translation] as [number, number, number]);
    object.quaternion.fromArray([...rotation] as [number, number, number, number]);
    object.scale.fromArray([...scale] as [number, number, number]);
    return object;
  });
  deckhand.nodes.forEach(({ parent }, i) => parent >= 0 && objects[parent].add(objects[i]));
  for (const [bone, [x, y, z, w]] of turns) objects[bone].quaternion.multiply(new Quaternion(x, y, z, w));
  objects.filter((object) => !object.parent).forEach((object) => object.updateMatrixWorld(true));
  for (const bone of bones)
    objects[bone].matrixWorld.elements.forEach((x, k) => expect(world[bone * 16 + k]).toBeCloseTo(x, 6));
});

it('the other side as mirror image: hands stand at mirrored places', () => {
  const pairs = [
    ['arm_upper_lt', 'arm_upper_rt'],
    ['arm_lower_lt', 'arm_lower_rt'],
  ].map((pair) => pair.map(named));
  fc.assert(
    fc.property(fc.tuple(degrees, degrees), (wanted) => {
      const turns = new Map<number, readonly number[]>();
      pairs.forEach(([left, right], k) => {
        const turn = turnOfDegrees(wanted[k], 'own', []);
        turns.set(left, turn);
        turns.set(right, mirroredTurn(turn, restRotation(deckhand, left), restRotation(deckhand, right)));
      });
      const world = ownPosedWorld(deckhand, turns);
      const [left, right] = ['hand_lt', 'hand_rt'].map(named);
      const at = (bone: number) => [...world.subarray(bone * 16 + 12, bone * 16 + 15)];
      at(left).forEach((x, k) => expect(at(right)[k]).toBeCloseTo(k === 0 ? -x : x, 4));
    }),
  );
});

it('a drag turns a bone about an axis of the world from how it stands, whatever its parents do', () => {
  const [upper, lower] = ['arm_upper_lt', 'arm_lower_lt'].map(named);
  const before = new Map([[upper, turnOfDegrees([30, 50, -20], 'own', [])]]);
  const world = ownPosedWorld(deckhand, before);
  const axis = [0, 0, 1];
  const turn = turnedFurther(deckhand, { world, locals: restLocals(deckhand.nodes) }, lower, axis, 0.7);
  const after = ownPosedWorld(deckhand, new Map([...before, [lower, turn]]));
  const expected = quatMultiply(
    [0, 0, Math.sin(0.35), Math.cos(0.35)],
    decompose(world, lower * 16).rotation,
  );
  const now = decompose(after, lower * 16).rotation;
  expect(Math.abs(expected.reduce((sum, x, k) => sum + x * now[k], 0))).toBeCloseTo(1, 9);
});

it('turns come on top of a moment of a clip: with none, the figure stands as the clip has it', () => {
  const [clip] = deckhand.clips;
  const locals = clipLocals(deckhand, clip, 0.4);
  expect(ownPosedWorld(deckhand, new Map(), locals)).toEqual(clipWorld(deckhand, clip, 0.4));
  const bone = named('arm_lower_lt');
  const turn = turnOfDegrees([0, 35, 0], 'own', []);
  const world = ownPosedWorld(deckhand, new Map([[bone, turn]]), locals);
  const before = decompose(clipWorld(deckhand, clip, 0.4), bone * 16).rotation;
  const now = decompose(world, bone * 16).rotation;
  expect(Math.abs(quatMultiply(before, turn).reduce((sum, x, k) => sum + x * now[k], 0))).toBeCloseTo(1, 9);
});

it('turns that are struck are told back as they were, and a pose is made again of its turns', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.constantFrom(...bones), degrees), { minLength: 1, maxLength: 5 }),
      (all) => {
        const turns = new Map(
          all.map(([bone, wanted]) => [bone, turnOfDegrees(wanted, 'own', restRotation(deckhand, bone))]),
        );
        const world = ownPosedWorld(deckhand, turns);
        const told = turnsOfLocals(deckhand, localsOfWorld(deckhand.nodes, world));
        const again = ownPosedWorld(deckhand, told);
        expect(again.length).toBe(world.length);
        expect(Math.max(...again.map((x, i) => Math.abs(x - world[i])))).toBeLessThan(1e-5);
        for (const bone of told.keys()) expect(turns.has(bone)).toBe(true);
      },
    ),
    { numRuns: 30 },
  );
});

it('motion that is lent moves the other’s bones as its own; lent to itself it is the clip', () => {
  const clip = deckhand.clips[0];
  const own = new BorrowedMotion(deckhand, deckhand);
  const time = clip.channels[0].times[Math.floor(clip.channels[0].times.length / 2)];
  const wanted = clipWorld(deckhand, clip, time);
  const given = own.worldAt(0, time);
  for (const bone of bones) {
    const [a, b] = [given, wanted].map((world) => decompose(world, bone * 16).rotation);
    // One rotation has two quaternions.
    expect(Math.abs(a.reduce((sum, x, k) => sum + x * b[k], 0))).toBeCloseTo(1, 5);
  }
  const stoker = castCharacter('stoker.dae');
  const lent = new BorrowedMotion(stoker, deckhand);
  expect(lent.isAlike).toBe(true);
  // The Stoker hails: an arm of the Deckhand goes up with his.
  const seconds = Math.max(...stoker.clips[0].channels.flatMap(({ times }) => [...times])) / 2;
  const moved = lent.worldAt(0, seconds);
  const rest = ownPosedWorld(deckhand, new Map());
  const turned = bones.filter((bone) => {
    const [a, b] = [moved, rest].map((world) => decompose(world, bone * 16).rotation);
    return Math.abs(a.reduce((sum, x, k) => sum + x * b[k], 0)) < 0.999;
  });
  expect(turned.length).toBeGreaterThan(2);
  const boneless = { ...deckhand, nodes: [], skins: [], meshes: [], clips: [] };
  expect(new BorrowedMotion(boneless, deckhand).isAlike).toBe(false);
});
