/** Both sides as mirror images: the mathematics against reflections, remedies against three.js, findings on planted faults. */
import fc from 'fast-check';
import { Matrix4, Quaternion, Vector3 } from 'three';
import { bodyOf } from '@/bench/bodies/body';
import { ANY_BODY } from '@/bench/bodies/report';
import { makeBeast } from '@/bench/match/beasts';
import { type MadeFigure, makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { MIRROR_RULES, mirrorPlaneOf, mirroredRotation, turnBetween } from '@/core/anatomy/mirrored-pairs';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import type { Character } from '@/core/character/model';
import { bonesOf, branchOf, restPlace } from '@/core/character/hierarchy';
import { landmarksOf } from '@/core/anatomy/landmarks';
import { withJointsAt } from '@/core/character/place-joints';
import { whyNotTurned, withTurnedAxes } from '@/core/character/turn-axes';
import { writeGlb } from '@/core/formats/gltf/write';
import { type MirrorPlane, mirroredPlace } from '@/core/geometry/mirror';
import {
  type Quat,
  type Vec3,
  distance,
  dot,
  normalise,
  quatAbout,
  quatRotate,
  subtract,
} from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { judgedPairs } from '@/core/rooms/skeleton/pairs';
import { castCharacter } from './support/cast';
import { playedPoints, threeGltf } from './support/three-play';

const number = fc.double({ min: -1, max: 1, noNaN: true });
const direction = fc
  .tuple(number, number, number)
  .filter((way) => Math.hypot(...way) > 0.1)
  .map((way): Vec3 => normalise(way));
const turn = fc
  .tuple(direction, fc.double({ min: -3, max: 3, noNaN: true }))
  .map(([axis, angle]): Quat => quatAbout(axis, angle));
const plane = fc.tuple(direction, number).map(([normal, offset]): MirrorPlane => ({ normal, offset }));

/** The reflection in a plane through the origin, by three.js. */
function reflection({ normal }: MirrorPlane): Matrix4 {
  const [x, y, z] = normal;
  return new Matrix4().set(
    1 - 2 * x * x, -2 * x * y, -2 * x * z, 0,
    -2 * x * y, 1 - 2 * y * y, -2 * y * z, 0,
    -2 * x * z, -2 * y * z, 1 - 2 * z * z, 0,
    0, 0, 0, 1,
  ); // prettier-ignore
}

describe('the rules', () => {
  it('same turn: a turn about any own axis moves the twin as the mirror image (three.js)', () =>
    fc.assert(
      fc.property(plane, turn, turn, direction, (mirror, left, local, point) => {
        const right = mirroredRotation(mirror, 'same-turn', left);
        const turned = (own: Quat) => {
          const world = new Quaternion(...own).multiply(new Quaternion(...local));
          const back = new Quaternion(...own).invert();
          return (at: Vector3) => at.applyQuaternion(back).applyQuaternion(world);
        };
        const reflect = reflection(mirror);
        const here = turned(left)(new Vector3(...point)).applyMatrix4(reflect);
        const there = turned(right)(new Vector3(...point).applyMatrix4(reflect));
        expect(here.distanceTo(there)).toBeLessThan(1e-9);
      }),
    ));

  it('reflected: the two other axes are mirror images, this one the other way round (three.js)', () =>
    fc.assert(
      fc.property(plane, turn, fc.constantFrom(0, 1, 2), (mirror, left, odd) => {
        const rule = (['reflected-x', 'reflected-y', 'reflected-z'] as const)[odd];
        const right = mirroredRotation(mirror, rule, left);
        const reflect = reflection(mirror);
        [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)].forEach((axis, k) => {
          const own = axis.clone().applyQuaternion(new Quaternion(...left));
          const image = own.applyMatrix4(reflect).multiplyScalar(k === odd ? -1 : 1);
          const twin = axis.clone().applyQuaternion(new Quaternion(...right));
          expect(image.distanceTo(twin)).toBeLessThan(1e-9);
        });
      }),
    ));

  it('are their own inverses, and so are places', () =>
    fc.assert(
      fc.property(plane, turn, direction, fc.constantFrom(...MIRROR_RULES), (mirror, left, place, rule) => {
        const again = mirroredRotation(mirror, rule, mirroredRotation(mirror, rule, left));
        expect(Math.hypot(...turnBetween(left, again))).toBeLessThan(1e-5);
        const back = mirroredPlace(mirror, mirroredPlace(mirror, place));
        back.forEach((x, k) => expect(x).toBeCloseTo(place[k], 12));
      }),
    ));
});

it('the plane is that of most pairs, whatever a few of them do', () =>
  fc.assert(
    fc.property(
      plane,
      fc.array(fc.tuple(number, number, number), { minLength: 10, maxLength: 10 }),
      (across, spots) => {
        const side = spots.map(([x, y, z]): Vec3 => {
          // All on one side, and none on the plane.
          const off = x * across.normal[0] + y * across.normal[1] + z * across.normal[2] - across.offset;
          const by = 0.3 + Math.abs(off) - off;
          return [x + by * across.normal[0], y + by * across.normal[1], z + by * across.normal[2]];
        });
        const places = side.flatMap((place, i): Vec3[] => {
          const [x, y, z] = mirroredPlace(across, place);
          return [place, i < 2 ? [x + 0.7, y - 0.5, z + 0.4] : [x, y, z]];
        });
        const bones = places.map((place, i) => ({ ...QUAY.bones[0], name: `b${i}`, place, parent: -1 }));
        const pairs = side.map((_, i) => [2 * i, 2 * i + 1] as const);
        const found = mirrorPlaneOf({ id: 'x', title: 'x', bones }, pairs)!;
        const same = Math.sign(dot(found.normal, across.normal));
        expect(
          distance(
            found.normal,
            across.normal.map((x) => same * x),
          ),
        ).toBeLessThan(1e-9);
        expect(same * found.offset).toBeCloseTo(across.offset, 9);
      },
    ),
  ));

const english = HABITS[0];

/** A figure of the bench with a body, whose sides are mirror images. */
const soundBody = (seed: number): Character =>
  bodyOf(makeFigure(makeRandom(seed), 'human', english, { steady: true, plain: true, stance: 'T' }));

const brief = { ...ANY_BODY, mirror: { angle: 5, place: 0.01 } };

const found = (character: Character, place = 0.01) =>
  audit(character, { ...brief, mirror: { angle: 5, place } }).filter(
    ({ check }) => check === 'mirrored-pairs',
  );

describe('planted faults', () => {
  it.each(Array.from({ length: 8 }, (_, i) => 40 + i))(
    'figure %s: nothing is said of it as it is, and each fault is found',
    (seed) => {
      const body = soundBody(seed);
      expect(found(body)).toEqual([]);
      const pairs = judgedPairs(body)!.pairs.filter(({ rule }) => rule);
      expect(pairs.length).toBeGreaterThan(8);
      const random = makeRandom(seed);
      const { right } = pairs[Math.floor(random() * pairs.length)];
      const axis = (['x', 'y', 'z'] as const)[Math.floor(random() * 3)];
      const angle = random() < 0.5 ? 180 : 20 + 60 * random();
      const wrong = remedyById('turn-axes')!.apply(body, { bones: [right.node], axis, angle }, brief);
      const [finding, ...more] = found(wrong);
      expect(more).toEqual([]);
      expect(finding.message).toContain(`“${right.name}”`);
      expect(finding.measured).toBe(Math.round(angle));
      // Its remedy takes it away, and nothing else comes.
      const [{ id, params }] = finding.remedies!;
      expect(found(remedyById(id)!.apply(wrong, params as never, brief))).toEqual([]);

      const place = body.nodes[right.node].translation.map((x, k) => x + (k === 1 ? 0.03 : 0));
      const moved = remedyById('move-joint')!.apply(
        body,
        { bone: right.node, place: worldPlace(body, right.node, place), alone: true },
        brief,
      );
      const [apart] = found(moved);
      expect(apart.message).toContain(`“${right.name}” stands elsewhere`);
      const [call] = apart.remedies!;
      expect(found(remedyById(call.id)!.apply(moved, call.params as never, brief))).toEqual([]);
    },
  );

  it('of figures in every habit, and of beasts, nothing is said that is not so', () => {
    const all: (readonly [string, Pick<MadeFigure, 'skeleton' | 'isFlesh'> & object])[] = [
      ...HABITS.map(
        (habit, i) =>
          [habit.id, makeFigure(makeRandom(300 + i), 'human', habit, { steady: true, stance: 'T' })] as const,
      ),
      ...Array.from(
        { length: 12 },
        (_, i) => [`beast ${i}`, makeBeast(makeRandom(60 + i), { steady: true })] as const,
      ),
    ];
    const wrong = all.flatMap(([name, figure]) => {
      // Beasts of the bench stand more on one side than on the other: only their axes are asked.
      const place = name.startsWith('beast') ? 1 : 0.01;
      const findings = found(bodyOf(figure as MadeFigure), place);
      return findings.filter(({ gravity }) => gravity !== 'note').map(({ message }) => `${name}: ${message}`);
    });
    expect(wrong).toEqual([]);
  });

  it('where names tell no sides, or the figure is held otherwise on one side, it is said that nothing was judged', () => {
    const nameless = HABITS.find(({ id }) => id === 'made-up words')!;
    const body = bodyOf(makeFigure(makeRandom(3), 'human', nameless, { steady: true, stance: 'T' }));
    expect(found(body)).toMatchObject([{ gravity: 'note', measured: 'not told' }]);
    const sound = soundBody(41);
    const { pairs } = judgedPairs(sound)!;
    // Every second joint of one side somewhere else: that is how it stands, and no fault of this joint or that.
    const places = new Map(
      pairs.flatMap(({ right }, i): [number, Vec3][] => {
        const [x, y, z] = restPlace(sound.nodes, right.node);
        return i % 2 ? [[right.node, [x, y + 0.02 + 0.01 * (i % 3), z]]] : [];
      }),
    );
    const posed = found(withJointsAt(sound, places));
    expect(posed.map(({ gravity }) => gravity)).toEqual(['note']);
    expect(posed[0].message).toMatch(/stands otherwise on one side/);
  });

  it('an arm that is held otherwise is told as that; the same joint moved alone, or made longer, as standing elsewhere', () => {
    const sound = soundBody(41);
    const elbow = landmarksOf(sound).get('lowerarm right')!;
    const shoulder = restPlace(sound.nodes, landmarksOf(sound).get('upperarm right')!);
    const branch = bonesOf(sound).filter((bone) => branchOf(sound.nodes, [elbow])[bone]);
    const about = (turn: Quat, by: number) =>
      new Map(
        branch.map((bone): [number, Vec3] => {
          const way = subtract(restPlace(sound.nodes, bone), shoulder);
          return [bone, quatRotate(turn, way).map((x, axis) => shoulder[axis] + x * by) as unknown as Vec3];
        }),
      );
    const turn = quatAbout([1, 0.4, 0.2], 0.3) as Quat;
    const held = found(withJointsAt(sound, about(turn, 1)));
    expect(held.map(({ gravity }) => gravity)).toEqual(['note']);
    expect(held[0].message).toMatch(/held otherwise|stands otherwise/);
    const alone = new Map([[elbow, about(turn, 1).get(elbow) as Vec3]]);
    const isTold = expect.objectContaining({
      gravity: 'worth',
      message: expect.stringContaining(`“${sound.nodes[elbow].name}” stands elsewhere`),
    });
    expect(found(withJointsAt(sound, alone))).toContainEqual(isTold);
    expect(found(withJointsAt(sound, about([0, 0, 0, 1], 1.2)))).toContainEqual(isTold);
  });

  it.each(['deckhand-clean.glb', 'stoker.dae', 'quay-skeleton.glb', 'capstan.glb'])(
    '%s: both sides are as they should be',
    (file) =>
      expect(
        audit(castCharacter(`${file}`), briefById('handset')!).filter(
          ({ check }) => check === 'mirrored-pairs',
        ),
      ).toEqual([]),
  );
});

/** Where a node would stand with another place in its parent, by three.js’ matrices. */
function worldPlace(character: Character, node: number, local: readonly number[]): Vec3 {
  const at = new Vector3(...(local as [number, number, number]));
  for (let up = character.nodes[node].parent; up >= 0; up = character.nodes[up].parent) {
    const { translation, rotation, scale } = character.nodes[up];
    at.applyMatrix4(
      new Matrix4().compose(
        new Vector3(...translation),
        new Quaternion(...(rotation as [number, number, number, number])),
        new Vector3(...scale),
      ),
    );
  }
  return [at.x, at.y, at.z];
}

it('axes that are turned change no point in any clip (three.js plays both files)', async () => {
  const before = castCharacter('deckhand.glb');
  const bones = ['L_upperarm', 'L_forearm', 'hips_c', 'R_coat_b_2'].map((name) =>
    before.nodes.findIndex((node) => node.name === name),
  );
  const after = withTurnedAxes(
    before,
    new Map(bones.map((bone, k) => [bone, quatAbout(normalise([1, k, 0.4 * k]), 0.7 + k)])),
  );
  const [was, is] = await Promise.all([before, after].map(({ ...one }) => threeGltf(writeGlb(one).bytes)));
  expect(was.animations.length).toBeGreaterThan(0);
  let count = 0;
  for (const [clip, { duration }] of was.animations.entries())
    for (const share of [0, 0.37, 0.81]) {
      const now = playedPoints(is, clip, share * duration);
      for (const [name, points] of playedPoints(was, clip, share * duration)) {
        const others = now.get(name)!;
        let most = 0;
        for (let i = 0; i < points.length; i++) most = Math.max(most, Math.abs(points[i] - others[i]));
        expect(most).toBeLessThan(2e-5);
        count++;
      }
    }
  expect(count).toBeGreaterThan(5);
});

describe('axes that cannot be turned without loss are refused, with the reason', () => {
  const sound = castCharacter('deckhand-clean.glb');
  const bone = sound.nodes.findIndex(({ name }) => name === 'hand_rt');
  const mesh = sound.nodes.findIndex((node) => node.mesh >= 0 && node.skin < 0);
  const withBone = (change: Partial<Character['nodes'][number]>): Character => ({
    ...sound,
    nodes: sound.nodes.map((node, i) => (i === bone ? { ...node, ...change } : node)),
  });
  it.each([
    ['uneven scale', withBone({ scale: [1, 2, 1] }), /scaled by different amounts/],
    ['a mesh of its own', withBone({ mesh: sound.nodes[mesh].mesh }), /shows something itself/],
    ['a camera of its own', withBone({ camera: 0 }), /shows something itself/],
    ['an extension', withBone({ extensions: { MADE_UP_roll: { axis: 'x' } } }), /MADE_UP_roll/],
  ])('%s', (_, character, why) => {
    expect(whyNotTurned(character, [bone])).toMatch(why);
    expect(() =>
      remedyById('turn-axes')!.apply(character, { bones: [bone], axis: 'x', angle: 90 }, brief),
    ).toThrow(why);
  });
  it('a bone with none of these is not', () => expect(whyNotTurned(sound, [bone])).toBeNull());
});
