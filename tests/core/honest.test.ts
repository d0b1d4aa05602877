/** What an audit says of characters that have little to examine, and of names, units and limits, is so. */
import fc from 'fast-check';
import { BRIEFS, briefById } from '@/core/house/briefs';
import { audit } from '@/core/house/audit';
import { remedyById } from '@/core/house/registry';
import { weightOfNodes } from '@/core/character/hierarchy';
import { type Character, node } from '@/core/character/model';
import { readCharacter } from '@/core/formats';
import { influencesFrom } from '@/core/geometry/influences';
import { reportHtml } from '@/core/rooms/docket/report';
import { segmentsOf } from '@/core/rooms/placement/survey';
import { meshFrom, tube } from './support/build';
import { castCharacter } from './support/cast';

const handset = briefById('handset')!;
const idsOf = (character: Character, brief = handset) =>
  audit(character, brief).map((finding) => finding.check);
const bare = (nodes: Character['nodes']): Character => ({
  ...tube(),
  nodes,
  meshes: [],
  skins: [],
  clips: [],
});
const unbound = (): Character => {
  const character = tube();
  return { ...character, nodes: character.nodes.map((node) => ({ ...node, skin: -1 })), skins: [] };
};

describe('what has nothing to examine is not called clean', () => {
  it.each<[string, Character, readonly string[]]>([
    ['an empty scene', bare([node({ name: 'scene' })]), ['nothing-there', 'no-skeleton', 'no-mesh']],
    ['nothing at all', bare([]), ['nothing-there', 'no-skeleton', 'no-mesh']],
    ['bones alone', bare([node({ name: 'root', kind: 'bone' })]), ['no-mesh']],
    [
      'a mesh alone',
      { ...unbound(), nodes: [node({ name: 'crate', kind: 'mesh', mesh: 0 })] },
      ['no-skeleton'],
    ],
    ['a mesh beside bones', unbound(), ['not-bound']],
    ['a bound mesh', tube(), []],
  ])('%s', (_, character, wanted) => {
    const checks = ['nothing-there', 'no-skeleton', 'no-mesh', 'not-bound'];
    for (const brief of BRIEFS) {
      const found = audit(character, brief).filter((finding) => checks.includes(finding.check));
      expect(found.map((finding) => finding.check)).toEqual(wanted);
      for (const finding of found) expect(finding.message).toMatch(/^[A-Z]/);
    }
  });
  it('a rigid mesh that hangs on a bone is carried', () => {
    const character = unbound();
    const hung = {
      ...character,
      nodes: character.nodes.map((node) => (node.mesh >= 0 ? { ...node, parent: 0 } : node)),
    };
    expect(idsOf(hung)).not.toContain('not-bound');
  });
});

describe('names', () => {
  const named = (...names: string[]) =>
    bare(names.map((name, i) => node({ name, kind: 'bone', parent: i - 1 })));
  const said = (character: Character, mark: string) =>
    audit(character, handset).find(
      (finding) => finding.key.startsWith('bone-names') && finding.key.endsWith(mark),
    );
  it('a side is written as the brief says it is', () => {
    for (const name of ['upperarm_l', 'l_upperarm', 'left_hand', 'hand_left', 'hand_r'])
      expect(said(named('root', name), 'convention')?.message).toContain(`“${name}”`);
    expect(said(named('root', 'hand_lt', 'hand_rt', 'spine_01', 'ball_joint'), 'convention')).toBe(undefined);
  });
  it('numbers are leftovers of copying, but not where all bones are numbered', () => {
    expect(said(named('root', 'spine', 'chest', 'chest_001', 'head'), 'leftover')?.message).toContain(
      'chest_001',
    );
    const numbered = Array.from({ length: 20 }, (_, i) => `joint_${String(i).padStart(3, '0')}`);
    expect(said(named(...numbered), 'leftover')).toBe(undefined);
    expect(said(named(...numbered, 'arm_copy'), 'leftover')?.message).toContain('arm_copy');
  });
  it('nodes without one are called by their place, each otherwise, and it is told', () => {
    const json = { asset: { version: '2.0' }, nodes: [{ name: 'node 1' }, {}, { name: ' ' }, {}] };
    const character = readCharacter([
      { name: 'x.gltf', bytes: new TextEncoder().encode(JSON.stringify(json)) },
    ]);
    expect(character.nodes.map((node) => node.name)).toEqual(['node 1', "node 1'", 'node 2', 'node 3']);
    expect(character.notes.join()).toMatch(/3 nodes have no name/);
  });
});

describe('a unit that nobody stated', () => {
  const tall = (metres: number, unit: boolean): Character => {
    const character = castCharacter('deckhand-clean.glb');
    const k = metres / 1.781;
    const nodes = character.nodes.map((node) =>
      node.parent < 0
        ? {
            ...node,
            scale: node.scale.map((s) => s * k),
            translation: node.translation.map((x) => x * k),
          }
        : node,
    );
    return {
      ...character,
      nodes,
      source: { ...character.source, stated: { unit, upAxis: true } },
    } as Character;
  };
  const unitsOf = (character: Character) =>
    audit(character, handset).find((finding) => finding.check === 'units');
  it('stops hand-off where the height is far from the brief’s', () => {
    for (const height of [25, 0.2, 7]) expect(unitsOf(tall(height, false))?.gravity).toBe('stops');
    expect(unitsOf(tall(1.76, false))?.gravity).toBe('note');
    expect(unitsOf(tall(1.76, true))).toBe(undefined);
  });
});

describe('giving weight to the parent', () => {
  const limb = (...names: string[]): Character => {
    const character = tube();
    const bones = names.map((name, i) => node({ name, kind: 'bone', parent: i - 1 }));
    const last = names.length - 1;
    const rows = Array.from({ length: character.meshes[0].vertexCount }, (_, value): [number, number][] => [
      [last, value % 2 === 0 ? 1 : 0.5],
      [0, value % 2 === 0 ? 0 : 0.5],
    ]);
    return {
      ...character,
      nodes: [...bones, node({ name: 'body', kind: 'mesh', mesh: 0, skin: 0 })],
      meshes: [{ ...character.meshes[0], influences: influencesFrom(rows) }],
      skins: [{ name: 's', joints: names.map((_, i) => i), inverseBinds: identities(names.length) }],
    };
  };
  const identities = (n: number) =>
    Float32Array.from({ length: n * 16 }, (_, i) => ((i % 16) % 5 === 0 ? 1 : 0));
  const give = (character: Character, bone: number) => {
    const remedy = remedyById('give-to-parent')!;
    return remedy.apply(character, remedy.params.cast({ bone }) as never, handset);
  };
  it('passes over ends and controls', () => {
    const character = limb('root', 'arm', 'arm_ctrl', 'hand_ik', 'hand_end');
    const weight = weightOfNodes(give(character, 4));
    expect([...weight].map((weight) => weight > 0)).toEqual([true, true, false, false, false, false]);
    expect(weight.reduce((a, b) => a + b, 0)).toBeCloseTo(
      weightOfNodes(character).reduce((a, b) => a + b, 0),
      4,
    );
  });
  it('is refused where nothing above may carry any', () => {
    expect(() => give(limb('root_ctrl', 'hand_end'), 1)).toThrow(/No bone above it can take its weight/);
  });
});

describe('filling parts that have no weight anywhere', () => {
  /** Two clouds of triangles, of which only the first is weighted; triangle t of it hangs on bone t. */
  const clouds = (places: readonly (readonly number[])[], weighted: number): Character => {
    const corners = places.flatMap(([x, y, z]) => [
      [x, y, z],
      [x + 1e-3, y, z],
      [x, y + 1e-3, z],
    ]);
    const rows = places.flatMap((_, index) => {
      const row: [number, number][] = index < weighted ? [[index, 1]] : [];
      return [row, row, row];
    });
    const bones = Array.from({ length: weighted }, (_, i) => node({ name: `b${i}`, kind: 'bone' }));
    const mesh = meshFrom(
      corners,
      places.map((_, index) => [index * 3, index * 3 + 1, index * 3 + 2]),
      influencesFrom(rows),
    );
    return {
      ...tube(),
      nodes: [...bones, node({ name: 'm', kind: 'mesh', mesh: 0, skin: 0 })],
      meshes: [mesh],
      skins: [{ name: 's', joints: bones.map((_, i) => i), inverseBinds: new Float32Array(weighted * 16) }],
    };
  };
  const fill = (character: Character) =>
    remedyById('fill-weights')!.apply(character, { limit: 4 } as never, handset);
  const jointOf = (character: Character, triangle: number) => {
    const influences = character.meshes[0].influences!;
    return influences.joint[influences.offsets[triangle * 3]];
  };
  it('takes the weights of the nearest weighted point (against trying all of them)', () => {
    const place = fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -50, max: 50 })));
    fc.assert(
      fc.property(fc.uniqueArray(place, { minLength: 4, maxLength: 30, selector: String }), (places) => {
        const weighted = Math.ceil(places.length / 2);
        const character = fill(clouds(places, weighted));
        for (let place = weighted; place < places.length; place++) {
          const away = (k: number) => Math.hypot(...places[k].map((x, index) => x - places[place][index]));
          const least = Math.min(...Array.from({ length: weighted }, (_, k) => away(k)));
          // Corners of the triangles lie a millimetre apart: what is as near to that is as good.
          expect(away(jointOf(character, place))).toBeLessThanOrEqual(least + 3e-3);
        }
      }),
      { numRuns: 40 },
    );
  });
  it('of two hundred thousand points comes to an end', () => {
    const side = 258;
    const places = Array.from({ length: side * side }, (_, i) => [
      i % side,
      Math.floor(i / side),
      i < 40 ? 0 : 1,
    ]);
    const character = fill(clouds(places, 40));
    expect(character.meshes[0].influences!.offsets.at(-1)).toBe(places.length * 3);
  });
});

it('limits are marked in the report where they are exceeded', () => {
  const report = (limits: { influences: number; bones: number }) =>
    reportHtml({
      character: castCharacter('deckhand-clean.glb'),
      brief: { ...handset, limits },
      measures: [],
      findings: [],
      facts: { title: 'x', revision: 1, date: '2026-01-01', steps: [], pins: [] },
      picture: null,
    });
  const cellOf = (html: string, label: string) =>
    new RegExp(`<td>${label}</td><td class="n">([^<]*)<`).exec(html)?.[1];
  expect(cellOf(report({ influences: 4, bones: 20 }), 'Bones in the largest skin')).toMatch(/ ✗$/);
  expect(cellOf(report({ influences: 1, bones: 200 }), 'Influences a point, most')).toMatch(/ ✗$/);
  expect(cellOf(report({ influences: 8, bones: 200 }), 'Bones in the largest skin')).toMatch(/ ✓$/);
});

describe('what lies exactly together', () => {
  const file = (name: string, text: string) => [{ name, bytes: new TextEncoder().encode(text) }];
  const square = (corners: string) =>
    `v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 1 0 0\nv 2 0 0\nv 2 1 0\nv 1 1 0\n${corners}`;
  it('points of an OBJ at one place are one point, and a note counts them', () => {
    const { notes } = readCharacter(file('two.obj', square('f 1 2 3 4\nf 5 6 7 8\n')));
    expect(notes.join('\n')).toMatch(/^2 points of “two” lie exactly on another of the same mesh/m);
  });
  it('a seam is none of that: one point with two texture places', () => {
    const { notes } = readCharacter(
      file('one.obj', square('vt 0 0\nvt 1 0\nf 1/1 2/1 3/1 4/1\nf 2/2 6/2 7/2 3/2\n')),
    );
    expect(notes.join('\n')).not.toMatch(/exactly on another/);
  });
});

it('a capture that hangs below its root stands on its own lowest point', () => {
  const character = bare([
    node({ name: 'Hips', kind: 'bone' }),
    node({ name: 'LeftUpLeg', kind: 'bone', parent: 0, translation: [0.1, -0.05, 0] }),
    node({ name: 'LeftLeg', kind: 'bone', parent: 1, translation: [0, -0.45, 0] }),
    node({ name: 'LeftFoot', kind: 'bone', parent: 2, translation: [0, -0.45, 0] }),
    node({ name: 'Head', kind: 'bone', parent: 0, translation: [0, 0.8, 0] }),
  ]);
  const levels = Object.fromEntries(segmentsOf(character).map((segment) => [segment.label, segment.share]));
  expect(levels['Ankle above the ground']).toBeCloseTo(0, 9);
  expect(levels['Hip above the ground']).toBeCloseTo(0.9 / 1.75, 9);
});
