/** A branch made the mirror image of another: a whole side anew, and one that was mirrored by half. */
import { bodyOf } from '@/bench/bodies/body';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { mirrorRuleOf, pairDeviation } from '@/core/anatomy/mirrored-pairs';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { type Skeleton, characterOfSkeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { withOtherSide } from '@/core/anatomy/side-in-name';
import { placedMeshes } from '@/core/character/measure';
import { restPlace } from '@/core/character/hierarchy';
import { brokenInvariants } from '@/core/character/invariants';
import type { Character } from '@/core/character/model';
import { withJointsAt } from '@/core/character/place-joints';
import { rehung } from '@/core/character/rehang';
import { withTurnedAxes } from '@/core/character/turn-axes';
import { mirroredPlace } from '@/core/geometry/mirror';
import { type Vec3, distance } from '@/core/geometry/matrix';
import { effectsOf } from '@/core/house/effects';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { judgedPairs } from '@/core/rooms/skeleton/pairs';
import { renamed } from '@/core/rooms/skeleton/renaming';
import { treeBonesOf } from '@/core/rooms/skeleton/tree/bones';

const brief = briefById('handset')!;
const mirror = (character: Character, bone: number, onto = -1) =>
  remedyById('mirror-branch')!.apply(character, { bone, onto }, brief);
const nodeOf = (character: Character, name: string) =>
  character.nodes.findIndex((node) => node.name === name);
const shape = (character: Character) => {
  const { nodes } = character;
  return nodes
    .map(({ name, parent }, i) => ({
      name,
      parent: nodes[parent]?.name ?? null,
      place: restPlace(nodes, i).map((x) => Number(x.toFixed(5)) + 0),
    }))
    .sort((a, b) => a.name.localeCompare(b.name));
};

/** The Quay skeleton without the bones of a side under a bone. */
function withoutBranch(skeleton: Skeleton, top: string): Skeleton {
  const gone = new Set<number>();
  skeleton.bones.forEach(({ name, parent }, i) => {
    if (name === top || gone.has(parent)) gone.add(i);
  });
  const kept = skeleton.bones.map((_, i) => i).filter((i) => !gone.has(i));
  return {
    ...skeleton,
    bones: kept.map((i) => ({ ...skeleton.bones[i], parent: kept.indexOf(skeleton.bones[i].parent) })),
  };
}

it.each(['collar_rt', 'leg_upper_rt'])(
  'a side without %s and all below it is made anew from the other one',
  (top) => {
    const half = characterOfSkeleton(withoutBranch(QUAY, top));
    const whole = mirror(half, nodeOf(half, withOtherSide(top)!));
    expect(brokenInvariants(whole)).toEqual([]);
    expect(shape(whole)).toEqual(shape(characterOfSkeleton(QUAY)));
    // Its axes follow what the rest of the skeleton follows.
    const skeleton = skeletonOf(whole);
    const { plane, pairs } = judgedPairs(whole)!;
    const rule = mirrorRuleOf(
      skeleton,
      plane,
      pairs.map(({ pair }) => pair),
    )!;
    for (const { pair, right } of pairs)
      if (/^(arm|hand|collar)/.test(right.name))
        expect(pairDeviation(skeleton, plane, rule, pair).angle).toBeLessThan(0.01);
    expect(() => mirror(whole, nodeOf(whole, withOtherSide(top)!))).toThrow(/already/);
  },
);

it('where a part of the other side is there, what has another name now is told as that bone, not as gone', () => {
  const half = characterOfSkeleton(withoutBranch(QUAY, 'hand_rt'));
  const rt = half.nodes.flatMap(({ name }, i) => (/^(collar|arm).*_rt$/.test(name) ? [i] : []));
  const copied = renamed(half, new Map(rt.map((bone, k) => [bone, `copy_${k}`])));
  const remedy = remedyById('mirror-branch')!;
  const params = { bone: nodeOf(copied, 'collar_lt'), onto: rt[0] };
  const whole = remedy.apply(copied, params, brief);
  expect(shape(whole)).toEqual(shape(characterOfSkeleton(QUAY)));
  const effects = effectsOf(copied, whole, remedy.promises(copied, params, brief));
  expect(effects).toMatchObject({ removed: [], outside: [] });
});

describe.each([51, 52, 53, 54])('a branch that was mirrored by half, of figure %s', (seed) => {
  const body = bodyOf(
    makeFigure(
      makeRandom(seed),
      'human',
      HABITS.find(({ id }) => id === 'snake, side last')!,
      {
        steady: true,
        plain: true,
        stance: 'T',
      },
    ),
  );
  const tree = treeBonesOf(body);
  const children = (node: number) => tree.filter(({ parent }) => parent === node);
  const below = (node: number): number[] => [node, ...children(node).flatMap((child) => below(child.node))];
  const [top] = tree.filter(
    (bone) =>
      bone.side === 1 &&
      bone.twin >= 0 &&
      tree.find(({ node }) => node === bone.parent)?.side === 0 &&
      below(bone.node).length > 4,
  );
  const wrong = below(top.twin);
  /** The old parent, the names of a copy, axes half a turn off, joints aside: the classic. */
  const spoilt = [
    (character: Character) => rehung(character, top.twin, top.node),
    (character: Character) =>
      withTurnedAxes(character, new Map(wrong.map((bone) => [bone, [0, 1, 0, 0] as const]))),
    (character: Character) =>
      withJointsAt(
        character,
        new Map(
          wrong.map((bone, i): [number, Vec3] => {
            const [x, y, z] = restPlace(character.nodes, bone);
            return [bone, [x + 0.004 * (i % 3), y + 0.015, z]];
          }),
        ),
      ),
    (character: Character) =>
      renamed(
        character,
        new Map(
          wrong.map((bone, i) => [bone, `${body.nodes[below(top.node)[i] ?? top.node].name}_copy_${i}`]),
        ),
      ),
  ].reduce((character, spoil) => spoil(character), body);

  it('is what it was again in one step, and no point has moved at rest', () => {
    const mended = mirror(spoilt, top.node, top.twin);
    expect(brokenInvariants(mended)).toEqual([]);
    const plane = judgedPairs(body)!.plane;
    for (const bone of tree.filter(({ node }) => below(top.node).includes(node))) {
      const twin = nodeOf(mended, withOtherSide(bone.name)!);
      expect(twin).toBe(bone.twin);
      expect(
        distance(
          restPlace(mended.nodes, twin),
          mirroredPlace(plane, restPlace(body.nodes, bone.node) as Vec3),
        ),
      ).toBeLessThan(2e-3);
    }
    expect(mended.nodes[top.twin].parent).toBe(body.nodes[top.twin].parent);
    const asks = (character: Character) =>
      audit(character, brief).filter(({ check }) => check === 'mirrored-pairs' || check === 'parents');
    expect(shape(spoilt)).not.toEqual(shape(body));
    expect(asks(mended)).toEqual([]);
    placedMeshes(mended).forEach(({ points }, k) => {
      const before = placedMeshes(spoilt)[k].points;
      let most = 0;
      for (let i = 0; i < points.length; i++) most = Math.max(most, Math.abs(points[i] - before[i]));
      expect(most).toBeLessThan(1e-5);
    });
  });
});
