/** Choosing bones along the tree, on the other side, by name: against plain walks over the parents. */
import fc from 'fast-check';
import { characterOfSkeleton } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import {
  boneGroups,
  bonesNamed,
  inverted,
  otherSide,
  wholeChains,
  withAbove,
  withBelow,
} from '@/core/rooms/skeleton/choosing';
import { treeBonesOf } from '@/core/rooms/skeleton/tree/bones';
import { castCharacter } from './support/cast';

const bones = treeBonesOf(characterOfSkeleton(QUAY));
const byNode = new Map(bones.map((bone) => [bone.node, bone]));
const nodes = bones.map(({ node }) => node);
const choice = fc.uniqueArray(fc.constantFrom(...nodes), { maxLength: 12 }).map((list) => new Set(list));
const sorted = (set: Iterable<number>) => [...set].sort((a, b) => a - b);
const named = (...names: string[]) =>
  new Set(names.map((name) => bones.find((bone) => bone.name === name)!.node));
const namesOf = (set: Iterable<number>) => [...set].map((node) => byNode.get(node)!.name).sort();

/** A bone and those above it. */
function wayDown(node: number): number[] {
  const out: number[] = [];
  for (let at = node; at >= 0; at = byNode.get(at)!.parent) out.push(at);
  return out;
}

it('below: every bone whose way down leads over a chosen one', () =>
  fc.assert(
    fc.property(choice, (chosen) => {
      const wanted = nodes.filter((node) => wayDown(node).some((at) => chosen.has(at)));
      expect(sorted(withBelow(bones, chosen))).toEqual(sorted(wanted));
    }),
  ));

it('above: every bone on the way down of a chosen one', () =>
  fc.assert(
    fc.property(choice, (chosen) => {
      expect(sorted(withAbove(bones, chosen))).toEqual(sorted(new Set([...chosen].flatMap(wayDown))));
    }),
  ));

it('inverting twice is what was chosen, and the other side of the other side as well, but for the middle', () =>
  fc.assert(
    fc.property(choice, (chosen) => {
      expect(sorted(inverted(bones, inverted(bones, chosen)))).toEqual(sorted(chosen));
      const sided = [...chosen].filter((node) => byNode.get(node)!.side !== 0);
      expect(sorted(otherSide(bones, otherSide(bones, chosen)))).toEqual(sorted(sided));
    }),
  ));

it('a chain goes from fork to fork, whichever of its bones is chosen', () => {
  const [tip] = bones.filter(({ name }) => /point.*_lt$/.test(name)).toReversed();
  const chain = wholeChains(bones, new Set([tip.node]));
  expect(chain.size).toBeGreaterThan(1);
  for (const node of chain) expect(sorted(wholeChains(bones, new Set([node])))).toEqual(sorted(chain));
  expect(namesOf(chain).every((name) => /point.*_lt$/.test(name))).toBe(true);
});

it('the other side of a hand is the other hand', () => {
  const [left] = bones.filter(({ name }) => /^hand.*lt$/.test(name));
  expect(namesOf(otherSide(bones, named(left.name)))).toEqual([left.name.replace(/lt$/, 'rt')]);
});

it.each([
  ['HAND', /hand/],
  ['*_lt', /_lt$/],
  ['point_?_lt', /^point_._lt$/],
  ['', /$^/],
  ['(.*)', /$^/],
])('“%s” finds what it says', (words, wanted) => {
  const found = bonesNamed(bones, words).map(({ name }) => name);
  expect(found).toEqual(bones.map(({ name }) => name).filter((name) => wanted.test(name)));
});

it('groups tell what there is of the Deckhand, and leave out what holds all or nothing', () => {
  const groups = boneGroups(treeBonesOf(castCharacter('coarse/deckhand.glb')));
  const sizeOf = Object.fromEntries(groups.map(({ id, nodes: of }) => [id, of.size]));
  expect(sizeOf.weight + sizeOf.none).toBe(105);
  // The coat’s bones; their ends, and that of the cap.
  expect(sizeOf.cloth).toBe(30);
  expect(sizeOf.end).toBe(11);
  expect(sizeOf.left).toBe(sizeOf.right);
});
