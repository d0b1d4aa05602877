/** Names that are proposed, and tables with patterns and counters. */
import { scoreNames } from '@/bench/bodies/names';
import { characterOfSkeleton } from '@/core/anatomy/skeleton';
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { bonesOf } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { proposeNames } from '@/core/rooms/skeleton/propose-names';
import { planRenaming } from '@/core/rooms/skeleton/remedies/rename';

const handset = briefById('handset')!;
const called = (names: readonly string[]): Character => {
  const character = characterOfSkeleton({ ...QUAY, bones: QUAY.bones.slice(0, names.length) });
  return { ...character, nodes: character.nodes.map((node, i) => ({ ...node, name: names[i] })) };
};
const proposed = (character: Character, naming: typeof handset.naming = handset.naming) =>
  proposeNames(character, bonesOf(character), naming);
const after = (character: Character, table: object) =>
  remedyById('rename')!
    .apply(character, { table }, handset)
    .nodes.map((node) => node.name);

describe('proposed names', () => {
  it('are as the brief wants, each once, and keep their side, in every habit', () => {
    const { bones, right, clashes, sidesLost } = scoreNames(4711);
    expect({ clashes, sidesLost }).toEqual({ clashes: 0, sidesLost: 0 });
    expect(right).toBeGreaterThanOrEqual(0.995 * bones);
    expect(bones).toBeGreaterThan(5000);
  });

  it('do not clash with each other or with names that stay', () => {
    const character = called(['root', 'Bone', 'Bone.001', 'bone', 'Bone.002']);
    const wrong = [1, 2, 4];
    const table = proposeNames(character, wrong, handset.naming);
    expect(Object.keys(table)).toEqual(['Bone', 'Bone.001', 'Bone.002']);
    const names = after(character, table);
    expect(new Set(names).size).toBe(5);
    expect(names[3]).toBe('bone');
  });

  it('tell apart bones that share a name', () => {
    const character = called(['root', 'spine', 'spine', 'spine']);
    const names = after(character, proposeNames(character, [1, 2, 3], handset.naming));
    expect(names).toEqual(['root', 'spine_1', 'spine_2', 'spine_3']);
  });

  it('write sides as the brief does, and leave no empty brackets', () => {
    const names = [
      'hips',
      'LHipJoint',
      'RHipJoint',
      'LHand (copy)',
      'RHand',
      'LFoot',
      'RFoot',
      'LToe',
      'RToe',
    ];
    const character = called(names);
    const dots = { ...handset.naming, pattern: '^[A-Z][A-Za-z0-9.]*$', sides: { left: '.L', right: '.R' } };
    const wanted = Object.values(proposed(character, dots));
    expect(wanted.filter((name) => name.endsWith('.L'))).toHaveLength(4);
    expect(wanted.filter((name) => name.endsWith('.R'))).toHaveLength(4);
    for (const name of wanted) expect(name).toMatch(/^[A-Z][A-Za-z0-9.]*$/);
    expect(proposed(character)['LHand (copy)']).toBe('hand_lt');
  });

  it('of leftovers in a skeleton with names of its own keep to those, without empty brackets', () => {
    const character = called(['Root', 'Hips', 'L_Hand', 'R_Hand (copy)', 'L_Foot', 'R_Foot']);
    const [finding] = audit(character, handset).filter((finding) => finding.key.endsWith('/leftover'));
    expect(finding.remedies[0].params).toEqual({ table: { 'R_Hand (copy)': 'R_Hand' } });
  });

  it('come with the findings, and take them away', () => {
    const character = called(['root', 'Hüfte', 'Wirbel.001', 'spine copy', 'spine copy', 'Kopf']);
    const findings = audit(character, handset).filter((finding) => finding.check === 'bone-names');
    expect(findings.map((finding) => finding.key)).toEqual(
      expect.arrayContaining([expect.stringContaining('convention')]),
    );
    const mended = findings.reduce<Character>((otherCharacter, finding) => {
      const again = audit(otherCharacter, handset).find((otherFinding) => otherFinding.key === finding.key);
      return again
        ? remedyById('rename')!.apply(otherCharacter, again.remedies[0].params, handset)
        : otherCharacter;
    }, character);
    expect(audit(mended, handset).filter((finding) => finding.check === 'bone-names')).toEqual([]);
  });
});

describe('a table of names', () => {
  const character = called(['root', 'Bone', 'Bone.001', 'Bone.002', 'hand']);
  it('takes stars for any letters, and gives them on', () =>
    expect(after(character, { 'Bone.*': 'arm_*' })).toEqual(['root', 'Bone', 'arm_001', 'arm_002', 'hand']));
  it('counts', () =>
    expect(after(character, { 'Bone*': 'arm_##' })).toEqual(['root', 'arm_01', 'arm_02', 'arm_03', 'hand']));
  it('goes by a whole name before a pattern', () =>
    expect(after(character, { 'Bone*': 'arm_#', Bone: 'neck' })).toEqual([
      'root',
      'neck',
      'arm_1',
      'arm_2',
      'hand',
    ]));
  it('takes signs of patterns that are no star as they are', () =>
    expect(
      planRenaming(called(['a+b', 'aab']), { 'a+*': 'x*' }).renamings.map((renaming) => renaming.to),
    ).toEqual(['xb']));
  it('still refuses a clash', () =>
    expect(() => after(character, { 'Bone.*': 'arm' })).toThrow(/Two bones would be called “arm”/));
});
