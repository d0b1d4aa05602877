/** Which axis runs along bones, about which knees and elbows bend, and which way they lean: found, learned, mended. */
import { bodyOf } from '@/bench/bodies/body';
import { STANCES, makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { degreesBetween } from '@/core/anatomy/bearing';
import { boneAxesOf } from '@/core/anatomy/bone-axes';
import { bearingOf, landmarksOf } from '@/core/anatomy/landmarks';
import { bonesOf, parentBone, restPlace, restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { withJointsAt } from '@/core/character/place-joints';
import { withTurnedAxes } from '@/core/character/turn-axes';
import { writeGlb } from '@/core/formats/gltf/write';
import { type Quat, type Vec3, decompose, normalise, normalise4, subtract } from '@/core/geometry/matrix';
import { briefById } from '@/core/house/briefs';
import { learnBrief } from '@/core/house/learn';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { checkById, remedyById } from '@/core/house/registry';
import { castCharacter } from './support/cast';
import { dice } from './support/random';
import { playedPoints, threeGltf } from './support/three-play';

const brief = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');

/** The character with the axes of all bones turned each in its own way. */
function shuffled(character: Character, seed: number): Character {
  const draw = dice(seed);
  const turn = () =>
    normalise4([draw.between(-1, 1), draw.between(-1, 1), draw.between(-1, 1), draw.between(-1, 1)]);
  return withTurnedAxes(character, new Map(bonesOf(character).map((bone): [number, Quat] => [bone, turn()])));
}

/** What one check finds. */
const found = (character: Character, id: string, by = brief) => checkById(id)!.run(character, by);

const apply = (character: Character, id: string, params: object) => {
  const remedy = remedyById(id)!;
  return remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, brief);
};

describe('axes', () => {
  it('as the game has them nothing is told; each bone turned otherwise is', () => {
    expect(found(clean, 'bone-axes')).toEqual([]);
    for (const { node, hinge } of boneAxesOf(clean)) {
      const off = withTurnedAxes(clean, new Map([[node, [0, 0, Math.SQRT1_2, Math.SQRT1_2]]]));
      expect(found(off, 'bone-axes').map(({ message }) => message)).toEqual([
        expect.stringContaining(`“${clean.nodes[node].name}”`),
      ]);
      if (!hinge) continue;
      const rolled = withTurnedAxes(clean, new Map([[node, [Math.SQRT1_2, 0, 0, Math.SQRT1_2]]]));
      expect(found(rolled, 'bone-axes').map(({ message }) => message)).toEqual([
        expect.stringMatching(/bends about another axis than Z, up to (8[89]|90)° off/),
      ]);
    }
  });

  it('turned at random they are mended in one step, and every point of every clip is where it was (three.js)', async () => {
    const bones = bonesOf(clean);
    const off = shuffled({ ...clean, clips: clean.clips.slice(0, 1) }, 4);
    expect(found(off, 'bone-axes').length).toBeGreaterThan(0);
    const mended = apply(off, 'align-axes', { bones, along: 'x', hinge: 'z' });
    expect(found(mended, 'bone-axes')).toEqual([]);
    for (const { along, hinge } of boneAxesOf(mended)) {
      expect(degreesBetween(along, [1, 0, 0])).toBeLessThan(1e-4);
      if (hinge)
        expect(Math.min(degreesBetween(hinge, [0, 0, 1]), degreesBetween(hinge, [0, 0, -1]))).toBeLessThan(
          1e-3,
        );
    }
    expect(() => apply(mended, 'align-axes', { bones, along: 'x', hinge: 'z' })).toThrow(/lie so already/);
    const [a, b] = await Promise.all([threeGltf(writeGlb(off).bytes), threeGltf(writeGlb(mended).bytes)]);
    for (const time of [0, 0.31, 0.9]) {
      const before = playedPoints(a, 0, time);
      const after = playedPoints(b, 0, time);
      for (const [name, points] of before) {
        const moved = points.map((x, k) => Math.abs(x - after.get(name)![k]));
        expect(moved.reduce((most, x) => Math.max(most, x), 0)).toBeLessThan(2e-5);
      }
    }
  });

  it('a character by which a brief is made says what it has, in every habit', () => {
    const { brief: learned } = learnBrief(clean, PLAIN_FIGURE, { id: 'own', title: 'own', about: '' });
    expect(learned.axes).toMatchObject({ along: 'x', hinge: 'z' });
    for (const habit of HABITS.filter((_, i) => i % 7 === 0)) {
      const figure = bodyOf(makeFigure(makeRandom(8), 'human', habit, { stance: 'A', steady: true }));
      const aligned = apply(shuffled(figure, 3), 'align-axes', {
        bones: bonesOf(figure),
        along: '-y',
        hinge: 'x',
      });
      const { brief: own } = learnBrief(aligned, PLAIN_FIGURE, { id: 'own', title: 'own', about: '' });
      expect([habit.id, own.axes]).toEqual([habit.id, expect.objectContaining({ along: '-y' })]);
      expect(found(aligned, 'bone-axes', own)).toEqual([]);
    }
  });

  it('zeroed, a chain has the axes of the bone above it', () => {
    const off = shuffled(clean, 11);
    const chain = ['spine_2', 'spine_3', 'spine_4'].map((name) =>
      off.nodes.findIndex((node) => node.name === name),
    );
    const zeroed = apply(off, 'zero-rotations', { bones: chain });
    for (const bone of chain) {
      const [x, y, z, w] = zeroed.nodes[bone].rotation;
      expect(Math.hypot(x, y, z)).toBeLessThan(1e-9);
      expect(Math.abs(w)).toBeCloseTo(1, 9);
      const world = restWorld(zeroed.nodes);
      const turnOf = (node: number) => decompose(world, node * 16).rotation;
      expect(turnOf(bone)).toEqual(
        turnOf(parentBone(zeroed.nodes, chain[0])).map((n) => expect.closeTo(n, 6)),
      );
    }
    expect(() => apply(zeroed, 'zero-rotations', { bones: chain })).toThrow(/nothing to zero/);
    expect(() => apply(off, 'zero-rotations', { bones: [0, 1e6] })).toThrow(/not there any more/);
  });
});

describe('the way knees and elbows lean', () => {
  /** A joint put off the line of its limb, by a share of the limb, along a direction of the world. */
  function leaning(
    character: Character,
    limb: readonly [string, string, string],
    way: Vec3,
    share: number,
  ): Character {
    const marks = landmarksOf(character);
    const [from, at, to] = limb.map((name) => marks.get(name as never)!);
    const [a, b] = [from, to].map((node) => restPlace(character.nodes, node));
    const size = Math.hypot(...subtract(b, a));
    const place = [0, 1, 2].map((k) => (a[k] + b[k]) / 2 + way[k] * share * size) as unknown as Vec3;
    return withJointsAt(character, new Map([[at, place]]));
  }
  const KNEE = ['upperleg left', 'lowerleg left', 'foot left'] as const;
  const ELBOW = ['upperarm right', 'lowerarm right', 'hand right'] as const;
  const figures = HABITS.filter((_, i) => i % 4 === 0).map((habit, i) => ({
    habit: habit.id,
    body: bodyOf(
      makeFigure(makeRandom(40 + i), 'human', habit, { stance: STANCES[i % STANCES.length], steady: true }),
    ),
  }));

  it('of figures in every stance nothing is told; a knee put behind, or an elbow put before, is, and goes where it should', () => {
    let judged = 0;
    for (const { habit, body } of figures) {
      expect([habit, found(body, 'bend-direction')]).toEqual([habit, []]);
      const { forward } = bearingOf(body)!;
      const back = forward.map((x) => -x) as unknown as Vec3;
      for (const [limb, way] of [
        [KNEE, back],
        [ELBOW, forward],
      ] as const) {
        // Where a foot is not told from its toes nothing is said of the knee.
        if (limb.some((name) => !landmarksOf(body).has(name as never))) continue;
        judged++;
        const wrong = leaning(body, limb, way, 0.06);
        const [finding, ...others] = found(wrong, 'bend-direction');
        expect([habit, others]).toEqual([habit, []]);
        const joint = landmarksOf(body).get(limb[1] as never)!;
        expect([habit, finding?.subject.index]).toEqual([habit, joint]);
        const mended = apply(wrong, finding.remedies![0].id, finding.remedies![0].params);
        expect([habit, found(mended, 'bend-direction')]).toEqual([habit, []]);
        expect(found(leaning(body, limb, normalise(way.map((x) => -x)), 0.06), 'bend-direction')).toEqual([]);
      }
    }
    expect(judged).toBeGreaterThan(2 * figures.length * 0.9);
  });

  it('to the side nothing is said, and of a straight limb', () => {
    const { left, forward } = bearingOf(clean)!;
    const between = normalise([0, 1, 2].map((k) => left[k] - 0.4 * forward[k]));
    expect(found(leaning(clean, KNEE, between, 0.05), 'bend-direction')).toEqual([]);
    const back = forward.map((x) => -x) as unknown as Vec3;
    expect(found(leaning(clean, KNEE, back, 0.002), 'bend-direction')).toEqual([]);
    expect(found(leaning(clean, KNEE, back, 0.02), 'bend-direction')).toHaveLength(1);
    expect(found(leaning(clean, KNEE, left, 0.05), 'bend-direction')).toEqual([]);
    expect(found(leaning(clean, KNEE, left, 0), 'bend-direction')).toEqual([]);
  });
});
