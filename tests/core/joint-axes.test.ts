/** Along which axes a joint is moved, and where a ray leads along them, both against three.js. */
import fc from 'fast-check';
import { Matrix4, Plane, Quaternion, Ray, Vector3 } from 'three';
import { restPlace, restWorld } from '@/core/character/hierarchy';
import { placeUnder } from '@/core/geometry/drag';
import { type Vec3, dot, normalise, subtract } from '@/core/geometry/matrix';
import { JOINT_AXES, jointAxes } from '@/core/rooms/skeleton/joint-axes';
import { castCharacter } from './support/cast';

const coordinate = fc.double({ min: -3, max: 3, noNaN: true });
const place = fc.tuple(coordinate, coordinate, coordinate);
const direction = place.filter((way) => Math.hypot(...way) > 0.1).map((way) => normalise(way));

describe('where a ray leads along a line or within a plane', () => {
  it('meets a plane where three.js meets it', () => {
    fc.assert(
      fc.property(place, direction, place, direction, (through, normal, origin, along) => {
        const mine = placeUnder({ kind: 'plane', through, direction: normal }, { origin, direction: along });
        const plane = new Plane().setFromNormalAndCoplanarPoint(
          new Vector3(...normal),
          new Vector3(...through),
        );
        const theirs = new Ray(new Vector3(...origin), new Vector3(...along)).intersectPlane(
          plane,
          new Vector3(),
        );
        const isFlat = Math.abs(dot(normal, along)) < 0.05;
        if (isFlat || !theirs) return mine === null;
        return mine !== null && theirs.distanceTo(new Vector3(...mine)) < 1e-6;
      }),
    );
  });

  it('goes on a line where three.js finds the line nearest to the ray', () => {
    fc.assert(
      fc.property(place, direction, place, direction, (through, way, origin, along) => {
        const mine = placeUnder({ kind: 'line', through, direction: way }, { origin, direction: along });
        if (Math.abs(dot(way, along)) > 0.998) return true;
        if (!mine) return false;
        const end = (sign: number) =>
          new Vector3(...through).addScaledVector(new Vector3(...way), sign * 1000);
        const [onRay, onLine] = [new Vector3(), new Vector3()];
        new Ray(new Vector3(...origin), new Vector3(...along)).distanceSqToSegment(
          end(-1),
          end(1),
          onRay,
          onLine,
        );
        const isBehind = onRay.distanceTo(new Vector3(...origin)) < 1e-9;
        return isBehind || onLine.distanceTo(new Vector3(...mine)) < 1e-3;
      }),
    );
  });

  it('tells nothing of a line that is looked along, and of a plane edge on', () => {
    const ray = { origin: [0, 0, 5] as Vec3, direction: [0, 0, -1] as Vec3 };
    expect(placeUnder({ kind: 'line', through: [0, 0, 0], direction: [0, 0, 1] }, ray)).toBeNull();
    expect(placeUnder({ kind: 'plane', through: [0, 0, 0], direction: [1, 0, 0] }, ray)).toBeNull();
  });
});

describe('the axes that a joint is moved along', () => {
  const character = castCharacter('deckhand-clean.glb');
  const boneNamed = (name: string) => character.nodes.findIndex((node) => node.name === name);
  const elbow = boneNamed('arm_lower_lt');

  it('are square to each other and of length one, for every bone of the Deckhand', () => {
    const bones = character.nodes.flatMap(({ kind }, node) => (kind === 'bone' ? [node] : []));
    for (const bone of bones)
      for (const axes of JOINT_AXES) {
        const [x, y, z] = jointAxes(character, bone, axes);
        for (const way of [x, y, z]) expect(dot(way, way)).toBeCloseTo(1, 9);
        expect(Math.max(...[dot(x, y), dot(y, z), dot(z, x)].map(Math.abs))).toBeLessThan(1e-9);
      }
  });

  it('its own are where three.js turns the units', () => {
    const turn = new Quaternion();
    new Matrix4()
      .fromArray(restWorld(character.nodes), elbow * 16)
      .decompose(new Vector3(), turn, new Vector3());
    jointAxes(character, elbow, 'own').forEach((axis, k) => {
      const unit = new Vector3(Number(k === 0), Number(k === 1), Number(k === 2)).applyQuaternion(turn);
      expect(unit.distanceTo(new Vector3(...axis))).toBeLessThan(1e-9);
    });
  });

  it('of an elbow: y runs from shoulder to hand, x is square to the plane of the three, also where it was moved', () => {
    const shoulder = restPlace(character.nodes, boneNamed('arm_upper_lt')) as Vec3;
    const hand = restPlace(character.nodes, boneNamed('hand_lt')) as Vec3;
    const moved = restPlace(character.nodes, elbow).map(
      (value, k) => value + [0, 0.05, -0.1][k],
    ) as unknown as Vec3;
    const [x, y] = jointAxes(character, elbow, 'chain', (node) =>
      node === elbow ? moved : (restPlace(character.nodes, node) as Vec3),
    );
    expect(dot(y, normalise(subtract(hand, shoulder)))).toBeCloseTo(1, 9);
    for (const from of [shoulder, hand]) expect(dot(x, subtract(moved, from))).toBeCloseTo(0, 9);
  });
});
