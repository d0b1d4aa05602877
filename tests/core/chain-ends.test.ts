/** Ends of chains: there where a game wants them, gone where it does not, as long as the flesh. */
import { bodyOf } from '@/bench/bodies/body';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { boneKindsOf } from '@/core/anatomy/bone-kinds';
import { restPlace, weightOfNodes } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import { distance } from '@/core/geometry/matrix';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { learnBrief } from '@/core/house/learn';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { checkById, remedyById } from '@/core/house/registry';
import { chainEndsOf, tipOf } from '@/core/rooms/skeleton/chain-ends';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';

const brief = briefById('handset')!;
const wanting = (chainEnds: Brief['chainEnds']): Brief => ({ ...brief, chainEnds });
const found = (character: Character, by: Brief) => checkById('chain-ends')!.run(character, by);
const mend = (
  character: Character,
  { id, params }: { id: string; params: Readonly<Record<string, unknown>> },
) => {
  const remedy = remedyById(id)!;
  return remedy.apply(character, remedy.params.cast(params) as Record<string, unknown>, brief);
};
const clean = castCharacter('deckhand-clean.glb');
const delivered = castCharacter('deckhand.glb');
const at = (character: Character, name: string) => character.nodes.findIndex((node) => node.name === name);

it('open chains are told where ends are wanted, and closed in one step; no point moves', () => {
  const [finding] = found(clean, wanting('closed'));
  expect(finding.message).toMatch(/^“\w+”, like \d+ others, has no bone behind it that marks its end$/);
  const after = mend(clean, finding.remedies![0]);
  expect(found(after, wanting('closed'))).toEqual([]);
  expect(after.meshes).toBe(clean.meshes);
  expect(after.skins).toBe(clean.skins);
  expect(after.nodes.slice(0, clean.nodes.length)).toEqual(clean.nodes);
  for (const name of ['small_3_end_lt', 'thumb_3_end_rt', 'cap_end', 'toe_end_lt']) {
    const end = at(after, name);
    expect([name, boneKindsOf(after).get(end)?.kind]).toEqual([name, 'end']);
  }
  expect(() => mend(after, { id: 'add-ends', params: {} })).toThrow(/already/);
});

it('an end stands where the flesh of its bone ends', () => {
  const tube = chainTube(5);
  const last = tube.skins[0].joints[4];
  // The tube reaches from 0 to 2 along y.
  expect(distance(tipOf(tube, last)!, [0, 2, 0])).toBeLessThan(1e-6);
  for (const bone of chainEndsOf(clean).open) {
    const tip = tipOf(clean, bone)!;
    const joint = restPlace(clean.nodes, bone);
    const heavy = placedMeshes(clean).flatMap(({ mesh, skin, points }) => {
      if (!mesh.influences || !skin) return [];
      const { offsets, joint: joints, weight } = mesh.influences;
      const own = skin.joints.indexOf(bone);
      return Array.from({ length: mesh.vertexCount }, (_, v) => v).flatMap((v) => {
        for (let k = offsets[v]; k < offsets[v + 1]; k++)
          if (joints[k] === own && weight[k] >= 0.5)
            return [[points[v * 3], points[v * 3 + 1], points[v * 3 + 2]]];
        return [];
      });
    });
    if (heavy.length === 0) continue;
    const way = tip.map((x, k) => (x - joint[k]) / distance(tip, joint));
    const reach = Math.max(
      ...heavy.map((point) => point.reduce((sum, x, k) => sum + (x - joint[k]) * way[k], 0)),
    );
    expect(distance(tip, joint)).toBeCloseTo(reach, 5);
  }
});

it('ends are told where they are not wanted, and folded away with the weight that some carry', () => {
  const [finding] = found(delivered, wanting('open'));
  expect(finding.measured).toBe(chainEndsOf(delivered).ends.length);
  const after = mend(delivered, finding.remedies![0]);
  expect(found(after, wanting('open'))).toEqual([]);
  expect(at(after, 'L_coat_a_end')).toBe(-1);
  const sum = (character: Character) => weightOfNodes(character).reduce((total, weight) => total + weight, 0);
  expect(sum(after)).toBeCloseTo(sum(delivered), 1);
});

it('a brief that is made by a character says how its chains end; either way is asked of none', () => {
  const learned = (character: Character) =>
    learnBrief(character, PLAIN_FIGURE, { id: 'own', title: 'own', about: '' }).brief.chainEnds;
  expect(learned(clean)).toBe('open');
  expect(learned(mend(clean, { id: 'add-ends', params: {} }))).toBe('closed');
  expect(learned(delivered)).toBe('free');
  for (const character of [clean, delivered]) expect(found(character, brief)).toEqual([]);
});

it('of figures in every habit each chain is closed, under names that are read as ends or carry nothing', () => {
  for (const habit of HABITS) {
    const body = bodyOf(makeFigure(makeRandom(23), 'human', habit, { stance: 'T', steady: true }));
    const { open } = chainEndsOf(body);
    const after = mend(body, { id: 'add-ends', params: { bones: open } });
    const added = after.nodes.slice(body.nodes.length);
    expect([habit.id, added.length]).toEqual([habit.id, open.length]);
    expect(new Set(after.nodes.map(({ name }) => name)).size).toBe(
      new Set(body.nodes.map(({ name }) => name)).size + open.length,
    );
    expect([habit.id, chainEndsOf(after).open]).toEqual([habit.id, []]);
  }
});
