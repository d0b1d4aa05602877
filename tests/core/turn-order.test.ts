/** The order of turns: the middle angle as three.js has it, and clips that bring it near to a right angle. */
import fc from 'fast-check';
import { Euler, Quaternion } from 'three';
import type { Character } from '@/core/character/model';
import { type Quat, quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { TURN_ORDERS, middleAngle } from '@/core/geometry/turn-order';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { orderOfTurns } from '@/core/formats/collada/transform';
import { readCollada } from '@/core/formats/collada/read';
import { writeCollada } from '@/core/formats/collada/write';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { readCharacter } from '@/core/formats/index';
import { checkById, remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';
import { validate } from './support/validator';

const brief = briefById('handset')!;
const check = checkById('turn-order')!;
const asking = (turns: Partial<Brief['turns']>): Brief => ({
  ...brief,
  turns: { order: 'xyz', each: 'one', most: 80, ...turns },
});

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
  const clean = castCharacter('deckhand-clean.glb');
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

it('a game that takes an order for each bone is helped by the remedy, and the order goes out with the file', async () => {
  const far = turning([0, 1, 0], [0, 40, 85]);
  const own = asking({ each: 'own' });
  const [finding] = check.run(far, own);
  expect(finding.remedies).toHaveLength(1);
  expect(check.run(far, asking({}))[0].remedies ?? []).toEqual([]);
  const mended = remedyById('turn-order')!.apply(far, finding.remedies![0].params, own);
  expect(check.run(mended, own)).toEqual([]);
  // One order for all is not helped by what is said of a bone.
  expect(check.run(mended, asking({}))).toHaveLength(1);
  const said = (character: Character) =>
    character.nodes.flatMap(({ name, turnOrder }) => (turnOrder ? [`${name} ${turnOrder}`] : []));
  expect(said(mended)).toEqual([expect.stringMatching(/^leg_upper_lt (yxz|yzx|xzy|zxy)$/)]);
  const { bytes } = writeGlb(mended);
  expect(await validate(bytes)).toEqual([]);
  expect(said(readGltf([{ name: 'a.glb', bytes }]))).toEqual(said(mended));
  expect(said(readCollada(writeCollada(mended, 'a').files))).toEqual(said(mended));
  // What nobody turns has no best order; by name it has one, and it can be taken back.
  const still = far.nodes.findIndex(({ name }) => name === 'head');
  const remedy = remedyById('turn-order')!;
  expect(() => remedy.apply(far, { bones: [still], order: 'least' }, own)).toThrow(/No clip turns any/);
  const named = remedy.apply(far, { bones: [still], order: 'zxy' }, own);
  expect(said(named)).toEqual(['head zxy']);
  expect(said(remedy.apply(named, { bones: [still], order: 'unsaid' }, own))).toEqual([]);
});

it('a joint of a capture turns in the order of its channels, one of COLLADA in that of its turns', () => {
  const bvh = `HIERARCHY\nROOT hip\n{\nOFFSET 0 0 0\nCHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
JOINT knee\n{\nOFFSET 0 -1 0\nCHANNELS 2 Yrotation Xrotation\nEnd Site\n{\nOFFSET 0 -1 0\n}\n}\n}\nMOTION\nFrames: 0\nFrame Time: 0.03\n`;
  const read = readCharacter([{ name: 'a.bvh', bytes: new TextEncoder().encode(bvh) }]);
  expect(read.nodes.map(({ turnOrder }) => turnOrder)).toEqual(['zxy', undefined, undefined]);
  const turn = (axis: string) =>
    ({ kind: 'rotate', sid: '', values: [...axis.split(' ').map(Number), 30] }) as const;
  expect(orderOfTurns([turn('0 0 1'), turn('0 1 0'), turn('-1 0 0')])).toBe('zyx');
  expect(orderOfTurns([turn('0 0 1'), turn('0 1 0')])).toBeUndefined();
  expect(orderOfTurns([turn('0 0 1'), turn('0 1 0'), turn('1 0 0'), turn('1 0 0')])).toBeUndefined();
  expect(orderOfTurns([turn('0 0 1'), turn('0 1 1'), turn('1 0 0')])).toBeUndefined();
});

it('what is learned is the order whose middle axis turns least', () => {
  const learned = check.measures!(turning([0, 1, 0], [0, 60])) as Record<string, unknown>;
  expect(learned['turns.order']).not.toMatch(/^.y.$/);
  expect(learned['turns.most']).toBeLessThanOrEqual(1);
});
