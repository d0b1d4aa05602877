/** New names made out of old ones: what each way of changing them does, and what it refuses. */
import { QUAY } from '@/core/anatomy/skeletons/quay';
import { characterOfSkeleton } from '@/core/anatomy/skeleton';
import type { Character } from '@/core/character/model';
import { briefById } from '@/core/house/briefs';
import { audit } from '@/core/house/audit';
import { checkById, remedyById } from '@/core/house/registry';
import { nameTableText, readNameTable } from '@/core/rooms/skeleton/name-table';
import { renamed } from '@/core/rooms/skeleton/renaming';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;

/** A chain of bones with names of its own, each under the one before. */
const chainOf = (names: readonly string[]): Character =>
  characterOfSkeleton({
    id: 'chain',
    title: 'chain',
    bones: names.map((name, i) => ({ ...QUAY.bones[0], name, parent: i - 1 })),
  });

const after = (names: readonly string[], id: string, params: object, which?: readonly number[]) =>
  remedyById(id)!
    .apply(chainOf(names), { bones: which ?? names.map((_, i) => i), ...params }, brief)
    .nodes.map(({ name }) => name);

it.each([
  [
    'number-chains',
    ['tail_a', 'tail_x', 'tail_end'],
    { first: 1, digits: 1 },
    ['tail_a_1', 'tail_a_2', 'tail_a_3'],
  ],
  ['number-chains', ['tail.007', 'b', 'c'], { first: 7, digits: 1 }, ['tail.007', 'tail.008', 'tail.009']],
  [
    'number-chains',
    ['coat_a_lt', 'x', 'y'],
    { first: 1, digits: 2 },
    ['coat_a_01_lt', 'coat_a_02_lt', 'coat_a_03_lt'],
  ],
  ['number-chains', ['ToeL', 'x'], { first: 0, digits: 1 }, ['Toe0L', 'Toe1L']],
  ['extend-names', ['a', 'b'], { letters: 'crew_', place: 'before' }, ['crew_a', 'crew_b']],
  ['extend-names', ['a', 'b'], { letters: '_x', place: 'after' }, ['a_x', 'b_x']],
  ['shorten-names', ['rig:arm', 'rig:leg'], { count: 4, from: 'first' }, ['arm', 'leg']],
  ['shorten-names', ['arm_äé', 'leg_öü'], { count: 3, from: 'last' }, ['arm', 'leg']],
  ['replace-in-names', ['a.b.c', 'x'], { letters: '.', by: '_' }, ['a_b_c', 'x']],
  ['replace-in-names', ['a$b', 'x'], { letters: '$', by: '$&' }, ['a$&b', 'x']],
  ['swap-sides', ['arm_L', 'arm_R'], {}, ['arm_R', 'arm_L']],
  ['swap-sides', ['LeftHand', 'RightHand'], {}, ['RightHand', 'LeftHand']],
])('%s of %j', (id, names, params, wanted) => expect(after(names, id, params)).toEqual(wanted));

it('two chains at once are each called after their own first bone', () => {
  const two = characterOfSkeleton({
    id: 'two',
    title: 'two',
    bones: ['root', 'hair', 'h2', 'coat', 'c2'].map((name, i) => ({
      ...QUAY.bones[0],
      name,
      parent: [-1, 0, 1, 0, 3][i],
    })),
  });
  const names = remedyById('number-chains')!
    .apply(two, { bones: [1, 2, 3, 4], first: 1, digits: 1 }, brief)
    .nodes.map(({ name }) => name);
  expect(names).toEqual(['root', 'hair1', 'hair2', 'coat1', 'coat2']);
});

it('only the chosen ones change, and a name that stays is met by none', () => {
  expect(after(['a', 'b', 'c'], 'extend-names', { letters: 'x', place: 'after' }, [1])).toEqual([
    'a',
    'bx',
    'c',
  ]);
  expect(() => after(['a', 'ab'], 'replace-in-names', { letters: 'b', by: '' })).toThrow(
    /Two bones would be called “a”/,
  );
  expect(() => renamed(chainOf(['a']), new Map([[0, ' ']]))).toThrow(/without a name/);
});

it('all 105 names of a supplier become the convention’s in one step, and nothing is left to say of them', () => {
  const before = castCharacter('deckhand.glb');
  const remedy = remedyById('follow-convention')!;
  const names = remedy.apply(before, {}, brief);
  const of = (character: Character) =>
    audit(character, brief).filter(({ key }) =>
      /^bone-names\/.*(convention|leftover|doubled|long)/.test(key),
    );
  expect(of(before).length).toBeGreaterThan(1);
  expect(of(names)).toEqual([]);
  expect(new Set(names.nodes.map(({ name }) => name)).size).toBe(names.nodes.length);
  expect(() => remedy.apply(names, {}, brief)).toThrow(/follow the convention already/);
});

it('a table is read as people paste it, and written so that it is read again', () => {
  const table = readNameTable('a → b\r\nc,d\n e\tf \n\nnonsense\ng -> h; i\nj;k');
  expect(table).toEqual({ a: 'b', c: 'd', e: 'f', j: 'k' });
  expect(readNameTable(nameTableText(table))).toEqual(table);
});

describe('names that a game without capitals and signs takes for one', () => {
  const clean = castCharacter('deckhand-clean.glb');
  const called = (from: string, to: string): Character => ({
    ...clean,
    nodes: clean.nodes.map((node) => (node.name === from ? { ...node, name: to } : node)),
  });
  const alike = (character: Character) =>
    checkById('bone-names')!
      .run(character, brief)
      .filter(({ message }) => message.includes('capitals or signs'));

  it.each([
    ['neck_2', 'Neck_1'],
    ['neck_2', 'neck.1'],
    ['head', 'NECK - 1'],
  ])('%s called %s is told beside neck_1, and mended', (from, to) => {
    const wrong = called(from, to);
    const [finding, ...others] = alike(wrong);
    expect(others).toEqual([]);
    expect(finding.message).toMatch(
      /^2 bones have names that differ in nothing but capitals or signs: “neck_1”, /,
    );
    const [{ id, params }] = finding.remedies!;
    const after = remedyById(id)!.apply(wrong, params as Record<string, unknown>, brief);
    expect(alike(after)).toEqual([]);
    expect(new Set(after.nodes.map(({ name }) => name)).size).toBe(
      new Set(wrong.nodes.map(({ name }) => name)).size,
    );
  });

  it.each([
    ['neck_2', 'neck_11'],
    ['neck_2', 'neck1'],
    ['neck_2', 'шея_1'],
  ])('%s called %s is not', (from, to) => expect(alike(called(from, to))).toEqual([]));
});
