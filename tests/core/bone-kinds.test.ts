/** What bones are for: read off names, weights and the tree, said by hand, kept in files, heeded by checks. */
import { bodyOf } from '@/bench/bodies/body';
import { makeFigure, makeRandom } from '@/bench/match/figures';
import { HABITS } from '@/bench/match/habits';
import { KINDS, type FigureKind } from '@/bench/match/roles';
import { boneKindsOf } from '@/core/anatomy/bone-kinds';
import type { BoneKind } from '@/core/character/bone-kinds';
import { weightOfNodes } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { readCollada } from '@/core/formats/collada/read';
import { writeCollada } from '@/core/formats/collada/write';
import { readGltf } from '@/core/formats/gltf/read';
import { writeGlb } from '@/core/formats/gltf/write';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const deckhand = castCharacter('deckhand.glb');
const nodeOf = (character: Character, name: string) =>
  character.nodes.findIndex((node) => node.name === name);
const kindOf = (character: Character, name: string) => boneKindsOf(character).get(nodeOf(character, name));
const say = (character: Character, bones: readonly number[], kind: BoneKind | 'as-read') =>
  remedyById('bone-kind')!.apply(character, { bones, kind }, brief);

describe('as the Deckhand has them', () => {
  it.each([
    ['hips_c', 'deforming', /carries weight/],
    ['L_coat_a_1', 'cloth', /cloth/],
    ['L_coat_a_end', 'end', /closes its chain/],
    ['L_hand_ctrl', 'control', /name/],
    ['base', 'helper', /carries nothing, and \d+ below it do/],
    ['L_coat_b_end', 'end', /closes its chain/],
    ['lantern_ring', 'deforming', /mesh hangs on it/],
  ])('%s: %s', (name, kind, why) => {
    expect(kindOf(deckhand, name)).toMatchObject({ kind, isByHand: false });
    expect(kindOf(deckhand, name)!.why).toMatch(why);
  });
});

it('a last bone called tip bends with the flesh beyond its joint; the tip of a cap, without any, is an end', () => {
  const nodes = deckhand.nodes.map((node) =>
    /^[LR]_\w+_3$/.test(node.name) && !/coat/.test(node.name)
      ? { ...node, name: node.name.replace('_3', '_tip') }
      : node,
  );
  const called: Character = { ...deckhand, nodes };
  expect(kindOf(called, 'L_index_tip')).toMatchObject({ kind: 'deforming', why: 'it carries weight' });
  expect(kindOf(called, 'R_thumb_tip')).toMatchObject({ kind: 'deforming' });
  expect(kindOf(called, 'cap_tip')).toMatchObject({ kind: 'end' });
});

it('of bodies in every habit nothing that carries flesh is an end, and nothing without deforms', () => {
  const drawn = HABITS.flatMap((habit) =>
    (Object.keys(KINDS) as FigureKind[]).map((kind) => ({ habit, kind })),
  );
  for (const { habit, kind: of } of drawn) {
    const body = bodyOf(makeFigure(makeRandom(31), of, habit, { stance: 'T', steady: true }));
    const carries = new Set(
      body.meshes.flatMap((mesh) => [...(mesh.influences?.joint ?? [])].map((j) => body.skins[0].joints[j])),
    );
    const wrong = [...boneKindsOf(body)].filter(([node, { kind }]) =>
      carries.has(node) ? kind === 'end' || kind === 'control' : kind === 'deforming' || kind === 'cloth',
    );
    expect([habit.id, of, wrong.map(([node]) => body.nodes[node].name)]).toEqual([habit.id, of, []]);
  }
});

it('forty set right at once, and back again', () => {
  const forty = deckhand.nodes.flatMap(({ name }, i) => (/_coat_/.test(name) ? [i] : []));
  expect(forty).toHaveLength(40);
  const said = say(deckhand, forty, 'helper');
  for (const bone of forty)
    expect(boneKindsOf(said).get(bone)).toEqual({ kind: 'helper', why: 'said by hand', isByHand: true });
  expect(() => say(said, forty, 'helper')).toThrow(/already/);
  const back = say(said, forty, 'as-read');
  expect([...boneKindsOf(back)]).toEqual([...boneKindsOf(deckhand)]);
  expect(back.nodes).toEqual(deckhand.nodes);
});

it('what is said silences, and asks for, the findings that follow from it', () => {
  const of = (character: Character) =>
    audit(character, brief)
      .filter(({ check }) => check === 'weight-on-ends')
      .map(({ message }) => message);
  const [wrong] = of(deckhand);
  const name = /“(.*)”/.exec(wrong)![1];
  expect(of(say(deckhand, [nodeOf(deckhand, name)], 'deforming'))).toEqual(
    of(deckhand).filter((message) => !message.includes(name)),
  );
  expect(of(say(deckhand, [nodeOf(deckhand, 'L_hand')], 'control')).join()).toMatch(
    /control bone “L_hand” carries weight/,
  );
});

it('a bone inside that carries nothing is no finding where it is said to be there for that', () => {
  const desk = briefById('desktop')!;
  const of = (character: Character) =>
    audit(character, desk)
      .filter(({ check }) => check === 'idle-bones')
      .flatMap(({ elements }) => [...elements[0].ids]);
  const chain = ['L_thigh', 'L_shin'].map((name) => nodeOf(deckhand, name));
  const joints = deckhand.skins[0].joints;
  // Two bones of a leg give all that they carry away.
  const meshes = deckhand.meshes.map((mesh) => {
    if (!mesh.influences) return mesh;
    const to = joints.indexOf(nodeOf(deckhand, 'hips_c'));
    const joint = mesh.influences.joint.map((j) => (chain.includes(joints[j]) ? to : j));
    return { ...mesh, influences: { ...mesh.influences, joint } };
  });
  const idle = { ...deckhand, meshes };
  expect(of(idle)).toEqual(expect.arrayContaining(chain));
  const said = say(idle, [chain[0]], 'helper');
  expect(of(said)).toEqual(of(idle).filter((bone) => bone !== chain[0]));
});

const listed = (character: Character) =>
  character.nodes.flatMap(({ name, boneKind }) => (boneKind ? [`${name} ${boneKind}`] : [])).sort();

describe('in files', () => {
  const bones = ['L_coat_a_1', 'base'].map((name) => nodeOf(deckhand, name));
  const said = say(say(deckhand, bones, 'control'), [nodeOf(deckhand, 'head_c')], 'deforming');
  const wanted = ['L_coat_a_1 control', 'base control', 'head_c deforming'];

  it('goes out with a glTF and comes back, beside other extras', () => {
    const carried = { ...said.carried, extras: { note: 'mind the lamp' } };
    const again = readGltf([{ name: 'a.glb', bytes: writeGlb({ ...said, carried }).bytes }]);
    expect(listed(again)).toEqual(wanted);
    expect(again.carried.extras).toEqual({ note: 'mind the lamp' });
  });

  it('goes out with a COLLADA file and comes back', () =>
    expect(listed(readCollada([...writeCollada(said, 'a').files]))).toEqual(wanted));

  it.each([
    ['no list', 'x'],
    ['another kind', [{ name: 'base', nth: 0, kind: 'king' }]],
    ['no name', [{ nth: 0, kind: 'end' }]],
    [
      'more than there are bones',
      Array.from({ length: 1000 }, () => ({ name: 'base', nth: 0, kind: 'end' })),
    ],
  ])('spoilt (%s), it is left out and told', (_, json) => {
    const carried = { ...deckhand.carried, extras: { young_bough_bone_kinds: json } };
    const again = readGltf([{ name: 'a.glb', bytes: writeGlb({ ...deckhand, carried }).bytes }]);
    expect(listed(again)).toEqual([]);
    expect(again.notes.join()).toMatch(/what bones are for|bones are for cannot be read/);
  });

  it('spoilt in a COLLADA file it is left out and told', () => {
    const [file] = writeCollada(said, 'a').files.filter(({ name }) => name.endsWith('.dae'));
    const text = new TextDecoder().decode(file.bytes);
    expect(text).toContain('<kinds>');
    const bytes = new TextEncoder().encode(text.replace('<kinds>[', '<kinds>[['));
    const again = readCollada([{ name: 'a.dae', bytes }]);
    expect(listed(again)).toEqual([]);
    expect(again.notes.join()).toMatch(/The kinds of the file cannot be read/);
  });

  it('of bones that are not there it is told', () => {
    const json = [
      { name: 'nobody', nth: 0, kind: 'end' },
      { name: 'base', nth: 0, kind: 'end' },
    ];
    const carried = { ...deckhand.carried, extras: { young_bough_bone_kinds: json } };
    const again = readGltf([{ name: 'a.glb', bytes: writeGlb({ ...deckhand, carried }).bytes }]);
    expect(listed(again)).toEqual(['base end']);
    expect(again.notes.join()).toMatch(/1 more bone what they are for/);
  });
});

describe('which bones may carry weight, as a brief says', () => {
  const { carriers } = brief;
  const told = (character: Character, of: Partial<typeof carriers>) => {
    const findings = audit(character, { ...brief, carriers: { ...carriers, ...of } });
    return findings.filter(({ check }) => check === 'weight-on-ends');
  };
  const named = (character: Character, of: Partial<typeof carriers>) =>
    told(character, of).map(({ subject }) => subject.name);
  const asDelivered = named(deckhand, {});
  const inSet = (name: string, bones: readonly number[]): Character => ({
    ...deckhand,
    sets: [{ name, bones: [...bones], vertices: [], polygons: [] }],
  });
  const carrying = deckhand.nodes.flatMap((node, i) =>
    node.kind === 'bone' && weightOfNodes(deckhand)[i] > 0 ? [i] : [],
  );

  it('ends that may carry weight are not told, and controls by themselves', () => {
    expect(asDelivered.length).toBeGreaterThan(0);
    expect(named(deckhand, { ends: 'free' })).toEqual([]);
    expect(named(deckhand, { controls: 'free' })).toEqual(asDelivered);
    const said = say(deckhand, [nodeOf(deckhand, 'head_c')], 'control');
    expect(named(said, { ends: 'free' })).toEqual(['head_c']);
    expect(named(said, { ends: 'free', controls: 'free' })).toEqual([]);
  });

  it('names that may, and names that may not', () => {
    const coats = carrying.filter((i) => /coat/.test(deckhand.nodes[i].name));
    expect(coats.length).toBeGreaterThan(10);
    expect(new Set(named(deckhand, { never: '_coat_' }))).toEqual(
      new Set([...asDelivered, ...coats.map((i) => deckhand.nodes[i].name)]),
    );
    const left = carrying.filter((i) => !/^L_/.test(deckhand.nodes[i].name));
    expect(new Set(named(deckhand, { ends: 'free', only: '^L_' }))).toEqual(
      new Set(left.map((i) => deckhand.nodes[i].name)),
    );
    // What a person said of a bone comes before its name.
    const bending = coats.filter((i) => !/_end$/.test(deckhand.nodes[i].name));
    const said = say(deckhand, bending, 'cloth');
    expect(named(said, { never: '_coat_' })).toEqual(asDelivered);
  });

  it('a set that says which; one that is not there is told', () => {
    const body = carrying.filter((i) => deckhand.nodes[i].name !== 'head_c');
    const of = { ends: 'free', set: 'body' } as const;
    expect(named(inSet('body', body), of)).toEqual(['head_c']);
    expect(told(inSet('other', body), of).map(({ message }) => message)).toEqual([
      'The brief lets only bones of the set “body” carry weight, and no set of that name is there',
    ]);
  });

  it('its weight goes to the nearest bone above that may carry it', () => {
    const never = { ...brief, carriers: { ...carriers, never: '^(L_hand|L_forearm)$' } };
    const hand = nodeOf(deckhand, 'L_hand');
    const before = weightOfNodes(deckhand);
    const after = weightOfNodes(remedyById('give-to-parent')!.apply(deckhand, { bone: hand }, never));
    const upper = nodeOf(deckhand, 'L_upperarm');
    expect(after[hand]).toBe(0);
    expect(after[nodeOf(deckhand, 'L_forearm')]).toBeCloseTo(before[nodeOf(deckhand, 'L_forearm')], 3);
    expect(after[upper]).toBeCloseTo(before[upper] + before[hand], 3);
  });
});
