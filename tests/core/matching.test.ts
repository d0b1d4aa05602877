/**
 * Skeletons are matched by names in any habit and by shape in any stance, and what does not matter changes
 * nothing.
 */
import { existsSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { alignTrees } from '@/core/anatomy/align';
import { skeletonOfBones } from '@/core/anatomy/lone';
import { matchSkeletons } from '@/core/anatomy/match';
import { wordsOf } from '@/core/anatomy/reading/tokens';
import { readSkeleton } from '@/core/anatomy/reading/read';
import { shapeOf } from '@/core/anatomy/shape';
import { type Skeleton, characterOfSkeleton, fleshAt, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { WEBXR_HAND_LEFT } from '@/core/anatomy/skeletons/webxr-hand';
import { suggest } from '@/core/anatomy/suggest';
import { VRM_PARENTS } from '@/core/anatomy/trees';
import { readCharacter } from '@/core/formats';
import { assignAll } from '@/core/geometry/assign';
import { type Vec3, quatAbout, quatRotate } from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { parentsCheck } from '@/core/rooms/skeleton/checks/parents';
import { BRIEFS } from '@/core/house/briefs';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { personOf } from '@/bench/match/people';
import { runMatches, shareOf } from '@/bench/match/run';
import { rolesOfShipped } from '@/bench/match/truth';
import { castCharacter } from './support/cast';

/** Pairs by the sources' own keys, so that order does not count. */
const pairsOf = (
  source: Skeleton,
  target: Skeleton,
  key: (i: number) => string = (i) => source.bones[i].name,
) =>
  Object.fromEntries(
    matchSkeletons(source, target).map((pair) => [key(pair.source), target.bones[pair.target].name]),
  );

const moved = (
  skeleton: Skeleton,
  how: (p: readonly [number, number, number]) => readonly number[],
): Skeleton => ({
  ...skeleton,
  bones: skeleton.bones.map((bone) => ({ ...bone, place: how(bone.place) as [number, number, number] })),
});

describe('assignment', () => {
  /** Against all ways there are, of matrices up to 4 by 4. */
  const best = (gain: readonly (readonly number[])[], row = 0, used = 0): number => {
    if (row === gain.length) return 0;
    let most = best(gain, row + 1, used);
    gain[row].forEach((g, j) => {
      if (g > 0 && !(used & (1 << j))) most = Math.max(most, g + best(gain, row + 1, used | (1 << j)));
    });
    return most;
  };
  it('takes the most that can be had', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 4 }).chain((columns) =>
          fc.array(fc.array(fc.integer({ min: -5, max: 20 }), { minLength: columns, maxLength: columns }), {
            minLength: 1,
            maxLength: 4,
          }),
        ),
        (gain) => {
          const pairs = assignAll(gain);
          expect(new Set(pairs.map((pair) => pair[0])).size).toBe(pairs.length);
          expect(new Set(pairs.map((pair) => pair[1])).size).toBe(pairs.length);
          expect(pairs.reduce((sum, [i, j]) => sum + gain[i][j], 0)).toBe(best(gain));
        },
      ),
    ));
  it('trees keep what lies under what', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const random = makeRandom(seed);
        const tree = (n: number) => {
          const children: number[][] = Array.from({ length: n }, () => []);
          const parent = [-1];
          for (let i = 1; i < n; i++) {
            parent[i] = Math.floor(random() * i);
            children[parent[i]].push(i);
          }
          return { children, parent, order: [...children.keys()] };
        };
        const [a, b] = [tree(9), tree(8)];
        const worth = Float64Array.from({ length: 72 }, () => random() * 2 - 0.8);
        const { pairs, worth: sum } = alignTrees({
          source: a.children,
          target: b.children,
          sourceOrder: a.order,
          targetOrder: b.order,
          worth,
        });
        const isUnder = (parent: readonly number[], i: number, top: number): boolean =>
          parent[i] === top || (parent[i] >= 0 && isUnder(parent, parent[i], top));
        const list = [...pairs].flatMap((j, i) => (j >= 0 ? [[i, j] as const] : []));
        expect(new Set(list.map((p) => p[1])).size).toBe(list.length);
        for (const [i, j] of list)
          for (const [k, top] of list)
            if (i !== k) expect(isUnder(a.parent, i, k)).toBe(isUnder(b.parent, j, top));
        expect(sum).toBeCloseTo(
          list.reduce((sum, [i, j]) => sum + worth[i * 8 + j], 0),
          9,
        );
        // One pair alone, with all above it passed over (0.2 a bone), is never worth more.
        const depth = (parent: readonly number[], i: number): number =>
          parent[i] < 0 ? 0 : 1 + depth(parent, parent[i]);
        worth.forEach((weight, at) => {
          const over = depth(a.parent, Math.floor(at / 8)) + depth(b.parent, at % 8);
          expect(sum).toBeGreaterThanOrEqual(weight - 0.2 * over - 1e-9);
        });
      }),
    ));
});

describe('names', () => {
  it.each([
    ['LeftForeArm', 'left forearm'],
    ['Fig07 L Thigh', 'fig 07 l thigh'],
    ['Oberschenkel_links', 'oberschenkel links'],
    ['leftupperarm', 'left upperarm'],
    ['AvantBrasGauche', 'avantbras gauche'],
    ['左手首', '左 手首'],
    ['人差し指２', '人差し指 2'],
    ['Предплечье.лев', 'предплечье лев'],
    ['przedramię_prawy', 'przedramie prawy'],
  ])('%s is %s', (name, words) => expect(wordsOf(name)).toEqual(words.split(' ')));

  it('the VRM humanoid reads as what its own table says', () => {
    const readings = readSkeleton(VRM_HUMANOID, shapeOf(VRM_HUMANOID));
    VRM_HUMANOID.bones.forEach((bone, i) => {
      expect([bone.name, Object.hasOwn(VRM_PARENTS, bone.name)]).toEqual([bone.name, true]);
      const side = /^(left|right)/.exec(bone.name)?.[1] ?? 'middle';
      expect([bone.name, readings[i].side]).toEqual([bone.name, side]);
      expect([bone.name, readings[i].part !== '']).toEqual([bone.name, true]);
    });
  });
});

describe('laws', () => {
  const figures = () => {
    const random = makeRandom(77);
    return HABITS.map((habit) => makeFigure(random, 'human', habit));
  };
  it('a skeleton is its own match, with names and without', () => {
    for (const skeleton of [
      QUAY,
      VRM_HUMANOID,
      WEBXR_HAND_LEFT,
      ...figures().map((figure) => figure.skeleton),
    ]) {
      const own = matchSkeletons(skeleton, skeleton);
      expect(own.map((pair) => [pair.source, pair.target])).toEqual(skeleton.bones.map((_, i) => [i, i]));
    }
    const bare = { ...QUAY, bones: QUAY.bones.map((bone, i) => ({ ...bone, name: `b${i}` })) };
    const right = matchSkeletons(bare, QUAY).filter((pair) => pair.source === pair.target).length;
    expect(right).toBe(QUAY.bones.length);
  });
  it('unit, facing and up axis change no pair', () => {
    for (const { skeleton } of figures()) {
      const before = pairsOf(skeleton, QUAY);
      const turn = quatAbout([0.6, 0.8, 0], 1.1);
      expect(
        pairsOf(
          moved(skeleton, (p) => quatRotate(turn, [...p]).map((x) => x * 37)),
          QUAY,
        ),
      ).toEqual(before);
    }
  });
  it('the order of the bones changes no pair', () => {
    for (const { skeleton } of figures().slice(0, 12)) {
      const children = skeleton.bones.map((_, i) =>
        skeleton.bones.flatMap((bone, k) => (bone.parent === i ? [k] : [])),
      );
      const order: number[] = [];
      const visit = (i: number) => {
        order.push(i);
        [...children[i]].reverse().forEach(visit);
      };
      skeleton.bones.forEach((bone, i) => bone.parent < 0 && visit(i));
      const at = new Map(order.map((o, k) => [o, k]));
      const bones = order.map((o) => {
        const bone = skeleton.bones[o];
        return { ...bone, parent: bone.parent < 0 ? -1 : (at.get(bone.parent) as number) };
      });
      expect(pairsOf({ ...skeleton, bones }, QUAY)).toEqual(pairsOf(skeleton, QUAY));
    }
  });
  it('what a person has set stays, and nothing else takes its place', () => {
    const { skeleton } = figures()[0];
    const first = suggest(skeleton, QUAY);
    const odd = QUAY.bones.findIndex((bone) => bone.name === 'toe_lt');
    const rule = { ...first[3], kind: 'carry' as const, target: odd, locked: true, confidence: 1 };
    const again = suggest(
      skeleton,
      QUAY,
      first.map((otherRule) => (otherRule.source === 3 ? rule : { ...otherRule, locked: false })),
    );
    expect(again[3].target).toBe(odd);
    expect(
      again.filter((rule) => rule.target === odd && rule.kind === 'carry').map((rule) => rule.source),
    ).toEqual([3]);
  });
  it('one pair that is set across the trees upsets no other', () => {
    const bare = { ...QUAY, bones: QUAY.bones.map((bone, i) => ({ ...bone, name: `b${i}` })) };
    const [hand, toe] = ['hand_lt', 'toe_lt'].map((name) =>
      QUAY.bones.findIndex((bone) => bone.name === name),
    );
    const found = new Map(
      matchSkeletons(bare, QUAY, new Map([[hand, toe]])).map((pair) => [pair.source, pair.target]),
    );
    expect(found.get(hand)).toBe(toe);
    const off = QUAY.bones.flatMap((bone, i) => (found.get(i) === i ? [] : [bone.name]));
    expect(off).toEqual(['hand_lt', 'toe_lt']);
  });
});

it('figures of every habit find their bones; without names as well', () => {
  const cases = runMatches(31, 1);
  const human = cases.filter((sample) => sample.figure.kind === 'human');
  const of = (speaks: string) => human.filter((sample) => sample.figure.habit.speaks === speaks);
  expect(of('known').length).toBeGreaterThan(200);
  expect(shareOf(of('known'))).toBeGreaterThan(99);
  expect(shareOf(of('nothing'))).toBeGreaterThan(90);
  const sure = cases.flatMap((sample) => sample.score.said).filter((said) => said.confidence >= 0.9);
  expect(sure.filter((p) => p.isRight).length / sure.length).toBeGreaterThan(0.99);
});

it('figures without a planted fault have no bone under the wrong parent', () => {
  const random = makeRandom(3);
  for (const habit of HABITS)
    for (const stance of ['T', 'seated', 'arms crossed'] as const) {
      const { skeleton, told } = makeFigure(random, 'human', habit, { stance });
      const found = parentsCheck.run(characterOfSkeleton(skeleton), BRIEFS[0]);
      expect([told, found.map((finding) => finding.message)]).toEqual([told, []]);
    }
});

const CAPTURE = '/usr/share/assimp/models/BVH/01_01.bvh';
(existsSync(CAPTURE) ? it : it.skip)(
  'a capture: stubs are no thighs, a forearm is no finger, no hand hangs wrongly',
  () => {
    const character = readCharacter([{ name: '01_01.bvh', bytes: new Uint8Array(readFileSync(CAPTURE)) }]);
    const found = pairsOf(skeletonOf(character), VRM_HUMANOID);
    expect(found).toMatchObject({
      LeftUpLeg: 'leftUpperLeg',
      LeftForeArm: 'leftLowerArm',
      RightHand: 'rightHand',
    });
    expect(found.LHipJoint).toBeUndefined();
    for (const brief of BRIEFS)
      expect(audit(character, brief).filter((finding) => finding.check === 'parents')).toEqual([]);
  },
);

describe('what hangs on a bound body and carries nothing', () => {
  const random = makeRandom(4711);
  const counted = HABITS.filter((habit) => habit.speaks === 'nothing');
  const figures = Array.from({ length: 12 }, (_, otherBone) => {
    const figure = makeFigure(random, 'human', counted[otherBone % counted.length], {
      stance: 'A',
      holding: true,
    });
    const bones = figure.skeleton.bones.map((bone, i) => ({ ...bone, weight: figure.isFlesh[i] ? 30 : 0 }));
    return { ...figure, skeleton: { ...figure.skeleton, bones } };
  });

  it('is no limb, whatever lies near it', () => {
    let hanging = 0;
    for (const { skeleton, roles, isFlesh } of figures) {
      const paired = new Set(matchSkeletons(skeleton, VRM_HUMANOID).map((pair) => pair.source));
      const isLeaf = (i: number) => skeleton.bones.every((bone) => bone.parent !== i);
      skeleton.bones.forEach((_, i) => {
        if (roles[i] || isFlesh[i] || !isLeaf(i)) return;
        hanging++;
        expect(paired.has(i)).toBe(false);
      });
    }
    expect(hanging).toBeGreaterThan(50);
  });

  it('changes nothing for the limbs themselves', () => {
    for (const { skeleton, isFlesh } of figures) {
      const kept = skeletonOfBones(
        skeleton,
        skeleton.bones.flatMap((_, i) =>
          isFlesh[i] || skeleton.bones.some((bone) => bone.parent === i) ? [i] : [],
        ),
      );
      const own = ({ node }: { node: number }) => node;
      const byNode = (skeleton: Skeleton) =>
        Object.fromEntries(
          matchSkeletons(skeleton, VRM_HUMANOID).map((pair) => [
            own(skeleton.bones[pair.source]),
            pair.target,
          ]),
        );
      expect(byNode(skeleton)).toEqual(byNode(kept));
    }
  });

  it('is paired where it alone hangs on both bones of a pair', () => {
    const rig = (names: string, prefix: string): Skeleton => ({
      ...QUAY,
      bones: [
        ...QUAY.bones.map((bone) => ({ ...bone, name: `${prefix}${bone.name}`, weight: 10 })),
        {
          ...QUAY.bones[0],
          name: names,
          parent: QUAY.bones.findIndex((bone) => bone.name === 'hand_lt'),
          weight: 0,
        },
      ],
    });
    const [a, b] = [rig('zulk', ''), rig('mirrop', 'def_')];
    expect(matchSkeletons(a, b)).toContainEqual(
      expect.objectContaining({ source: QUAY.bones.length, target: QUAY.bones.length, confidence: 0.6 }),
    );
  });
});

describe('which side is which, without names', () => {
  it('is told by feet that reach ahead of the ankle, where no toe and no bend does', () => {
    const random = makeRandom(77);
    const roles = rolesOfShipped(QUAY);
    const habit = HABITS.find((habit) => habit.speaks === 'nothing')!;
    let [seen, exchanged] = [0, 0];
    for (const stance of ['T', 'A', 'relaxed'] as const)
      for (let k = 0; k < 8; k++) {
        const { skeleton, roles: own } = personOf(
          random,
          habit,
          stance,
          'straight limbs, no toes, one finger',
        );
        for (const { source, target } of matchSkeletons(skeleton, QUAY)) {
          const sides = [own[source], roles[target]].map((role) => /left|right/.exec(role ?? '')?.[0]);
          if (!sides[0] || !sides[1]) continue;
          seen++;
          if (sides[0] !== sides[1]) exchanged++;
        }
      }
    expect(seen).toBeGreaterThan(200);
    expect(exchanged).toBe(0);
  });
  it('goes by the points that a bone carries, by their weight', () => {
    const skeleton = skeletonOf(castCharacter('deckhand-clean.glb'));
    const { bones } = skeleton;
    const at = (name: string) =>
      fleshAt(
        skeleton,
        bones.findIndex((bone) => bone.name === name),
      ) as Vec3;
    for (const side of ['lt', 'rt']) {
      const foot = bones.find((bone) => bone.name === `foot_${side}`)!;
      expect(at(foot.name)[2]).toBeGreaterThan(foot.place[2] + 0.02);
      const thigh = bones.find((bone) => bone.name === `leg_upper_${side}`)!;
      expect(at(thigh.name)[1]).toBeLessThan(thigh.place[1]);
    }
    bones.forEach((bone, i) => expect(fleshAt(skeleton, i) !== undefined).toBe(bone.weight > 0));
    // Some of its bones by themselves carry what they carried.
    const feet = bones.flatMap((bone, i) => (bone.name.startsWith('foot') ? [i] : []));
    expect(fleshAt(skeletonOfBones(skeleton, feet), 0)).toEqual(fleshAt(skeleton, feet[0]));
  });
});

it('one finger that is called the middle one is that, under a hand of any language', () => {
  const random = makeRandom(5);
  const roles = rolesOfShipped(QUAY);
  let [seen, right] = [0, 0];
  for (const habit of HABITS.filter((habit) => habit.speaks === 'known')) {
    const { skeleton, roles: own } = personOf(random, habit, 'A', 'no toes and one finger');
    const pairs = matchSkeletons(skeleton, QUAY);
    own.forEach((role, i) => {
      if (!role?.startsWith('long 1')) return;
      seen++;
      const pair = pairs.find((pair) => pair.source === i);
      if (pair && roles[pair.target] === role) right++;
    });
  }
  expect(seen).toBeGreaterThan(30);
  // Those that are only numbered (“Finger2”) tell nothing where they are alone.
  expect(right / seen).toBeGreaterThan(0.85);
});
