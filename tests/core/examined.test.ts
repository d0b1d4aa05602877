/**
 * “Ready” is only said of what was examined, and nothing stops that is right: loose meshes, bodies that are wound
 * inside out, tips that bend, triangles that came from quads. Box: textbook volume and Euler's 6 faces.
 */
import { bodyKindOf } from '@/core/anatomy/body-kind';
import { closesChain } from '@/core/anatomy/reading/closing';
import { wordsOf } from '@/core/anatomy/reading/tokens';
import { joinCharacters } from '@/core/character/join';
import { bodyMeshes } from '@/core/character/measure';
import { islandsOfMesh } from '@/core/character/islands';
import { type Character, type Mesh, node, positionsOf } from '@/core/character/model';
import { volumesOfIslands } from '@/core/geometry/islands';
import { readCharacter, writeCharacter } from '@/core/formats';
import { writtenPolygons } from '@/core/formats/recover';
import { audit } from '@/core/house/audit';
import type { Brief } from '@/core/house/brief';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { insideOf } from '@/core/rooms/placement/inside';
import { wrongWinding } from '@/core/rooms/surface/winding';
import { unweightedBones } from '@/core/rooms/weights/kinds';
import { castCharacter } from './support/cast';
import { BOX_FACES, characterOf, meshFrom, tube } from './support/build';

const handset = briefById('handset')!;
const clean = castCharacter('deckhand-clean.glb');
const found = (character: Character, check: string, brief: Brief = handset) =>
  audit(character, brief).filter((finding) => finding.check === check);

const CORNERS = [
  [0, 0, 0],
  [1, 0, 0],
  [1, 1, 0],
  [0, 1, 0],
  [0, 0, 1],
  [1, 0, 1],
  [1, 1, 1],
  [0, 1, 1],
];
const boxMesh = (faces: readonly (readonly number[])[] = BOX_FACES): Mesh => ({
  ...meshFrom(CORNERS, faces),
  name: 'box',
});

describe('a loose mesh beside bound ones', () => {
  const scarf = {
    ...characterOf(boxMesh()),
    name: 'scarf',
    nodes: [node({ name: 'scarf', kind: 'mesh' as const, mesh: 0 })],
  };
  const withScarf = joinCharacters(clean, scarf);

  it('stops hand-off, and says which it is and what is carried beside it', () => {
    expect(found(clean, 'not-bound')).toEqual([]);
    const [finding, ...others] = found(withScarf, 'not-bound');
    expect(others).toEqual([]);
    expect([finding.gravity, finding.subject.name]).toEqual(['stops', 'scarf']);
    expect(finding.message).toMatch(
      /“scarf” is bound to no bone and hangs on none, beside “.*that bones carry/,
    );
  });

  it('is none where the brief names it as a prop, or where it hangs on a bone', () => {
    const asProp: Brief = {
      ...handset,
      props: [{ pattern: 'scarf', title: 'scarf', height: 1, tolerance: 1 }],
    };
    expect(found(withScarf, 'not-bound', asProp)).toEqual([]);
    const at = withScarf.nodes.findIndex((node) => node.name === 'scarf');
    const bone = withScarf.nodes.findIndex((node) => node.kind === 'bone');
    const nodes = withScarf.nodes.map((node, i) => (i === at ? { ...node, parent: bone } : node));
    expect(found({ ...withScarf, nodes }, 'not-bound')).toEqual([]);
  });
});

describe('a body that is wound inside out', () => {
  const turned: Character = {
    ...clean,
    meshes: clean.meshes.map((mesh) => ({ ...mesh, corners: reversedFaces(mesh) })),
  };

  it('is a body still: its joints lie inside', () => {
    expect(found(clean, 'apart')).toEqual([]);
    expect(found(turned, 'apart')).toEqual([]);
    expect(bodyKindOf(turned).kind).toBe('two-legged');
  });

  it('is found as what it is, mesh by mesh, and turned by one press each', () => {
    expect(found(clean, 'winding')).toEqual([]);
    const findings = found(turned, 'winding');
    expect(findings.map((finding) => finding.gravity)).toEqual(clean.meshes.map(() => 'stops'));
    const after = findings.reduce<Character>(
      (character, finding) => remedyById('turn-faces')!.apply(character, finding.remedies[0].params, handset),
      turned,
    );
    expect(found(after, 'winding')).toEqual([]);
    expect(after.meshes.map(positionsOf)).toEqual(clean.meshes.map(positionsOf));
  });

  it('without normals is told by the volume that it encloses', () => {
    const inward = boxMesh(BOX_FACES.map((face) => [...face].reverse()));
    const bare = (mesh: Mesh) => characterOf({ ...mesh, attributes: { POSITION: mesh.attributes.POSITION } });
    expect(found(bare(boxMesh()), 'winding')).toEqual([]);
    expect(found(bare(inward), 'winding').map((finding) => finding.measured)).toEqual([6]);
  });

  it('of a sheet of a hundred thousand faces all are told, and none where only a corner of it stands against its normals', () => {
    const side = 320;
    const at = (row: number, column: number) => row * (side + 1) + column;
    const cells = Array.from({ length: side * side }, (_, i) => [Math.floor(i / side), i % side]);
    const sheet = (isTurned: (row: number, column: number) => boolean) => {
      const flat = meshFrom(
        Array.from({ length: (side + 1) ** 2 }, (_, i) => [i % (side + 1), Math.floor(i / (side + 1)), 0]),
        cells.map(([row, column]) => [
          at(row, column),
          at(row, column + 1),
          at(row + 1, column + 1),
          at(row + 1, column),
        ]),
      );
      const normals = new Float32Array(flat.vertexCount * 3);
      for (let v = 0; v < flat.vertexCount; v++)
        normals[v * 3 + 2] = isTurned(Math.floor(v / (side + 1)), v % (side + 1)) ? -1 : 1;
      const NORMAL = { data: normals, size: 3, type: 'f32', normalized: false } as const;
      return wrongWinding({ ...flat, attributes: { ...flat.attributes, NORMAL } });
    };
    expect(sheet(() => true)).toMatchObject({ by: 'normals', polygons: { length: cells.length } });
    expect(sheet((row, column) => row < 150 && column < 300)).toBe(null);
  });

  it('of two boxes in one mesh the one inside out has volume −1, and a place in either is inside', () => {
    const far = CORNERS.map(([x, y, z]) => [x + 5, y, z]);
    const two = meshFrom(
      [...CORNERS, ...far],
      [...BOX_FACES, ...BOX_FACES.map((face) => face.map((value) => value + 8).reverse())],
    );
    const islands = islandsOfMesh(two);
    const volumes = volumesOfIslands(islands, two.polygonOffsets, two.corners, positionsOf(two));
    expect(volumes).toHaveLength(2);
    expect(volumes[0]).toBeCloseTo(1, 12);
    expect(volumes[1]).toBeCloseTo(-1, 12);
    const placed = bodyMeshes(characterOf(two));
    expect(Array.from(insideOf([0.4, 0.5, 0.6, 5.4, 0.5, 0.6, 3, 0.5, 0.5], placed))).toEqual([1, 1, 0]);
  });
});

function reversedFaces({ corners, polygonOffsets: offsets }: Mesh): Uint32Array {
  const out = corners.slice();
  for (let point = 0; point + 1 < offsets.length; point++)
    out.subarray(offsets[point] + 1, offsets[point + 1]).reverse();
  return out;
}

describe('what an end is called, and what it is', () => {
  /** A tube of four bones of a quarter each, the last one renamed. */
  const called = (name: string): Character => {
    const character = tube();
    const last = character.nodes.map((node) => node.kind).lastIndexOf('bone');
    return { ...character, nodes: character.nodes.map((node, i) => (i === last ? { ...node, name } : node)) };
  };
  const kindOfLast = (character: Character) =>
    unweightedBones(character, handset)(character.nodes.map((node) => node.kind).lastIndexOf('bone'));

  it.each(['index_tip', 'LeftToeTip', 'null_3', 'end_effector'])(
    '%s carries flesh beyond its joint: it bends, and is no end',
    (name) => expect(kindOfLast(called(name))).toBeNull(),
  );

  it.each(['index_tip', 'LeftToeTip', 'null_3', 'end_effector', 'hand_end'])(
    '%s without flesh beyond its joint is an end',
    (name) => {
      const character = called(name);
      const bare = { ...character, meshes: character.meshes.map((mesh) => ({ ...mesh, influences: null })) };
      expect(kindOfLast(bare)).toBe('end');
    },
  );

  it.each(['hand_ik', 'arm_fk', 'foot.ctrl', 'pole_knee'])('%s is a control', (name) =>
    expect(kindOfLast(called(name))).toBe('control'),
  );

  it('a strange word that closes three chains, each after the bone above, is what ends are called there', () => {
    const chain = (...names: string[]) => names.map((name, i) => ({ name, above: i - 1 }));
    const closing = (chains: string[][]) => {
      const bones = chains.flatMap((names, k) =>
        chain(...names).map((b) => ({ ...b, above: b.above < 0 ? -1 : b.above + 2 * k })),
      );
      const closes = closesChain(
        bones.map((bone) => wordsOf(bone.name)),
        bones.map((bone) => bone.above),
      );
      return bones.filter((_, i) => closes[i]).map((bone) => bone.name);
    };
    const three = [
      ['Toe', 'ToeZub'],
      ['Head', 'HeadZub'],
      ['Index', 'IndexZub'],
    ];
    expect(closing(three)).toEqual(['ToeZub', 'HeadZub', 'IndexZub']);
    expect(closing(three.slice(1))).toEqual([]);
    expect(closing([...three, ['Zub', 'Tongue']])).toEqual([]);
    expect(closing([...three, ['Spine', 'Zub']])).toEqual([]);
    // Roman numbers count the bones of a finger, and close none.
    expect(closing(['index', 'ring', 'pollex'].map((file) => [`${file}_II_sin`, `${file}_III_sin`]))).toEqual(
      [],
    );
  });

  it.each(['tipper', 'endless', 'fkoo', 'bend'])('%s is neither', (name) =>
    expect(kindOfLast(called(name))).toBeNull(),
  );
});

/** The polygons of a mesh by the places of their corners, however they are counted and begun. */
function writtenIn(mesh: Mesh): Set<string> {
  const points = positionsOf(mesh);
  const placeOf = (vertex: number) => Array.from(points.subarray(vertex * 3, vertex * 3 + 3)).join(' ');
  return new Set(
    writtenPolygons(mesh, mesh.pieces[0]).map((polygon) => {
      const places = polygon.map(placeOf);
      const at = places.indexOf([...places].sort()[0]);
      return [...places.slice(at), ...places.slice(0, at)].join(', ');
    }),
  );
}

describe('a box of triangles', () => {
  const triangles = boxMesh(
    BOX_FACES.flatMap(([a, b, c, d]) => [
      [a, b, c],
      [a, c, d],
    ]),
  );
  const asTriangles: Character = characterOf({ ...triangles, polygonOrigin: 'triangles' });

  it.each(['glb', 'dae', 'obj'] as const)('has its quads recovered, whatever it came in: %s', (format) => {
    const { files } = writeCharacter(asTriangles, format, 'box');
    const back = readCharacter(files.map(({ name, bytes }) => ({ name, bytes })));
    expect(back.meshes[0].polygonOrigin).toBe('recovered');
    expect(back.meshes[0].polygonOffsets.length - 1).toBe(6);
    expect(found(back, 'quads').map((finding) => [finding.gravity, finding.measured])).toEqual([
      ['note', 100],
    ]);
    // It is written as the triangles that came.
    expect(writtenIn(back.meshes[0])).toEqual(writtenIn(triangles));
    const twice = writeCharacter(back, format, 'box').files;
    expect(readCharacter(twice.map(({ name, bytes }) => ({ name, bytes }))).meshes[0].polygonOrigin).toBe(
      'recovered',
    );
  });
});
