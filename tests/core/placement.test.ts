import { object } from 'yup';
import { lengthOf, refOrNone, refTo, refsTo } from '@/core/contracts/params';
import { previewRemedy } from '@/core/house/preview';
import { anything } from './support/promises';
import { briefById } from '@/core/house/briefs';
import { effectsOf } from '@/core/house/effects';
import { nameParams, refitParams } from '@/core/house/rerun';
import { endOf, endText, pinLength, placeOfEnd } from '@/core/character/pin';
import { effectsText } from '@/core/contracts/effects-words';
import { remedyById } from '@/core/house/registry';
import { restPlace } from '@/core/character/hierarchy';
import { audit } from '@/core/house/audit';
import { checks } from '@/core/rooms/placement';
import { brokenInvariants } from '@/core/character/invariants';
import { bodyBox, characterHeight } from '@/core/character/measure';
import { type Character, node, replaceAt } from '@/core/character/model';
import { STILL, underSimilarity } from '@/core/character/similarity';
import { composeMatrix, quatAbout, quatMultiply } from '@/core/geometry/matrix';
import { measuresOf } from '@/core/rooms/placement/measures';
import { lieInside } from '@/core/rooms/placement/inside';
import { symmetryOf } from '@/core/geometry/symmetry';
import { heightIn, likelierUnit, UNITS } from '@/core/contracts/units';
import { drivenTwice } from '@/core/rooms/placement/drivers';
import { limbStances, segmentsOf } from '@/core/rooms/placement/survey';
import { clipWorld } from '@/core/motion/pose';
import { placedPoints } from '@/core/character/deform';
import { CAPSTAN_FAULTS, STOKER_FAULTS } from '@/demo/faults';
import { castCharacter } from './support/cast';
import { meshFrom, tube } from './support/build';

const handset = briefById('handset')!;
const gear = briefById('deck-gear')!;
const placement = (character: Character, brief = handset) => audit(character, brief, { checks });
const of = (character: Character, check: string, brief = handset) =>
  placement(character, brief).filter((finding) => finding.check === check);
const apply = (character: Character, id: string, params: Record<string, unknown> = {}, brief = handset) => {
  const remedy = remedyById(id)!;
  return remedy.apply(character, remedy.params.validateSync(params) as Record<string, unknown>, brief);
};
const clean = () => castCharacter('deckhand-clean.glb');

/** Applies what the first finding offers first, until placement is quiet; the ids in order. */
function mended(start: Character, brief = handset): { character: Character; steps: string[] } {
  let character = start;
  const steps: string[] = [];
  for (let i = 0; i < 15; i++) {
    const next = placement(character, brief).find((finding) => finding.remedies.length > 0);
    if (!next) break;
    const { id, params } = next.remedies[0];
    const pledge = remedyById(id)!.promises!(
      character,
      remedyById(id)!.params.validateSync(params) as Record<string, unknown>,
      brief,
    );
    const after = apply(character, id, params, brief);
    const { others } = effectsOf(character, after, pledge);
    expect({ id, largest: others.largest / characterHeight(after) < 1e-5 }).toEqual({ id, largest: true });
    expect(brokenInvariants(after)).toEqual([]);
    character = after;
    steps.push(id);
  }
  return { character, steps };
}

describe('the Stoker', () => {
  it('has the planted faults, and nothing else stops hand-off', () => {
    const found = (gravity: string) =>
      [
        ...new Set(
          audit(castCharacter('stoker.dae'), handset)
            .filter((finding) => finding.gravity === gravity)
            .map((finding) => finding.check),
        ),
      ].sort();
    const planted = (gravity: string) =>
      STOKER_FAULTS.filter((fault) => fault.gravity === gravity)
        .map((fault) => fault.check)
        .sort();
    expect(found('stops')).toEqual(planted('stops'));
    expect(found('worth')).toEqual(planted('worth'));
  });
  it('is set right by what the findings offer, in five steps, and then measures 1.76 m in a T-pose with a lamp of 32 cm', () => {
    const { character, steps } = mended(castCharacter('stoker.dae'));
    expect(steps).toEqual(['change-unit', 'bake-scale', 'rescale', 'rescale-prop', 'set-stance']);
    expect(placement(character)).toEqual([]);
    const by = new Map(measuresOf(character, handset).map((measure) => [measure.label, measure.value]));
    expect(by.get('Height of the body')).toBeCloseTo(1.76, 3);
    expect(by.get('hand lamp')).toBeCloseTo(0.32, 3);
    expect(Math.abs(by.get('Arm below the horizontal, left') as number)).toBeLessThan(0.01);
    expect(character.nodes.every((node) => node.scale.every((s) => s === 1))).toBe(true);
    expect(character.source.unitMetres).toBe(0.01);
  });
  it('names the ancestor whose scale is inherited, with both scales side by side', () => {
    const [finding] = of(castCharacter('stoker.dae'), 'inherited-scale');
    expect(finding.message).toContain('“export_group”');
    expect(finding.evidence.map((evidence) => [evidence.label, evidence.now])).toEqual(
      expect.arrayContaining([
        ['Root, of its own', '1 × 1 × 1'],
        ['Root, in the world', '1.25 × 1.25 × 1.25'],
      ]),
    );
  });
});

describe('the Capstan', () => {
  it('has the planted faults: one driver too many in all three ways, a mirror, strays', () => {
    const character = castCharacter('capstan.glb');
    const found = (gravity: string) =>
      [
        ...new Set(
          audit(character, gear)
            .filter((finding) => finding.gravity === gravity)
            .map((finding) => finding.check),
        ),
      ].sort();
    for (const gravity of ['stops', 'worth'])
      expect(found(gravity)).toEqual(
        CAPSTAN_FAULTS.filter((fault) => fault.gravity === gravity)
          .map((fault) => fault.check)
          .sort(),
      );
    expect(
      drivenTwice(character)
        .map((twice) => twice.kind)
        .sort(),
    ).toEqual(['bound and carried', 'bound twice', 'rigid, hung and bound']);
  });
  it('is set right, and every part stays where it was in every pose', () => {
    const before = castCharacter('capstan.glb');
    const { character, steps } = mended(before, gear);
    expect(placement(character, gear)).toEqual([]);
    expect(steps.sort()).toEqual([
      'bake-scale',
      'choose-driver',
      'choose-driver',
      'choose-driver',
      'remove-strays',
    ]);
    // The pawl now follows its bone alone, and stands where the bind had put it.
    const pawl = character.nodes.find((node) => node.name === 'pawl iron a')!;
    expect(pawl.skin).toBe(-1);
    expect(bodyBox(character)!.max[1]).toBeCloseTo(bodyBox(before)!.max[1], 6);
    expect(character.nodes.filter((node) => node.name.startsWith('rope')).map((node) => node.name)).toEqual([
      'rope',
    ]);
  });
});

describe('what is found of a good figure that was spoilt in one way', () => {
  it('nothing where nothing is spoilt', () => expect(placement(clean())).toEqual([]));
  it.each([
    ['turned to the side', quatAbout([0, 1, 0], Math.PI / 2), 'looks along x'],
    ['lying on its back', quatAbout([1, 0, 0], -Math.PI / 2), 'stands along -z'],
    ['upside down', quatAbout([0, 0, 1], Math.PI), 'stands along -y'],
  ] as const)('%s: facing, and the remedy brings it back exactly', (_name, rotation, says) => {
    const turned = underSimilarity(clean(), { ...STILL, rotation });
    const [finding] = of(turned, 'facing');
    expect(finding.message).toContain(says);
    const back = apply(turned, 'turn-to-axes');
    expect(of(back, 'facing')).toEqual([]);
    expect(effectsOf(clean(), back, anything(clean())).largestMove).toBeLessThan(1e-5);
    // In every pose, up to the turn that it announces.
    const { others } = effectsOf(turned, back, remedyById('turn-to-axes')!.promises!(turned, {}, handset));
    expect(others.meshes).toBe(5);
    expect(others.largest).toBeLessThan(1e-5);
  });
  it('beside the middle: both by its plane of symmetry', () => {
    const aside = underSimilarity(clean(), { ...STILL, translation: [0.3, 0, 0] });
    const [finding] = of(aside, 'middle');
    expect(finding.measured).toBeCloseTo(0.3, 4);
    const back = apply(aside, 'centre');
    expect(placement(back)).toEqual([]);
    expect(effectsOf(clean(), back, anything(clean())).largestMove).toBeLessThan(1e-4);
  });
  it('in front of the origin: the pivot', () => {
    const ahead = underSimilarity(clean(), { ...STILL, translation: [0, 0, 0.6] });
    expect(of(ahead, 'pivot').length).toBe(1);
    expect(placement(apply(ahead, 'centre'))).toEqual([]);
  });
  it('sunk into the ground', () => {
    const sunk = underSimilarity(clean(), { ...STILL, translation: [0, -0.2, 0] });
    expect(of(sunk, 'ground')[0].measured).toBeCloseTo(-0.2, 3);
    const back = apply(sunk, 'set-on-ground');
    expect(of(back, 'ground')).toEqual([]);
    // The root stays the origin of the game.
    expect(back.nodes.find((node) => node.name === 'root')!.translation).toEqual([0, 0, 0]);
  });
  it('a posed skeleton: not at rest, and back at rest', () => {
    const character = clean();
    const elbow = character.nodes.findIndex((node) => node.name === 'arm_lower_lt');
    const posed = {
      ...character,
      nodes: replaceAt(
        character.nodes,
        new Map([
          [
            elbow,
            {
              ...character.nodes[elbow],
              rotation: quatMultiply(character.nodes[elbow].rotation, quatAbout([0, 0, 1], 0.5)),
            },
          ],
        ]),
      ),
    };
    const found = of(posed, 'not-at-rest');
    expect(found.length).toBeGreaterThan(0);
    expect(found[0].elements[0].ids.length).toBeGreaterThan(10); // the elbow with all that hangs below
    expect(
      effectsOf(character, apply(posed, 'return-to-rest'), anything(character)).largestMove,
    ).toBeLessThan(1e-6);
    // Keeping the shape instead: what is seen stays, and rest and bind agree.
    const kept = apply(posed, 'recompute-binds', found[0].remedies[1].params);
    expect(effectsOf(posed, kept, anything(posed)).largestMove).toBeLessThan(1e-6);
    expect(of(kept, 'not-at-rest').length).toBe(found.length - 1);
  });
  it('a joint that was moved after the bind: inverse binds, by how much, on which joints; each way of keeping does what it says', () => {
    const character = clean();
    const knee = character.nodes.findIndex((node) => node.name === 'leg_lower_rt');
    const otherNode = character.nodes[knee];
    const moved = {
      ...character,
      nodes: replaceAt(
        character.nodes,
        new Map([
          [
            knee,
            {
              ...otherNode,
              translation: [
                otherNode.translation[0] + 0.05,
                otherNode.translation[1],
                otherNode.translation[2],
              ],
            },
          ],
        ]),
      ),
    };
    const [finding] = of(moved, 'inverse-binds');
    expect(finding.measured).toBeCloseTo(0.05, 3);
    expect(finding.message).toMatch(/disagree with the rest pose, up to 0\.050 m/);
    const skin = finding.remedies[0].params.skin as number;
    const bind = apply(moved, 'recompute-binds', { skin, keep: 'bind' });
    const shape = apply(moved, 'recompute-binds', { skin, keep: 'shape' });
    expect(effectsOf(moved, shape, anything(moved)).largestMove).toBeLessThan(1e-6);
    const mesh = character.nodes.findIndex((node) => node.skin === skin && node.mesh >= 0);
    // Keeping the bind, the mesh has its old shape again.
    const at = (otherCharacter: Character) =>
      placedPoints(
        otherCharacter.meshes[otherCharacter.nodes[mesh].mesh],
        otherCharacter.skins[otherCharacter.nodes[mesh].skin],
        mesh,
        clipWorld(otherCharacter, { name: '', channels: [] }, 0),
      );
    const [a, b] = [at(character), at(bind)];
    expect(Math.max(...a.map((x, i) => Math.abs(x - b[i])))).toBeLessThan(1e-6);
    for (const otherCharacter of [bind, shape])
      expect(
        of(otherCharacter, 'inverse-binds').filter(
          (otherFinding) => otherFinding.subject.name === finding.subject.name,
        ),
      ).toEqual([]);
  });
  it('a skeleton of another size than its body, brought to it with the skin staying put', () => {
    const character = clean();
    const small = apply(character, 'fit-skeleton', { height: 1.0 });
    expect(of(small, 'skeleton-height').length).toBe(1);
    expect(of(small, 'apart').length).toBe(1);
    const back = apply(small, 'fit-skeleton', of(small, 'skeleton-height')[0].remedies[0].params);
    expect(of(back, 'skeleton-height')).toEqual([]);
    expect(effectsOf(character, small, anything(character)).others.largest).toBeLessThan(1e-5);
  });
  it('a rotation left on a mesh node, and a morph target left on', () => {
    const character = clean();
    const coat = character.nodes.findIndex((node) => node.name === 'oilskin coat');
    const turned = {
      ...character,
      nodes: replaceAt(
        character.nodes,
        new Map([[coat, { ...character.nodes[coat], rotation: quatAbout([0, 1, 0], 1) }]]),
      ),
    };
    expect(of(turned, 'mesh-rotation').map((finding) => Math.round(finding.measured as number))).toEqual([
      57,
    ]);
    expect(placement(apply(turned, 'bake-transform', { node: coat }))).toEqual([]);
    const mesh = character.meshes[character.nodes[coat].mesh];
    const morph = {
      ...character,
      meshes: character.meshes.map((otherMesh) =>
        otherMesh === mesh
          ? {
              ...otherMesh,
              morphs: [
                {
                  attributes: {
                    POSITION: {
                      ...otherMesh.attributes.POSITION,
                      data: new Float32Array(otherMesh.vertexCount * 3),
                    },
                  },
                },
              ],
              morphWeights: [0.4],
            }
          : otherMesh,
      ),
    };
    expect(of(morph, 'morphs-on')[0].message).toContain('1 morph target on at rest, up to 0.40');
    expect(of(apply(morph, 'morphs-off', { node: coat }), 'morphs-on')).toEqual([]);
  });
  it('a sheared node is told from a scaled one', () => {
    const target = tube();
    const shear = Array.from(composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1, 1]));
    shear[4] = 0.5;
    const character: Character = {
      ...target,
      nodes: [...target.nodes, node({ name: 'crate', kind: 'mesh', mesh: 1, matrix: shear })],
      meshes: [
        ...target.meshes,
        meshFrom(
          [
            [0, 0, 0],
            [1, 0, 0],
            [0, 1, 0],
          ],
          [[0, 1, 2]],
        ),
      ],
    };
    expect(of(character, 'node-scale')[0].message).toBe('“crate” is sheared');
  });
  it('detaching a lantern from its scaled hook keeps the size it has, or the size it says', () => {
    const character = castCharacter('deckhand.glb');
    const lantern = character.nodes.findIndex((node) => node.name === 'storm lantern');
    const size = (otherCharacter: Character) =>
      measuresOf(otherCharacter, handset).find((measure) => measure.label === 'storm lantern')!
        .value as number;
    const keep = apply(character, 'detach-keep-size', { node: lantern });
    const drop = apply(character, 'detach-own-size', { node: lantern });
    expect(size(keep)).toBeCloseTo(size(character), 6);
    expect(size(drop)).toBeCloseTo(size(character) / 0.8, 6);
    for (const otherCharacter of [keep, drop])
      expect(otherCharacter.nodes[otherCharacter.nodes[lantern].parent].name).toBe('lantern_ring');
  });
  it('the stance: arms hanging, brought up by their own weights; in the clip every bone goes where it went', () => {
    const character = clean();
    const down = apply(character, 'set-stance', { arms: 60, bend: 20, legs: 15 });
    expect(
      limbStances(down)
        .filter((limb) => limb.limb === 'arm')
        .map((limb) => Math.round(limb.angle)),
    ).toEqual([60, 60]);
    expect(of(down, 'stance')[0].message).toContain('60° below the horizontal');
    const up = apply(down, 'set-stance', of(down, 'stance')[0].remedies[0].params);
    expect(placement(up)).toEqual([]);
    const [a, b] = [character, up].map((otherCharacter) =>
      clipWorld(otherCharacter, otherCharacter.clips[0], 0.7),
    );
    for (let i = 0; i < character.nodes.length * 16; i++) expect(Math.abs(a[i] - b[i])).toBeLessThan(1e-5);
    // Points on one bone alone come back exactly; at the joints the blend has its say.
    expect(effectsOf(character, up, anything(character)).largestMove).toBeLessThan(0.03);
  });
});

it('elbows and knees that are dead straight are bent as much as the brief asks, the way of their kind', () => {
  const straight = apply(clean(), 'set-stance', { arms: 0, bend: 0, legs: 15 });
  expect(limbStances(straight).every((limb) => limb.bend < 0.01)).toBe(true);
  const [found] = of(straight, 'stance');
  expect(found.message).toMatch(/4 of its elbows and knees are straight, down to 0\.0° \(2° at least\)/);
  const bent = apply(straight, 'set-stance', found.remedies[0].params);
  expect(of(bent, 'stance')).toEqual([]);
  for (const { limb, bend, nodes } of limbStances(bent)) {
    expect(bend).toBeCloseTo(2, 1);
    const [a, b, centre] = nodes.map((node) => restPlace(bent.nodes, node));
    // How far the joint stands before the line between its neighbours; the figure looks along +Z.
    const share = (b[1] - a[1]) ** 2 + (b[0] - a[0]) ** 2;
    const before =
      b[2] -
      (a[2] + (centre[2] - a[2]) * Math.sqrt(share / ((centre[1] - a[1]) ** 2 + (centre[0] - a[0]) ** 2)));
    expect([limb, Math.sign(before)]).toEqual([limb, limb === 'leg' ? 1 : -1]);
  }
  // Nothing is asked of the least bend where a brief says nothing of it.
  const plain = { ...handset, stance: { ...handset.stance!, leastBend: 0 } };
  expect(audit(straight, plain).filter((finding) => finding.check === 'stance')).toEqual([]);
});

describe('units', () => {
  it('a figure of 70 inches read as centimetres is found, whatever it was read in', () => {
    for (const made of UNITS) {
      for (const read of UNITS) {
        const measured = (1.76 / made.metres) * read.metres;
        const found = likelierUnit(measured, read.metres, 1.76);
        const apartBy = Math.max(made.metres / read.metres, read.metres / made.metres);
        expect(found?.word ?? null).toBe(apartBy > 1.5 ? made.word : null);
        expect(heightIn(measured, read.metres, made)).toBeCloseTo(1.76, 9);
      }
    }
  });
  it('a merely small figure is not a wrong unit', () => expect(likelierUnit(1.3, 1, 1.76)).toBeNull());
});

describe('measuring', () => {
  it('the plane of symmetry of mirrored points, wherever it lies', () => {
    for (const c of [0, 0.4, -1.3]) {
      const half = Array.from({ length: 400 }, (_, i) => [
        0.1 + (i % 20) * 0.02,
        Math.floor(i / 20) * 0.05,
        Math.sin(i) * 0.1,
      ]);
      const points = Float32Array.from(half.flatMap(([x, y, z]) => [c + x, y, z, c - x, y, z]));
      const found = symmetryOf([points], 0.002)!;
      expect(found.offset).toBeCloseTo(c, 5);
      expect(found.share).toBe(1);
    }
  });
  it('a lopsided cloud has no plane', () => {
    const points = Float32Array.from(
      Array.from({ length: 900 }, (_, i) => Math.abs(Math.sin(i * 12.9898) * 43758.5453) % 1),
    );
    expect(symmetryOf([points], 0.0005)!.share).toBeLessThan(0.5);
  });
  it('inside and outside of a sphere, by the distance from its middle', () => {
    const rings = 24;
    const around = 32;
    const points: number[][] = [[0, -1, 0]];
    const polygons: number[][] = [];
    for (let row = 1; row < rings; row++)
      for (let k = 0; k < around; k++) {
        const t = (row / rings) * Math.PI - Math.PI / 2;
        const a = (k / around) * 2 * Math.PI;
        points.push([Math.cos(t) * Math.sin(a), Math.sin(t), Math.cos(t) * Math.cos(a)]);
      }
    points.push([0, 1, 0]);
    const at = (r: number, k: number) => {
      if (r === 0) return 0;
      if (r === rings) return points.length - 1;
      return 1 + (r - 1) * around + (k % around);
    };
    for (let row = 0; row < rings; row++)
      for (let k = 0; k < around; k++)
        polygons.push([...new Set([at(row, k), at(row, k + 1), at(row + 1, k + 1), at(row + 1, k)])]);
    const mesh = meshFrom(points, polygons);
    const placed = [{ node: 0, mesh, skin: null, points: mesh.attributes.POSITION.data as Float32Array }];
    let asked = 0;
    for (let i = 0; i < 300; i++) {
      const places = [0, 1, 2].map((k) => ((Math.sin(i * 3 + k * 71.3) * 43758.5) % 1) * 1.4);
      const length = Math.hypot(...places);
      if (Math.abs(length - 1) < 0.03) continue;
      asked++;
      const [lie] = lieInside(places, placed);
      expect(lie.inside).toBe(length < 1);
      if (!lie.inside) expect(lie.outside).toBeGreaterThan(length - 1.001);
    }
    expect(asked).toBeGreaterThan(200);
  });
  it('segments stand beside the table of Drillis & Contini (from memory)', () => {
    const by = new Map(segmentsOf(clean()).map((segment) => [segment.label, segment]));
    expect([...by.values()].map((segment) => segment.table)).toEqual([
      0.186, 0.146, 0.245, 0.246, 0.129, 0.818, 0.53, 0.285, 0.039,
    ]);
    for (const segment of by.values()) expect(Math.abs(segment.share - segment.table)).toBeLessThan(0.03);
  });
  it('common practice: 60 inches at 120 % are 72 inches', () => {
    const params = { by: 'points', measured: 60, wanted: 72 };
    const { rows } = previewRemedy(remedyById('rescale')!, tube(), params, handset);
    const tall = rows.find((row) => row.label === 'Height of the body')!;
    // Points are stored in single precision.
    expect((100 * (tall.after as number)) / (tall.before as number)).toBeCloseTo(120, 4);
  });
});

describe('steps that can be done again', () => {
  it('find their nodes and skins by name on another delivery, where they count otherwise', () => {
    const character = castCharacter('deckhand.glb');
    const params = {
      node: character.nodes.findIndex((node) => node.name === 'lantern hook'),
      nodes: [3, 5],
      skin: 0,
      parent: -1,
      height: 1.76,
    };
    const remedy = {
      params: object({
        node: refTo('node', ''),
        parent: refOrNone('node', ''),
        nodes: refsTo('node', ''),
        skin: refTo('skin', ''),
        height: lengthOf(''),
      }),
    };
    const names = nameParams(character, remedy, params);
    expect(names).toMatchObject({
      node: { name: 'lantern hook', nth: 0 },
      parent: null,
      skin: { name: 'rig' },
    });
    const shuffled = {
      ...character,
      nodes: [
        node({ name: 'new' }),
        ...character.nodes.map((node) => ({ ...node, parent: node.parent + 1 })),
      ],
    };
    expect(refitParams(shuffled, remedy, params, names)).toEqual({
      params: { ...params, node: params.node + 1, nodes: [4, 6] },
      misfits: [],
    });
    const renamed = {
      ...character,
      nodes: character.nodes.map((node, i) => (i === params.node ? { ...node, name: 'rope' } : node)),
    };
    expect(refitParams(renamed, remedy, params, names)).toEqual({
      missing: 'there is no node “lantern hook” in the new delivery',
    });
  });
  const oneNode = { params: object({ node: refTo('node', '') }) };
  it('tell the second of two nodes of one name from the first', () => {
    const target = tube();
    const character: Character = {
      ...target,
      nodes: [...target.nodes, node({ name: 'crate' }), node({ name: 'crate' })],
    };
    const names = nameParams(character, oneNode, { node: 4 });
    expect(names).toEqual({ node: { name: 'crate', nth: 1 } });
    expect(refitParams(character, oneNode, { node: 0 }, names)).toEqual({
      params: { node: 4 },
      misfits: [],
    });
    expect(
      refitParams({ ...character, nodes: character.nodes.slice(0, 4) }, oneNode, { node: 4 }, names),
    ).toMatchObject({
      missing: expect.stringContaining('“crate” number 2'),
    });
  });
});

describe('a pinned measure', () => {
  it('is found again by name, grows with a rescale, and says where an end is gone', () => {
    const character = castCharacter('deckhand-clean.glb');
    const pin = {
      from: { kind: 'joint' as const, node: 'root' },
      to: { kind: 'joint' as const, node: 'head' },
    };
    const length = pinLength(character, pin)!;
    expect(length).toBeCloseTo(Math.hypot(1.565, 0.004), 4);
    expect(
      pinLength(apply(character, 'rescale', { by: 'points', measured: length, wanted: 2 }), pin),
    ).toBeCloseTo(2, 6);
    expect(
      pinLength(character, { ...pin, to: { kind: 'vertex', node: 'body', vertex: 10_000_000 } }),
    ).toBeNull();
    expect(placeOfEnd(character, { kind: 'joint', node: 'nobody' })).toBeNull();
  });
  it('keeps to its own of several nodes of one name, or of none', () => {
    const target = tube();
    const at = (name: string, x: number) => node({ name, kind: 'mesh', mesh: 0, translation: [x, 0, 0] });
    const character = {
      ...target,
      nodes: [...target.nodes, at('', 3), at('crate', 5), at('', 7), at('crate', 9)],
    };
    for (const i of [3, 4, 5, 6]) {
      expect(placeOfEnd(character, endOf(character, i, -1))![0]).toBe(character.nodes[i].translation[0]);
      expect(placeOfEnd(character, endOf(character, i, 0))![0]).toBeCloseTo(
        character.nodes[i].translation[0],
        6,
      );
    }
    expect([endOf(character, 5, -1), endOf(character, 6, 4)].map(endText)).toEqual([
      'a node without a name, number 2',
      'crate, number 2, vertex 4',
    ]);
    expect(placeOfEnd(target, endOf(character, 6, -1))).toBeNull();
  });
});

describe('what is said of a step', () => {
  it('names what it touched, and how far the rest moved where it did', () => {
    const character = castCharacter('deckhand.glb');
    const hook = character.nodes.findIndex((node) => node.name === 'lantern hook');
    const effects = effectsOf(
      character,
      apply(character, 'bake-scale', { node: hook }),
      remedyById('bake-scale')!.promises!(character, { node: hook }, handset),
    );
    expect(effects.nodes).toEqual(
      ['lantern hook', 'storm lantern'].filter((name) => effects.nodes.includes(name)),
    );
    expect(effects.meshes).toEqual(['lantern']);
    expect(effects.others).toMatchObject({ meshes: 5, holds: 'in every pose' });
    expect(effectsText(effects, 'm')).toMatch(
      /^Touched \d nodes? \(lantern hook[^)]*\), 1 mesh \(lantern\)\. Nothing else changed: 0 mm over \d+ trial poses\.$/,
    );
    // The same step told as one that moved something: the sentence says how far and where.
    expect(
      effectsText({ ...effects, others: { ...effects.others, largest: 0.0123, where: 'boots, rest' } }, 'm'),
    ).toContain('The rest moved up to 12.3 mm over');
  });
});
