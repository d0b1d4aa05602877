/** The order of turns: the middle angle as three.js has it, and clips that bring it near to a right angle. */
import fc from 'fast-check';
import { Euler, Quaternion } from 'three';
import type { Character } from '@/core/character/model';
import { type Quat, quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { TURN_ORDERS, middleAngle } from '@/core/geometry/turn-order';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { checkById } from '@/core/house/registry';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const check = checkById('turn-order')!;
const asking = (turns: Brief['turns']): Brief => ({ ...brief, turns });

it('the middle angle is the one that three.js tells, in every order', () => {
  const part = fc.double({ min: -1, max: 1, noNaN: true });
  fc.assert(
    fc.property(part, part, part, part, (x, y, z, w) => {
      const turn = new Quaternion(x, y, z, w);
      if (turn.length() < 0.1) return;
      turn.normalize();
      for (const order of TURN_ORDERS) {
        const euler = new Euler().setFromQuaternion(turn, order.toUpperCase() as 'XYZ');
        const wanted = (euler[order[1] as 'x'] * 180) / Math.PI;
        expect(middleAngle(turn.toArray() as unknown as Quat, order)).toBeCloseTo(wanted, 3);
      }
    }),
  );
});

/** A clip that turns a thigh, which lies otherwise than its parent at rest, about one of its own axes, key by key. */
function turning(axis: readonly [number, number, number], degrees: readonly number[]): Character {
  const clean = castCharacter('coarse/deckhand-clean.glb');
  const node = clean.nodes.findIndex(({ name }) => name === 'leg_upper_lt');
  const { rotation } = clean.nodes[node];
  const values = Float32Array.from(
    degrees.flatMap((angle) => quatMultiply(rotation, quatAbout(axis, (angle * Math.PI) / 180))),
  );
  const times = Float32Array.from(degrees, (_, i) => i);
  return {
    ...clean,
    clips: [{ name: 'look', channels: [{ node, path: 'rotation', interpolation: 'LINEAR', times, values }] }],
  };
}

it('a thigh that turns 85° from rest about the middle axis is told, about another it is not', () => {
  const far = turning([0, 1, 0], [0, 40, 85]);
  const [finding] = check.run(far, asking({ order: 'xyz', most: 80 }));
  expect(finding).toMatchObject({ gravity: 'worth', measured: 85, count: 1 });
  expect(finding.message).toMatch(/up to 85° from rest in clips, told in the order X, Y, Z: “leg_upper_lt”/);
  expect(check.run(far, asking({ order: 'yxz', most: 80 }))).toEqual([]);
  expect(check.run(turning([0, 1, 0], [0, 40, 79]), asking({ order: 'xyz', most: 80 }))).toEqual([]);
  // Only keys count of a cubic one, not the tangents between.
  const cubic = turning([0, 1, 0], [85, 10, 85, 85, 20, 85]);
  const [channel] = cubic.clips[0].channels;
  const times = Float32Array.of(0, 1);
  const clips = [{ name: 'look', channels: [{ ...channel, interpolation: 'CUBICSPLINE' as const, times }] }];
  expect(check.run({ ...cubic, clips }, asking({ order: 'xyz', most: 80 }))).toEqual([]);
});

it('what is learned is the order whose middle axis turns least', () => {
  const learned = check.measures!(turning([0, 1, 0], [0, 60])) as Record<string, unknown>;
  expect(learned['turns.order']).not.toMatch(/^.y.$/);
  expect(learned['turns.most']).toBeLessThanOrEqual(1);
});
