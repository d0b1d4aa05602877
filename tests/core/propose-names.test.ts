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
  const c = characterOfSkeleton({ ...QUAY, bones: QUAY.bones.slice(0, names.length) });
  return { ...c, nodes: c.nodes.map((n, i) => ({ ...n, name: names[i] })) };
};
const proposed = (c: Character, naming: typeof handset.naming = handset.naming) =>
  proposeNames(c, bonesOf(c), naming);
const after = (c: Character, table: object) =>
  remedyById('rename')!
    .apply(c, { table }, handset)
    .nodes.map((n) => n.name);

describe('proposed names', () => {
  it('are as the brief wants, each once, and keep their side, in every habit', () => {
    const { bones, right, clashes, sidesLost } = scoreNames(4711);
    expect({ clashes, sidesLost }).toEqual({ clashes: 0, sidesLost: 0 });
    expect(right).toBeGreaterThanOrEqual(0.995 * bones);
    expect(bones).toBeGreaterThan(5000);
  });

  it('do not clash with each other or with names that stay', () => {
    const c = called(['root', 'Bone', 'Bone.001', 'bone', 'Bone.002']);
    const wrong = [1, 2, 4];
    const table = proposeNames(c, wrong, handset.naming);
    expect(Object.keys(table)).toEqual(['Bone', 'Bone.001', 'Bone.002']);
    const names = after(c, table);
    expect(new Set(names).size).toBe(5);
    expect(names[3]).toBe('bone');
  });

  it('tell apart bones that share a name', () => {
    const c = called(['root', 'spine', 'spine', 'spine']);
    const names = after(c, proposeNames(c, [1, 2, 3], handset.naming));
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
    const c = called(names);
    const dots = { ...handset.naming, pattern: '^[A-Z][A-Za-z0-9.]*$', sides: { left: '.L', right: '.R' } };
    const wanted = Object.values(proposed(c, dots));
    expect(wanted.filter((n) => n.endsWith('.L'))).toHaveLength(4);
    expect(wanted.filter((n) => n.endsWith('.R'))).toHaveLength(4);
    for (const n of wanted) expect(n).toMatch(/^[A-Z][A-Za-z0-9.]*$/);
    expect(proposed(c)['LHand (copy)']).toBe('hand_lt');
  });

  it('of leftovers in a skeleton with names of its own keep to those, without empty brackets', () => {
    const c = called(['Root', 'Hips', 'L_Hand', 'R_Hand (copy)', 'L_Foot', 'R_Foot']);
    const [finding] = audit(c, handset).filter((f) => f.key.endsWith('/leftover'));
    expect(finding.remedies[0].params).toEqual({ table: { 'R_Hand (copy)': 'R_Hand' } });
  });

  it('come with the findings, and take them away', () => {
    const c = called(['root', 'Hüfte', 'Wirbel.001', 'spine copy', 'spine copy', 'Kopf']);
    const findings = audit(c, handset).filter((f) => f.check === 'bone-names');
    expect(findings.map((f) => f.key)).toEqual(
      expect.arrayContaining([expect.stringContaining('convention')]),
    );
    const mended = findings.reduce<Character>((x, f) => {
      const again = audit(x, handset).find((g) => g.key === f.key);
      return again ? remedyById('rename')!.apply(x, again.remedies[0].params, handset) : x;
    }, c);
    expect(audit(mended, handset).filter((f) => f.check === 'bone-names')).toEqual([]);
  });
});

describe('a table of names', () => {
  const c = called(['root', 'Bone', 'Bone.001', 'Bone.002', 'hand']);
  it('takes stars for any letters, and gives them on', () =>
    expect(after(c, { 'Bone.*': 'arm_*' })).toEqual(['root', 'Bone', 'arm_001', 'arm_002', 'hand']));
  it('counts', () =>
    expect(after(c, { 'Bone*': 'arm_##' })).toEqual(['root', 'arm_01', 'arm_02', 'arm_03', 'hand']));
  it('goes by a whole name before a pattern', () =>
    expect(after(c, { 'Bone*': 'arm_#', Bone: 'neck' })).toEqual(['root', 'neck', 'arm_1', 'arm_2', 'hand']));
  it('takes signs of patterns that are no star as they are', () =>
    expect(planRenaming(called(['a+b', 'aab']), { 'a+*': 'x*' }).renamings.map((r) => r.to)).toEqual(['xb']));
  it('still refuses a clash', () =>
    expect(() => after(c, { 'Bone.*': 'arm' })).toThrow(/Two bones would be called “arm”/));
});
