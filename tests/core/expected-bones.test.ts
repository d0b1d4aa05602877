/** Templates: the bones that a body should have by what they are, found missing, put in, and given their names. */
import { VRMRequiredHumanBoneName } from '@pixiv/three-vrm-core';
import { bodyOf } from '@/bench/bodies/body';
import { STANCES, makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { bodyKindOf } from '@/core/anatomy/body-kind';
import { isBodyBone, meaningOf } from '@/core/anatomy/bones';
import { expectedBonesOf } from '@/core/anatomy/expected-bones';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { H_ANIM } from '@/core/anatomy/skeletons/h-anim';
import { TEMPLATES } from '@/core/anatomy/skeletons/templates';
import { suggest } from '@/core/anatomy/suggest';
import { H_ANIM_PARENTS } from '@/core/anatomy/trees';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { bonesOf, branchOf, restPlace } from '@/core/character/hierarchy';
import { brokenInvariants } from '@/core/character/invariants';
import type { Character } from '@/core/character/model';
import { distance } from '@/core/geometry/matrix';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { PLAIN_FIGURE } from '@/core/house/plain-briefs';
import { previewRemedy } from '@/core/house/preview';
import { checkById, remedyById } from '@/core/house/registry';
import { withBonesFolded } from '@/core/motion/fold';
import { castCharacter } from './support/cast';

const asking = (of: Brief['template'] extends infer T ? NonNullable<T> : never): Brief => ({
  ...PLAIN_FIGURE,
  template: of,
});
const vrm = asking({ of: 'vrm', surplus: 'free' });
const found = (character: Character, brief: Brief = vrm) =>
  checkById('expected-bones')!.run(character, brief);
const preview = (
  character: Character,
  id: string,
  params: Readonly<Record<string, unknown>>,
  brief = vrm,
) => {
  const remedy = remedyById(id)!;
  return previewRemedy(remedy, character, remedy.params.cast(params) as Record<string, unknown>, brief);
};
const clean = castCharacter('deckhand-clean.glb');
const at = (character: Character, name: string) => character.nodes.findIndex((node) => node.name === name);

/** Without some bones and, unless told otherwise, all that hangs on them. */
function without(character: Character, names: readonly string[], alone = false): Character {
  const inside = branchOf(
    character.nodes,
    names.map((name) => at(character, name)),
  );
  const gone = bonesOf(character).filter((bone) =>
    alone ? names.includes(character.nodes[bone].name) : inside[bone],
  );
  return withBonesFolded(character, new Set(gone)).character;
}

describe('the templates', () => {
  it('VRM needs what @pixiv/three-vrm-core requires', () => {
    const { skeleton, optional } = TEMPLATES.vrm;
    const needed = skeleton.bones.map(({ name }) => name).filter((name) => !optional.has(name));
    expect(needed.sort()).toEqual(Object.values(VRMRequiredHumanBoneName).sort());
  });
  it('H-Anim hangs as the table of the standard (ISO/IEC 19774, from memory)', () => {
    const parents = Object.fromEntries(
      H_ANIM.bones.map(({ name, parent }) => [name, H_ANIM.bones[parent]?.name ?? null]),
    );
    expect(parents).toEqual(H_ANIM_PARENTS);
  });
  it.each(Object.entries(TEMPLATES))('%s lacks nothing of itself, and is symmetric', (_id, template) => {
    const { bones } = template.skeleton;
    expect(new Set(bones.map(({ name }) => name)).size).toBe(bones.length);
    bones.forEach(({ parent }, i) => expect(parent).toBeLessThan(i));
    const { missing, doubtful, surplus } = expectedBonesOf({ ...template.skeleton }, template);
    expect({ missing, doubtful, surplus }).toEqual({ missing: [], doubtful: [], surplus: [] });
    if (template === TEMPLATES['webxr-hand']) return;
    for (const { place } of bones)
      expect(bones.some((other) => distance(other.place, [-place[0], place[1], place[2]]) < 1e-9)).toBe(true);
  });
});

it('nobody of the cast lacks a bone under its own brief, and a machine is not asked', () => {
  for (const [file, brief] of [
    ['deckhand.glb', 'handset'],
    ['deckhand-clean.glb', 'desktop'],
    ['stoker.dae', 'handset'],
    ['heron.glb', 'winged'],
    ['quay-skeleton.glb', 'handset'],
  ] as const)
    expect([file, found(castCharacter(file), briefById(brief)!)]).toEqual([file, []]);
  expect(found(castCharacter('capstan.glb'))[0]).toMatchObject({
    gravity: 'note',
    message: expect.stringMatching(/were not held against “VRM 1.0 humanoid”/),
  });
});

it.each([
  ['a hand', ['hand_lt'], false, ['leftHand']],
  ['a whole arm', ['arm_upper_rt'], false, ['rightUpperArm', 'rightLowerArm', 'rightHand']],
  ['an elbow within its arm', ['arm_lower_lt'], true, ['leftLowerArm']],
  ['the head', ['head'], false, ['head']],
  ['a foot', ['foot_rt'], false, ['rightFoot']],
] as const)(
  '%s that is missing is found, and put in again about where it was',
  (_what, gone, alone, missing) => {
    const maimed = without(clean, gone, alone);
    const [finding] = found(maimed);
    expect(finding).toMatchObject({ gravity: 'worth', measured: missing.length });
    for (const name of missing) expect(finding.message).toContain(`“${name}”`);
    const { after, effects } = preview(maimed, finding.remedies[0].id, finding.remedies[0].params);
    expect(effects.outside).toEqual([]);
    expect(effects.largestMove).toBeLessThan(1e-6);
    expect(brokenInvariants(after)).toEqual([]);
    expect(found(after)).toEqual([]);
    const first = restPlace(after.nodes, at(after, missing[0]));
    expect(distance(first, restPlace(clean.nodes, at(clean, gone[0])))).toBeLessThan(0.06 * 1.76);
    // What belongs below it hangs under it again.
    if (alone) expect(after.nodes[after.nodes[at(after, 'hand_lt')].parent].name).toBe(missing[0]);
  },
);

it('a body that lost a leg is read as no kind any more: the likeliest is held against it, and mended by its remedy', () => {
  const maimed = without(clean, ['leg_upper_lt']);
  const byKind = asking({ of: 'by-kind', surplus: 'free' });
  expect(bodyKindOf(maimed).kind).toBe('unknown');
  const [finding] = found(maimed, byKind);
  expect(finding.message).toMatch(/^3 bones of “VRM 1.0 humanoid” are missing: “leftUpperLeg”/);
  const { after } = preview(maimed, finding.remedies[0].id, finding.remedies[0].params, byKind);
  expect(found(after, byKind).filter(({ gravity }) => gravity !== 'note')).toEqual([]);
});

it('bones besides are told where none are wanted, and folded away in one step', () => {
  const strict = asking({ of: 'h-anim', surplus: 'none' });
  const [finding] = found(clean, strict);
  expect(finding).toMatchObject({ gravity: 'worth', measured: 30 });
  expect(finding.message).toMatch(/^30 bones of the body are no bone of “H-Anim, level one”/);
  const { after } = preview(clean, 'fold-bones', finding.remedies[0].params, strict);
  expect(found(after, strict)).toEqual([]);
});

it('without names it is only told that it cannot be told', () => {
  const maimed = without(clean, ['head']);
  const nameless = {
    ...maimed,
    nodes: maimed.nodes.map((node, i) => (node.kind === 'bone' ? { ...node, name: `joint_${i}` } : node)),
  };
  for (const { gravity } of found(nameless)) expect(gravity).toBe('note');
});

it('names by what bones are: from Quay to VRM and back, each the same again; clips and groups follow', () => {
  const role = { template: 'vrm', bones: [] };
  const { after } = preview(clean, 'names-by-role', role);
  for (const [quay, name] of [
    ['pelvis', 'hips'],
    ['arm_upper_lt', 'leftUpperArm'],
    ['leg_lower_rt', 'rightLowerLeg'],
    ['small_3_rt', 'rightLittleDistal'],
  ])
    expect(after.nodes[at(clean, quay)].name).toBe(name);
  const renamed = clean.nodes.filter(({ name }, i) => after.nodes[i].name !== name).length;
  expect(renamed).toBeGreaterThan(45);
  expect([after.meshes, after.clips]).toEqual([clean.meshes, clean.clips]);
  const back = preview(after, 'names-by-role', { template: 'quay', bones: [] }).after;
  expect(back.nodes.map(({ name }) => name)).toEqual(clean.nodes.map(({ name }) => name));
  // Only those that are meant.
  const one = preview(clean, 'names-by-role', { template: 'vrm', bones: [at(clean, 'arm_upper_lt')] });
  expect(() =>
    preview(one.after, 'names-by-role', { template: 'vrm', bones: [at(clean, 'arm_upper_lt')] }),
  ).toThrow(/already/);
});

it('a figure with one hand, in any habit: its other bones are paired as before, and the hand is what is missing', () => {
  const random = makeRandom(71);
  let asked = 0;
  HABITS.filter((_, i) => i % 2 === 0).forEach((habit, turn) => {
    const made = makeFigure(random, 'human', habit, { stance: STANCES[turn % 3], steady: true });
    const whole = bodyOf(made);
    const hand = bonesOf(whole).find((bone) => {
      const meaning = meaningOf(whole, bone);
      return isBodyBone(meaning) && meaning.part === 'hand' && meaning.side === 'left';
    });
    if (hand === undefined) return;
    const name = whole.nodes[hand].name;
    const maimed = without(whole, [name]);
    const pairsOf = (character: Character) => {
      const skeleton = skeletonOf(character);
      return new Map(
        suggest(skeleton, VRM_HUMANOID).flatMap(({ kind, source, target }) =>
          kind === 'carry' ? [[skeleton.bones[source].name, VRM_HUMANOID.bones[target].name]] : [],
        ),
      );
    };
    const [before, after] = [pairsOf(whole), pairsOf(maimed)];
    for (const [own, other] of after)
      expect([made.told, own, before.get(own)]).toEqual([made.told, own, other]);
    expect(after.size).toBeGreaterThan(12);
    expect(found(maimed).map(({ message }) => message)).toEqual([
      'A bone of “VRM 1.0 humanoid” is missing: “leftHand”',
    ]);
    asked++;
  });
  expect(asked).toBeGreaterThan(8);
});
