import fc from 'fast-check';
import { brokenInvariants } from '@/core/character/invariants';
import { restPlace } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { influencesFrom, remapInfluences, totalWeight } from '@/core/geometry/influences';
import {
  type Crosswalk,
  RULE_KINDS,
  arrivalOf,
  counterparts,
  hasTarget,
  leadsToTarget,
  normaliseRule,
  unmatchedTargets,
} from '@/core/anatomy/crosswalk';
import { fitTarget } from '@/core/rooms/crosswalk/fit';
import { posesFor, trialPoses } from '@/core/rooms/crosswalk/poses';
import { prove } from '@/core/rooms/crosswalk/proof';
import { remap } from '@/core/rooms/crosswalk/remap';
import { type Skeleton, bonesAbove, characterOfSkeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { type Vec3, quatAbout, quatConjugate, quatMultiply, quatRotate } from '@/core/geometry/matrix';
import { boundInPose } from '@/core/motion/bound-in-pose';
import { skeletonFrom } from '@/core/anatomy/template';
import { suggest } from '@/core/anatomy/suggest';
import { castCharacter } from './support/cast';

const deckhand = castCharacter('deckhand-clean.glb');
/** The Deckhand's boots and cap alone: a small body for properties that run often. */
const small: Character = {
  ...deckhand,
  nodes: deckhand.nodes.map((node) =>
    node.name === 'body' || node.name === 'oilskin coat'
      ? { ...node, mesh: -1, skin: -1, kind: 'empty' as const }
      : node,
  ),
  clips: [],
};
const source = skeletonOf(small);

/** Any crosswalk at all: every bone any rule, any target; shares over whatever hangs below. */
const anyWalk = (target: Skeleton): fc.Arbitrary<Crosswalk> =>
  fc
    .array(fc.tuple(fc.constantFrom(...RULE_KINDS), fc.nat(target.bones.length - 1), fc.nat(4)), {
      minLength: source.bones.length,
      maxLength: source.bones.length,
    })
    .map((list) =>
      normaliseRule(
        list.map(([kind, parent, more], i) => {
          const further = target.bones
            .flatMap((_, index) => (bonesAbove(target, index).includes(parent) ? [index] : []))
            .filter((b, _k, all) => target.bones[b].parent === parent || all.includes(target.bones[b].parent))
            .slice(0, more);
          return {
            source: i,
            kind,
            target: hasTarget({ kind }) ? parent : -1,
            ...(kind === 'share' && { further }),
            confidence: 1,
            reasons: [],
            locked: false,
          };
        }),
      ),
    );

describe('a remap, whatever the crosswalk', () => {
  it('keeps the total weight, leaves no point without, keeps the invariants, and moves nothing at rest', () => {
    fc.assert(
      fc.property(anyWalk(QUAY), (crosswalk) => {
        const out = remap(small, QUAY, crosswalk, { limit: 4 });
        expect(brokenInvariants(out.character)).toEqual([]);
        expect(out.report.weight.after).toBeCloseTo(out.report.weight.before, 1);
        expect(out.report.vertices.unweighted).toBe(0);
        expect(prove(out, trialPoses(small).slice(0, 1)).max).toBeLessThan(1e-5);
      }),
      { numRuns: 12 },
    );
  });

  it('carries each target at most once, and names what waits', () => {
    fc.assert(
      fc.property(anyWalk(QUAY), (crosswalk) => {
        const carried = crosswalk.filter(leadsToTarget).map((rule) => rule.target);
        expect(new Set(carried).size).toBe(carried.length);
        const sourceNodeOf = counterparts(QUAY, crosswalk);
        for (const target of unmatchedTargets(QUAY, crosswalk)) expect(sourceNodeOf[target]).toBe(-1);
        // Weight that is released arrives at the nearest bone above that has a counterpart.
        crosswalk.forEach((rule, i) => {
          if (leadsToTarget(rule)) expect(arrivalOf(source, QUAY, crosswalk, i)).toBe(rule.target);
        });
      }),
      { numRuns: 30 },
    );
  });

  it('joins the weights of entries that meet', () => {
    const influences = influencesFrom([
      [
        [0, 0.5],
        [1, 0.25],
        [2, 0.25],
      ],
      [[2, 1]],
      [],
    ]);
    const out = remapInfluences(influences, [1, 1, 0], 2);
    expect([Array.from(out.offsets), Array.from(out.joint), Array.from(out.weight)]).toEqual([
      [0, 2, 3, 3],
      [1, 0, 0],
      [0.75, 0.25, 1],
    ]);
    fc.assert(
      fc.property(fc.array(fc.nat(4), { minLength: 3, maxLength: 3 }), (to) =>
        expect(totalWeight(remapInfluences(influences, to, 5))).toBeCloseTo(totalWeight(influences), 6),
      ),
    );
  });
});

describe('a pure rename or reorder', () => {
  it('gives zero to float precision', () => {
    fc.assert(
      fc.property(fc.infiniteStream(fc.nat(1000)), (random) => {
        // Another order in which parents still come first, and other names.
        const order: number[] = [];
        const open = source.bones.flatMap((bone, i) => (bone.parent < 0 ? [i] : []));
        while (open.length > 0) {
          const [next] = open.splice((random.next().value as number) % open.length, 1);
          order.push(next);
          source.bones.forEach((bone, i) => {
            if (bone.parent === next) open.push(i);
          });
        }
        const target: Skeleton = {
          id: 'shuffled',
          title: 'Shuffled',
          bones: order.map((i, k) => ({
            ...source.bones[i],
            name: `joint ${k}`,
            parent: source.bones[i].parent < 0 ? -1 : order.indexOf(source.bones[i].parent),
            weight: 0,
            node: -1,
          })),
        };
        const crosswalk: Crosswalk = source.bones.map((_, i) => ({
          source: i,
          kind: 'carry',
          target: order.indexOf(i),
          confidence: 1,
          reasons: [],
          locked: true,
        }));
        const out = remap(small, target, crosswalk, { limit: 8 });
        expect(out.report.vertices).toMatchObject({ changed: 0, trimmed: 0 });
        expect(prove(out, posesFor(small, crosswalk)).max).toBeLessThan(1e-6);
      }),
      { numRuns: 5 },
    );
  });
});

describe('fitting the target to the mesh', () => {
  const chain = (
    id: string,
    names: string[],
    step: number,
    axes: Parameters<typeof skeletonFrom>[3] = null,
  ) =>
    skeletonFrom(
      id,
      id,
      names.map((name, i) => [name, i === 0 ? null : names[i - 1], [0, i * step, 0]]),
      axes,
    );
  it('spaces joints without a counterpart along their chain, as the target spaces them', () => {
    const source = chain('s', ['a', 'b', 'c'], 0.6);
    const target = chain('t', ['a', 'x', 'b', 'y', 'c'], 0.1);
    const crosswalk: Crosswalk = [0, 1, 2].map((i) => ({
      source: i,
      kind: 'carry',
      target: i * 2,
      confidence: 1,
      reasons: [],
      locked: false,
    }));
    expect(fitTarget(source, target, crosswalk).places.map((place) => Number(place[1].toFixed(6)))).toEqual([
      0, 0.3, 0.6, 0.9, 1.2,
    ]);
  });
  it('goes on in the target’s proportions beyond the last counterpart', () => {
    const source = chain('s', ['a', 'b', 'c'], 0.6);
    const target = chain('t', ['a', 'b', 'c', 'tip'], 0.1);
    const crosswalk: Crosswalk = [0, 1, 2].map((i) => ({
      source: i,
      kind: 'carry',
      target: i,
      confidence: 1,
      reasons: [],
      locked: false,
    }));
    expect(fitTarget(source, target, crosswalk).places[3][1]).toBeCloseTo(1.8, 6);
  });
  it('keeps the target’s axis along the bone when the chain leans another way', () => {
    const target = chain('t', ['a', 'b'], 1, { along: '+x', hinge: 'z' });
    const source: Skeleton = {
      ...chain('s', ['a', 'b'], 1),
      bones: chain('s', ['a', 'b'], 1).bones.map((bone, i) => ({ ...bone, place: [i, 0, 0] as const })),
    };
    const crosswalk: Crosswalk = [0, 1].map((i) => ({
      source: i,
      kind: 'carry',
      target: i,
      confidence: 1,
      reasons: [],
      locked: false,
    }));
    const [x, y, z, w] = fitTarget(source, target, crosswalk).rotations[0];
    // The bone's own +X in the world.
    const along = [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)];
    [1, 0, 0].forEach((entry, k) => expect(along[k]).toBeCloseTo(entry, 6));
  });
  it.each([true, false])(
    'leaves what the game attaches to where its skeleton has it, relative to its bone (fingers: %s)',
    (hasFingers) => {
      const hands = ['leftHand', 'rightHand'];
      const kept = VRM_HUMANOID.bones.filter(
        ({ name }) => hasFingers || !/Thumb|Index|Middle|Ring|Little/.test(name),
      );
      const named = new Map(kept.map((bone, i) => [bone.name, i]));
      const above = ({ parent }: (typeof kept)[number]) =>
        parent < 0 ? -1 : (named.get(VRM_HUMANOID.bones[parent].name) as number);
      const bones = kept.map((bone) => ({ ...bone, parent: above(bone) }));
      const points = hands.map((hand, k) => {
        const at = named.get(hand) as number;
        const { place } = bones[at];
        return {
          ...bones[at],
          name: `weapon_${hand}`,
          parent: at,
          place: [place[0] + 0.03, place[1] - 0.05, place[2] + 0.07] as const,
          rotation: quatAbout([0, 1, 0], 0.4 + k),
        };
      });
      const target = { ...VRM_HUMANOID, bones: [...bones, ...points] };
      // Taller by a third, its arms down.
      const arm = (name: string) => deckhand.nodes.findIndex((node) => node.name === name);
      const down = new Map([
        [arm('arm_upper_lt'), quatAbout([0, 0, 1], -1)],
        [arm('arm_upper_rt'), quatAbout([0, 0, 1], 1)],
      ]);
      const small = skeletonOf(boundInPose(deckhand, down));
      const source = {
        ...small,
        bones: small.bones.map((bone) => ({
          ...bone,
          place: bone.place.map((x) => 1.33 * x) as unknown as Vec3,
        })),
      };
      const { places, rotations } = fitTarget(source, target, suggest(source, target));
      hands.forEach((hand, k) => {
        const at = named.get(hand) as number;
        const point = bones.length + k;
        const local = (places: ArrayLike<ArrayLike<number>>, rotations: readonly (readonly number[])[]) => {
          const back = quatConjugate(rotations[at]);
          const way = [0, 1, 2].map((a) => places[point][a] - places[at][a]);
          return [...quatRotate(back, way), ...quatMultiply(back, rotations[point])];
        };
        const theirs = local(
          target.bones.map((bone) => bone.place),
          target.bones.map((bone) => bone.rotation),
        );
        local(places, rotations).forEach((x, i) => expect(x).toBeCloseTo(theirs[i], 6));
      });
    },
  );
  it('a skeleton as a character of its own stands where the skeleton does, and comes back from it', () => {
    const character = characterOfSkeleton(QUAY);
    QUAY.bones.forEach((bone, i) =>
      restPlace(character.nodes, i).forEach((x, k) => expect(x).toBeCloseTo(bone.place[k], 9)),
    );
    expect(
      skeletonOf(character)
        .bones.map((bone) => bone.name)
        .sort(),
    ).toEqual(QUAY.bones.map((bone) => bone.name).sort());
    expect(
      suggest(skeletonOf(character), QUAY).every(
        (rule) =>
          rule.kind === 'carry' &&
          QUAY.bones[rule.target].name === skeletonOf(character).bones[rule.source].name,
      ),
    ).toBe(true);
  });
});
