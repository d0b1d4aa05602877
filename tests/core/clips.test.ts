/** Clips in order: what of their keys is found, and what mends it without touching anything else. */
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import {
  type Interpolant,
  QuaternionKeyframeTrack,
  QuaternionLinearInterpolant,
  VectorKeyframeTrack,
  LinearInterpolant,
} from 'three';
import type { Channel, Character, Clip } from '@/core/character/model';
import { USUAL_CLIPS } from '@/core/contracts/clips';
import { restWorld } from '@/core/character/hierarchy';
import {
  IDENTITY,
  type Vec3,
  inverseOr,
  pointThrough,
  quatAbout,
  quatMultiply,
} from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { CHECKS, remedyById } from '@/core/house/registry';
import { degreesBetween, valueOfKey, withoutKeys } from '@/core/motion/clips/channel-keys';
import { keysOffGrid, offFrame, putOnGrid } from '@/core/motion/clips/frame-grid';
import { besideNeeded, bridgeJumps, jumpsOf } from '@/core/motion/clips/jumps';
import { closeLoop, loopGaps } from '@/core/motion/clips/loop-gap';
import { carriedNode, inPlace, placeAt, travelOf } from '@/core/motion/clips/travel';
import { readCharacter } from '@/core/formats';
import { clipFigures } from '@/core/rooms/trials/clip-figures';
import { shareOfHeightOf } from '@/core/rooms/trials/clips';
import { channelAt, clipSeconds, clipWorld } from '@/core/motion/pose';
import { castCharacter } from './support/cast';

const clean = castCharacter('deckhand-clean.glb');
const at = (name: string) => clean.nodes.findIndex((node) => node.name === name);
const brief: Brief = { ...briefById('handset')!, clips: { ...USUAL_CLIPS, rate: 30, travel: 0.2 } };
const UP = [0, 1, 0];
const still = () => 1 / 1.76;
const nothing = (_: number, __: readonly number[], to: readonly number[]) => [...to];
const LIMITS = { turn: 60, shift: 0.17 };

/** Keys of a turn about the x axis, degrees by time. */
const turning = (
  node: number,
  times: readonly number[],
  degreesAt: (time: number) => number,
  interpolation: Channel['interpolation'] = 'LINEAR',
): Channel => ({
  node,
  path: 'rotation',
  interpolation,
  times: Float32Array.from(times),
  values: Float32Array.from(
    times.flatMap((time) => [...quatAbout([1, 0, 0], (degreesAt(time) * Math.PI) / 180)]),
  ),
});

const shifting = (
  node: number,
  times: readonly number[],
  placeOf: (time: number) => readonly number[],
  path: 'translation' | 'scale' = 'translation',
): Channel => ({
  node,
  path,
  interpolation: 'LINEAR',
  times: Float32Array.from(times),
  values: Float32Array.from(times.flatMap((time) => [...placeOf(time)])),
});

const restOf = (name: string) =>
  Array.from(restWorld(clean.nodes).subarray(at(name) * 16 + 12, at(name) * 16 + 15));

/** Keys of a shift through places in the world, of a bone whose parent stands as at rest. */
const carrying = (
  name: string,
  times: readonly number[],
  placeOf: (time: number) => readonly number[],
): Channel => {
  const { parent } = clean.nodes[at(name)];
  const inverse = parent < 0 ? IDENTITY : inverseOr(restWorld(clean.nodes), parent * 16);
  return shifting(at(name), times, (time) => pointThrough(inverse, placeOf(time) as unknown as Vec3));
};

/** Frames of a clip: so many a second, from 0 to its end. */
const frames = (seconds: number, rate = 30) =>
  Array.from({ length: Math.round(seconds * rate) + 1 }, (_, i) => i / rate);

const clip = (name: string, ...channels: Channel[]): Clip => ({ name, channels });
const withClips = (...clips: Clip[]): Character => ({ ...clean, clips });
const CLIP_CHECKS = CHECKS.filter(({ id }) => id.startsWith('clip-') || id === 'idle-tracks');
const found = (character: Character, of = brief) => audit(character, of, { checks: CLIP_CHECKS });
const offered = (character: Character) => {
  const [finding] = found(character);
  const [{ id, params }] = finding.remedies;
  const remedy = remedyById(id)!;
  return remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, brief);
};

describe('keys on frames', () => {
  const hips = restOf('pelvis');
  const captured = clip(
    'reach',
    turning(at('arm_lower_lt'), frames(1, 24), (time) => 60 * Math.sin(time * 3)),
    carrying('pelvis', frames(1, 24), (time) => [hips[0], hips[1] + 0.1 * Math.cos(time * 5), hips[2]]),
  );

  it('are counted, and what they were made for is told', () => {
    expect(keysOffGrid(captured, 30)).toMatchObject({ off: 36, keys: 50, ownRate: 24 });
    expect(keysOffGrid(captured, 24)).toMatchObject({ off: 0, farthest: expect.closeTo(0, 3) });
    const [finding] = found(withClips(captured));
    expect(finding).toMatchObject({ check: 'clip-frames', measured: 36, count: 36 });
    expect(finding.message).toContain('made for 24');
  });

  it('a minute of them in single precision is on frames all the same', () => {
    expect(
      keysOffGrid(
        clip(
          'long',
          turning(at('pelvis'), frames(60), () => 0),
        ),
        30,
      ).off,
    ).toBe(0);
  });

  it('stand where the motion stood at that moment (three.js keyframe tracks)', () => {
    const onFrames = putOnGrid(captured, 30);
    expect(keysOffGrid(onFrames, 30).off).toBe(0);
    expect(clipSeconds(onFrames)).toBeCloseTo(1, 6);
    const [turned, shifted] = captured.channels;
    const turnTrack = new QuaternionKeyframeTrack('a', turned.times, turned.values);
    const placeTrack = new VectorKeyframeTrack('b', shifted.times, shifted.values);
    const theirs: Interpolant[] = [
      new QuaternionLinearInterpolant(turnTrack.times, turnTrack.values, 4),
      new LinearInterpolant(placeTrack.times, placeTrack.values, 3),
    ];
    onFrames.channels.forEach((channel, i) => {
      channel.times.forEach((time, key) => {
        const expected = Array.from(theirs[i].evaluate(time) as unknown as ArrayLike<number>);
        const mine = valueOfKey(channel, key);
        if (i === 0) expect(degreesBetween(mine, expected)).toBeLessThan(0.05);
        else mine.forEach((number, axis) => expect(number).toBeCloseTo(expected[axis], 5));
      });
    });
    expect(found(offered(withClips(captured)))).toEqual([]);
  });

  it('turns go the short way from frame to frame, whichever sign their keys had', () => {
    const flipped = turning(at('head'), frames(1, 24), (time) => 300 * time);
    flipped.values.forEach((number, i) => (flipped.values[i] = (i >> 2) % 2 ? -number : number));
    const [channel] = putOnGrid(clip('look', flipped), 30).channels;
    for (let key = 1; key < channel.times.length; key++) {
      const [before, after] = [valueOfKey(channel, key - 1), valueOfKey(channel, key)];
      expect(before.reduce((sum, number, i) => sum + number * after[i], 0)).toBeGreaterThan(0);
    }
  });

  it('what holds until the next key keeps its steps, each on the nearest frame', () => {
    const held = clip(
      'blink',
      turning(at('head'), [0, 0.11, 0.12, 0.5], (time) => time * 100, 'STEP'),
    );
    const [channel] = putOnGrid(held, 30).channels;
    expect(channel.interpolation).toBe('STEP');
    expect(Array.from(channel.times, (time) => Math.round(time * 30))).toEqual([0, 3, 4, 15]);
    expect(degreesBetween(channelAt(channel, 0.3), quatAbout([1, 0, 0], (12 * Math.PI) / 180))).toBeLessThan(
      0.01,
    );
  });

  it('any channel: every key on a frame, rising, the ends where they were', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 5000 }), { minLength: 2, maxLength: 40 }),
        fc.constantFrom(24, 30, 60),
        fc.constantFrom<Channel['interpolation']>('LINEAR', 'STEP'),
        (milliseconds, rate, interpolation) => {
          const times = milliseconds.sort((a, b) => a - b).map((ms) => ms / 1000);
          const before = clip(
            'any',
            turning(at('head'), times, (time) => 40 * Math.sin(7 * time), interpolation),
          );
          const [after] = putOnGrid(before, rate).channels;
          after.times.forEach((time, key) => {
            expect(offFrame(time, rate)).toBeLessThan(0.02);
            if (key > 0) expect(time).toBeGreaterThan(after.times[key - 1]);
          });
          const ends = [channelAt(after, -1), channelAt(after, 99)];
          // A fiftieth of a frame is none. Of two that hold and fall on one frame the later one lasts.
          if (interpolation === 'LINEAR')
            expect(degreesBetween(ends[0], channelAt(before.channels[0], -1))).toBeLessThan(0.3);
          expect(degreesBetween(ends[1], channelAt(before.channels[0], 99))).toBeLessThan(0.3);
        },
      ),
    );
  });
});

describe('jumps', () => {
  const swing = (time: number) => 50 * Math.sin(time * 4);
  const spiked = clip(
    'haul',
    turning(at('arm_upper_lt'), frames(2), (time) => swing(time) + (Math.abs(time - 1) < 0.02 ? 140 : 0)),
    turning(at('head'), frames(2), swing),
  );

  it('a key that strays is found at its bone and moment; a fast move is none', () => {
    const jumps = jumpsOf(spiked, LIMITS, still);
    expect(jumps.map(({ node, key, lastAstray }) => [clean.nodes[node].name, key, lastAstray])).toEqual([
      ['arm_upper_lt', 29, 30],
    ]);
    const spin = clip(
      'spin',
      turning(at('pelvis'), frames(1), (time) => 3000 * time),
    );
    expect(jumpsOf(spin, LIMITS, still)).toEqual([]);
    const finding = found(withClips(spiked)).find(({ check }) => check === 'clip-jumps')!;
    expect(finding.pose?.moment).toEqual({ clip: 0, seconds: expect.closeTo(1, 5) });
    expect(finding.elements[0].ids).toEqual(Uint32Array.of(at('arm_upper_lt')));
  });

  it('the same in a capture of 120 frames a second; the other sign of one and the same turn is none', () => {
    const dense = clip(
      'haul',
      turning(at('head'), frames(2, 120), (time) => swing(time) + (Math.abs(time - 1) < 0.004 ? 100 : 0)),
    );
    expect(jumpsOf(dense, { turn: 20, shift: null }, still)).toHaveLength(1);
    const flipped = turning(at('head'), frames(2), swing);
    flipped.values.subarray(40, 80).forEach((number, i) => (flipped.values[40 + i] = -number));
    expect(jumpsOf(clip('signs', flipped), { turn: 5, shift: null }, still)).toEqual([]);
  });

  it('bridged, the strayed key is gone and every other stays; the motion is what it was without it', () => {
    const [bridged, head] = bridgeJumps(spiked, LIMITS, still, 1).channels;
    expect(head).toBe(spiked.channels[1]);
    expect(bridged.times.length).toBe(spiked.channels[0].times.length - 1);
    expect(bridged).toEqual(withoutKeys(spiked.channels[0], (key) => key === 30));
    expect(
      degreesBetween(channelAt(bridged, 1), quatAbout([1, 0, 0], (swing(1) * Math.PI) / 180)),
    ).toBeLessThan(1);
    expect(found(offered(withClips(spiked))).filter(({ check }) => check === 'clip-jumps')).toEqual([]);
  });

  it('where it stays on the other side it goes over steadily', () => {
    const flips = clip(
      'turn over',
      turning(at('head'), frames(2), (time) => swing(time) + (time > 1 ? 120 : 0)),
    );
    const steps = (channel: Channel) =>
      Array.from({ length: 60 }, (_, i) =>
        degreesBetween(channelAt(channel, i / 30), channelAt(channel, (i + 1) / 30)),
      );
    expect(Math.max(...steps(flips.channels[0]))).toBeGreaterThan(100);
    const [over] = bridgeJumps(flips, LIMITS, still, 3).channels;
    expect(Math.max(...steps(over))).toBeLessThan(40);
    expect(jumpsOf(clip('', over), LIMITS, still)).toEqual([]);
  });

  it('a joint that is elsewhere for some frames, in metres of the world', () => {
    const rest = restOf('pelvis');
    const lost = clip(
      'step',
      carrying('pelvis', frames(2), (time) => [
        rest[0] + 0.2 * time + (Math.abs(time - 1) < 0.06 ? 0.5 : 0),
        rest[1],
        rest[2],
      ]),
    );
    expect(jumpsOf(lost, LIMITS, still)).toHaveLength(1);
    expect(jumpsOf(lost, LIMITS, () => 0.001)).toEqual([]);
    const [mended] = bridgeJumps(lost, LIMITS, still, 1).channels;
    const place = placeAt(clean, clip('step', mended), at('pelvis'), 1);
    expect(place[0]).toBeCloseTo(rest[0] + 0.2, 4);
  });
});

describe('captures that others made', () => {
  const capture = (file: string) =>
    readCharacter([
      { name: file, bytes: new Uint8Array(readFileSync(`/usr/share/assimp/models/BVH/${file}`)) },
    ]);
  const size = (character: Character) => shareOfHeightOf(character);

  it('the pose that one is calibrated in stands apart as its first key: that goes, and nothing else', () => {
    const character = capture('01_01.bvh');
    const [walk] = character.clips;
    const jumps = jumpsOf(walk, LIMITS, size(character));
    expect(jumps.map(({ node, key }) => [character.nodes[node].name, key]).sort()).toEqual([
      ['LeftArm', 0],
      ['LeftForeArm', 0],
      ['RightArm', 0],
    ]);
    const bridged = bridgeJumps(walk, LIMITS, size(character), besideNeeded(walk, LIMITS, size(character)));
    expect(jumpsOf(bridged, LIMITS, size(character))).toEqual([]);
    bridged.channels.forEach((channel, i) => {
      const before = walk.channels[i];
      expect(channel).toEqual(channel === before ? before : withoutKeys(before, (key) => key === 0));
    });
    expect(bridged.channels.filter((channel, i) => channel !== walk.channels[i])).toHaveLength(3);
  });

  it('a thumb that flips over and back for seconds is bridged by as many keys as it takes', () => {
    const character = capture('01_03.bvh');
    const [jump] = character.clips;
    const flips = jumpsOf(jump, LIMITS, size(character));
    expect(flips.length).toBeGreaterThan(20);
    expect(new Set(flips.map(({ node }) => character.nodes[node].name))).toContain('RThumb');
    const beside = besideNeeded(jump, LIMITS, size(character));
    expect(beside).toBeGreaterThan(1);
    expect(jumpsOf(bridgeJumps(jump, LIMITS, size(character), beside), LIMITS, size(character))).toEqual([]);
  });

  it('a boxer in an unknown unit jumps nowhere, and what carries a skeleton without any mesh is told', () => {
    const character = capture('Boxing_Toes.bvh');
    expect(jumpsOf(character.clips[0], LIMITS, size(character))).toEqual([]);
    const [figures] = clipFigures(character);
    expect(character.nodes[carriedNode(character, character.clips[0])].name).toBe('Hips');
    const ends = [0, clipSeconds(character.clips[0])].map((time) =>
      placeAt(character, character.clips[0], carriedNode(character, character.clips[0]), time),
    );
    expect(figures.travel).toBeCloseTo(Math.hypot(ends[1][0] - ends[0][0], ends[1][2] - ends[0][2]), 6);
    expect(figures.travel).toBeGreaterThan(10);
    expect(figures.idleTracks).toBe(0);
    expect(figures.gap).toBeGreaterThan(5);
  });

  it('what is held from key to key on purpose does not jump', () => {
    const held = clip(
      'count',
      turning(at('head'), frames(1), (time) => Math.floor(time * 4) * 90, 'STEP'),
    );
    expect(jumpsOf(held, LIMITS, still)).toEqual([]);
  });
});

describe('clips that go round', () => {
  const round = (seconds: number, drift: number) =>
    clip(
      'idle loop',
      turning(
        at('spine_1'),
        frames(seconds),
        (time) => 10 * Math.sin((time / seconds) * 2 * Math.PI) + drift * time,
      ),
    );

  it('closed with the first key again, or with the frame before it: both are closed', () => {
    expect(loopGaps(round(2, 0), still, nothing)).toEqual([]);
    const short = {
      ...round(2, 0),
      channels: round(2, 0).channels.map((ch) => withoutKeys(ch, (key) => key === 60)),
    };
    expect(loopGaps(short, still, nothing)).toEqual([]);
    expect(found(withClips(round(2, 0)))).toEqual([]);
  });

  it('what drifts is told, and closed over the last moment alone', () => {
    const open = withClips(round(2, 8));
    const [finding] = found(open);
    expect(finding).toMatchObject({ check: 'clip-loops', subject: { kind: 'clip', name: 'idle loop' } });
    expect(finding.message).toContain('16.0°');
    const closed = offered(open);
    expect(found(closed)).toEqual([]);
    const [before, after] = [open.clips[0].channels[0], closed.clips[0].channels[0]];
    for (const time of [0, 0.5, 1, 1.7])
      expect(degreesBetween(channelAt(before, time), channelAt(after, time))).toBeLessThan(1e-3);
    expect(degreesBetween(channelAt(after, 2), channelAt(after, 0))).toBeLessThan(0.05);
    // A clip that is not called after going round may end where it likes.
    expect(found(withClips({ ...round(2, 8), name: 'hail' }))).toEqual([]);
  });

  it('a walk that goes forward closes in all but its way', () => {
    const rest = restOf('pelvis');
    const walk = clip(
      'walk cycle',
      carrying('pelvis', frames(1), (time) => [rest[0], rest[1] + 0.05 * time, rest[2] + 1.2 * time]),
    );
    const character = withClips(walk);
    const finding = found(character, { ...brief, clips: { ...USUAL_CLIPS, travel: null } });
    expect(finding.map(({ check, message }) => [check, message.match(/is (.*) away/)?.[1]])).toEqual([
      ['clip-loops', '0.050 m'],
    ]);
    const closed = remedyById('close-loop')!.apply(character, { clip: 0, seconds: 0.25 }, brief).clips[0];
    const end = placeAt(clean, closed, at('pelvis'), 1);
    [rest[0], rest[1], rest[2] + 1.2].forEach((number, axis) => expect(end[axis]).toBeCloseTo(number, 5));
  });

  it('closing twice is closing once', () => {
    const once = closeLoop(round(2, 8), 0.25, nothing);
    expect(closeLoop(once, 0.25, nothing)).toBe(once);
  });
});

describe('travel', () => {
  const rest = restOf('pelvis');
  const turned: Character = {
    ...clean,
    nodes: clean.nodes.map((node, i) =>
      i === at('root') ? { ...node, rotation: quatMultiply(quatAbout([0, 1, 0], 1), node.rotation) } : node,
    ),
  };
  const walk = clip(
    'patrol',
    carrying('pelvis', frames(2), (time) => [
      rest[0] + 0.05 * Math.sin(9 * time),
      rest[1] + 0.03 * Math.cos(9 * time),
      rest[2] + 0.8 * time,
    ]),
    turning(at('leg_upper_lt'), frames(2), (time) => 30 * Math.sin(9 * time)),
  );

  it('is the way of what the figure hangs on, whichever way it looks', () => {
    for (const character of [clean, turned]) {
      expect(carriedNode(character, walk)).toBe(at('pelvis'));
      expect(Math.hypot(...travelOf(character, walk, at('pelvis'), UP))).toBeCloseTo(
        Math.hypot(1.6, 0.05 * Math.sin(18)),
        4,
      );
    }
    const legs = clip(
      'kick',
      turning(at('leg_upper_lt'), frames(1), (time) => 90 * time),
    );
    expect(carriedNode(clean, legs)).toBe(-1);
    expect(found(withClips(walk)).map(({ check }) => check)).toEqual(['clip-travel']);
  });

  it.each(['steady', 'held'] as const)('taken out (%s), what goes up and down stays', (how) => {
    for (const character of [clean, turned]) {
      const kept = inPlace(character, walk, at('pelvis'), UP, how);
      expect(Math.hypot(...travelOf(character, kept, at('pelvis'), UP))).toBeLessThan(1e-6);
      let sway = 0;
      const begin = placeAt(character, kept, at('pelvis'), 0);
      for (const time of frames(2)) {
        const [before, after] = [walk, kept].map((one) => placeAt(character, one, at('pelvis'), time));
        expect(after[1]).toBeCloseTo(before[1], 6);
        sway = Math.max(sway, Math.hypot(after[0] - begin[0], after[2] - begin[2]));
      }
      if (how === 'held') expect(sway).toBeLessThan(1e-6);
      else expect(sway).toBeGreaterThan(0.04);
    }
    expect(found(offered(withClips(walk)))).toEqual([]);
  });

  it('of a curve the way is taken out of its tangents as well', () => {
    const curve = (time: number) => [rest[0], rest[1], rest[2] + 0.4 * time * time];
    const parent = clean.nodes[at('pelvis')].parent;
    const inverse = inverseOr(restWorld(clean.nodes), parent * 16);
    const origin = pointThrough(inverse, [0, 0, 0]);
    const direction = (way: Vec3) => pointThrough(inverse, way).map((number, axis) => number - origin[axis]);
    const times = [0, 0.5, 2];
    const values = times.flatMap((time) => [
      ...direction([0, 0, 0.8 * time]),
      ...pointThrough(inverse, curve(time) as unknown as Vec3),
      ...direction([0, 0, 0.8 * time]),
    ]);
    const channel: Channel = {
      node: at('pelvis'),
      path: 'translation',
      interpolation: 'CUBICSPLINE',
      times: Float32Array.from(times),
      values: Float32Array.from(values),
    };
    const kept = inPlace(clean, clip('run', channel), at('pelvis'), UP, 'steady');
    expect(kept.channels[0].interpolation).toBe('CUBICSPLINE');
    for (const time of [0, 0.3, 0.5, 1.1, 2]) {
      const place = placeAt(clean, kept, at('pelvis'), time);
      // A parabola is its own cubic; 0.4·t² goes 1.6 m in 2 s.
      expect(place[2]).toBeCloseTo(rest[2] + 0.4 * time * time - 0.8 * time, 5);
    }
  });

  it('the root above takes the way where it has a track', () => {
    const root = restOf('root');
    const both = clip(
      'glide',
      carrying('root', [0, 1], (time) => [root[0] + time, root[1], root[2]]),
      ...walk.channels,
    );
    const kept = inPlace(clean, both, at('pelvis'), UP, 'steady');
    expect(kept.channels[1]).toBe(both.channels[1]);
    expect(Math.hypot(...travelOf(clean, kept, at('pelvis'), UP))).toBeLessThan(1e-6);
  });
});

describe('scales and idle tracks', () => {
  it('a bone that is scaled is told with how far and when; taken out it keeps its size', () => {
    const rest = clean.nodes[at('head')].scale;
    const squash = clip(
      'land',
      shifting(
        at('head'),
        frames(1),
        (time) => [rest[0], rest[1] * (1 + 0.3 * Math.sin(Math.PI * time)), rest[2]],
        'scale',
      ),
      turning(at('head'), frames(1), (time) => 10 * time),
    );
    const [finding] = found(withClips(squash));
    expect(finding).toMatchObject({ check: 'clip-scale', measured: expect.closeTo(1.3, 4), unit: '×' });
    expect(finding.pose?.moment?.seconds).toBeCloseTo(0.5, 5);
    expect(offered(withClips(squash)).clips[0].channels).toEqual([squash.channels[1]]);
    const isMeant = { ...brief, clips: { ...USUAL_CLIPS, scale: 0.5 } };
    expect(found(withClips(squash), isMeant)).toEqual([]);
  });

  it('a track on what carries nothing goes, and every point stays where it was', () => {
    const nodes = [...clean.nodes, { ...clean.nodes[0], name: 'arm goal', parent: -1, mesh: -1, skin: -1 }];
    const wave = clip(
      'wave',
      turning(at('arm_lower_lt'), frames(1), (time) => 20 * time),
      turning(nodes.length - 1, frames(1), (time) => 50 * time),
    );
    const character = { ...clean, nodes, clips: [wave] };
    const [finding] = found(character);
    expect(finding).toMatchObject({ check: 'idle-tracks', gravity: 'note', measured: 1 });
    const after = offered(character);
    expect(after.clips[0].channels).toEqual([wave.channels[0]]);
    const size = clean.nodes.length * 16;
    expect(clipWorld(after, after.clips[0], 0.7).subarray(0, size)).toEqual(
      clipWorld(character, wave, 0.7).subarray(0, size),
    );
  });

  it('of a skeleton without any mesh every bone counts, so that none of its tracks is idle', () => {
    const bare = { ...clean, skins: [], nodes: clean.nodes.map((node) => ({ ...node, mesh: -1, skin: -1 })) };
    const wave = clip(
      'wave',
      turning(at('head'), frames(1), (time) => 20 * time),
    );
    expect(found({ ...bare, clips: [wave] })).toEqual([]);
  });
});
