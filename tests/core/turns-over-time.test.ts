/** The turn of a joint over a motion: against closed forms and three.js. */
import fc from 'fast-check';
import { Euler, Quaternion } from 'three';
import type { Clip } from '@/core/character/model';
import { quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { clipSeconds, clipWorld } from '@/core/motion/pose';
import { turnsOverTime } from '@/core/motion/turns-over-time';
import { chainTube } from './support/chain';

const tilted = quatAbout([0, 0, 1], 0.7);

/** A chain whose second bone is tilted at rest. */
const chain = () => {
  const character = chainTube(3);
  const nodes = character.nodes.map((node, i) => (i === 1 ? { ...node, rotation: tilted } : node));
  return { ...character, nodes };
};

/** A clip that turns the second bone from its rest by so many rotations, one a second. */
function clipOf(turns: readonly (readonly number[])[]): Clip {
  return {
    name: 'turning',
    channels: [
      {
        node: 1,
        path: 'rotation',
        interpolation: 'LINEAR',
        times: Float32Array.from(turns, (_, i) => i),
        values: Float32Array.from(turns.flatMap((turn) => quatMultiply(tilted, turn))),
      },
    ],
  };
}

function sampled(clip: Clip, count: number) {
  const character = chain();
  const worldAt = (time: number) => clipWorld(character, clip, time);
  return turnsOverTime(character, 1, worldAt, clipSeconds(clip), count);
}

const degreesAbout = (axis: readonly number[], degrees: number) => quatAbout(axis, (degrees * Math.PI) / 180);

it('a bone that goes round about its own x axis is told to go on, not to jump at half a turn', () => {
  const clip = clipOf([0, 90, 180, 270, 350].map((degrees) => degreesAbout([1, 0, 0], degrees)));
  const { times, degrees } = sampled(clip, 9);
  expect([...times]).toEqual([0, 0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4]);
  [0, 45, 90, 135, 180, 225, 270, 310, 350].forEach((wanted, i) => {
    expect(degrees[i * 3]).toBeCloseTo(wanted, 3);
    expect(degrees[i * 3 + 1]).toBeCloseTo(0, 3);
    expect(degrees[i * 3 + 2]).toBeCloseTo(0, 3);
  });
});

it('a bone that goes over the pole of its y axis goes on as well', () => {
  const clip = clipOf([0, 60, 120, 170].map((degrees) => degreesAbout([0, 1, 0], degrees)));
  const { degrees } = sampled(clip, 13);
  for (let i = 0; i < 13; i++) {
    const steps = [0, 1, 2].map((k) => (i === 0 ? 0 : Math.abs(degrees[i * 3 + k] - degrees[i * 3 - 3 + k])));
    expect(Math.max(...steps)).toBeLessThan(30);
  }
  expect(degrees[12 * 3 + 1]).toBeCloseTo(170, 3);
});

it('the joint stays where it is while it turns by itself', () => {
  const { places } = sampled(clipOf([degreesAbout([1, 0, 0], 0), degreesAbout([0, 1, 0], 80)]), 5);
  for (let i = 1; i < 5; i++) for (let k = 0; k < 3; k++) expect(places[i * 3 + k]).toBeCloseTo(places[k], 6);
});

it('the angles make the very rotation that three.js makes of them (Euler, order ZYX)', () => {
  const turn = fc
    .tuple(...[0, 1, 2].map(() => fc.double({ min: -170, max: 170, noNaN: true })))
    .map(([x, y, z]) =>
      quatMultiply(
        degreesAbout([0, 0, 1], z),
        quatMultiply(degreesAbout([0, 1, 0], y), degreesAbout([1, 0, 0], x)),
      ),
    );
  fc.assert(
    fc.property(fc.array(turn, { minLength: 2, maxLength: 5 }), (turns) => {
      const { degrees } = sampled(clipOf(turns), turns.length);
      turns.forEach((wanted, i) => {
        const [x, y, z] = degrees.subarray(i * 3, i * 3 + 3).map((angle) => (angle * Math.PI) / 180);
        const made = new Quaternion().setFromEuler(new Euler(x, y, z, 'ZYX'));
        const dot = [made.x, made.y, made.z, made.w].reduce((sum, part, k) => sum + part * wanted[k], 0);
        expect(Math.abs(dot)).toBeGreaterThan(1 - 1e-5);
      });
    }),
  );
});
