/** Parts of a figure: how often surfaces go round places, what parts are said and read to be, what is forgotten, in two and in one. */
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { BoxGeometry, SphereGeometry, TorusGeometry } from 'three';
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { type MeshPart, partsOf } from '@/core/anatomy/parts';
import { kindInName } from '@/core/anatomy/part-words';
import { brokenInvariants } from '@/core/character/invariants';
import { withMeshesJoined } from '@/core/character/join-meshes';
import { placedMeshes } from '@/core/character/measure';
import { type Character, type Mesh, node, positionsOf, replaceAt } from '@/core/character/model';
import { withPolygonsApart } from '@/core/character/split-mesh';
import { readCharacter, writeCharacter } from '@/core/formats/index';
import { triangleBoxes } from '@/core/geometry/triangle-tree';
import { WindingField, windingNumber } from '@/core/geometry/winding-number';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { forgottenParts } from '@/core/rooms/surface/forgotten-parts';
import { characterOf, meshFrom } from './support/build';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;

interface Shape {
  readonly points: Float32Array;
  readonly triangles: Uint32Array;
}

function shapeOf(geometry: BoxGeometry | SphereGeometry | TorusGeometry): Shape {
  geometry.deleteAttribute('uv');
  geometry.deleteAttribute('normal');
  const { attributes, index } = mergeVertices(geometry, 1e-6);
  return { points: Float32Array.from(attributes.position.array), triangles: Uint32Array.from(index!.array) };
}

describe('how often a surface goes round a place', () => {
  const shapes: readonly [string, Shape, (x: number, y: number, z: number) => number][] = [
    ['a ball', shapeOf(new SphereGeometry(1, 24, 16)), (x, y, z) => 0.97 - Math.hypot(x, y, z)],
    [
      'a ring',
      shapeOf(new TorusGeometry(1, 0.4, 24, 48)),
      (x, y, z) => 0.38 - Math.hypot(Math.hypot(x, y) - 1, z),
    ],
    [
      'a box',
      shapeOf(new BoxGeometry(2, 2, 2, 3, 3, 3)),
      (x, y, z) => 1 - Math.max(Math.abs(x), Math.abs(y), Math.abs(z)),
    ],
  ];
  const coordinate = fc.double({ min: -2, max: 2, noNaN: true });

  it.each(shapes)(
    'is once inside %s and never outside, and the tree agrees with every triangle',
    (_, shape, depth) => {
      const { points, triangles } = shape;
      const field = new WindingField(points, triangles, triangleBoxes(points, triangles));
      fc.assert(
        fc.property(coordinate, coordinate, coordinate, (x, y, z) => {
          const exact = windingNumber(points, triangles, x, y, z);
          expect(Math.abs(field.at(x, y, z) - exact)).toBeLessThan(0.02);
          // Near the surface the facets of a round thing are not where the thing is.
          if (Math.abs(depth(x, y, z)) > 0.06) expect(exact).toBeCloseTo(depth(x, y, z) > 0 ? 1 : 0, 6);
        }),
      );
    },
  );

  it('is minus one inside a ball whose faces look inward, and half on the plane of an open half ball', () => {
    const { points, triangles } = shapes[0][1];
    expect(windingNumber(points, triangles.slice().reverse(), 0, 0, 0)).toBeCloseTo(-1, 9);
    const half = [];
    for (let i = 0; i < triangles.length; i += 3) {
      const middle =
        (points[triangles[i] * 3] + points[triangles[i + 1] * 3] + points[triangles[i + 2] * 3]) / 3;
      if (middle > 0) half.push(...triangles.subarray(i, i + 3));
    }
    expect(windingNumber(points, Uint32Array.from(half), 0, 0, 0)).toBeCloseTo(0.5, 2);
    expect(
      new WindingField(points, new Uint32Array(0), triangleBoxes(points, new Uint32Array(0))).at(0, 0, 0),
    ).toBe(0);
  });
});

describe('the parts of a figure', () => {
  const crew = castCharacter('deckhand-clean.glb');
  const parts = partsOf(crew);
  const called = (start: string): MeshPart[] => parts.filter(({ name }) => name.startsWith(start));

  it('hold every polygon of every mesh once', () => {
    for (const { node: shows, mesh } of placedMeshes(crew)) {
      const held = parts.filter((part) => part.node === shows).flatMap(({ polygons }) => [...polygons]);
      expect(held.sort((a, b) => a - b)).toEqual(
        Array.from({ length: mesh.polygonOffsets.length - 1 }, (_, i) => i),
      );
    }
  });

  it('are measured as closed forms say: a ball, a ring, a box', () => {
    const mesh = ({ points, triangles }: Shape): Mesh =>
      meshFrom(
        Array.from({ length: points.length / 3 }, (_, i) => [...points.subarray(i * 3, i * 3 + 3)]),
        Array.from({ length: triangles.length / 3 }, (_, i) => [...triangles.subarray(i * 3, i * 3 + 3)]),
      );
    const of = (shape: Shape) => partsOf(characterOf(mesh(shape)))[0];
    const ball = of(shapeOf(new SphereGeometry(1, 96, 64)));
    expect(ball).toMatchObject({ isClosed: true, genus: 0, drivers: [] });
    expect(ball.area).toBeCloseTo(4 * Math.PI, 1);
    expect(ball.volume).toBeCloseTo((4 / 3) * Math.PI, 1);
    const ring = of(shapeOf(new TorusGeometry(1, 0.4, 64, 128)));
    expect(ring.genus).toBe(1);
    expect(ring.area).toBeCloseTo(4 * Math.PI * Math.PI * 0.4, 1);
    const box = of(shapeOf(new BoxGeometry(2, 1, 3, 2, 2, 2)));
    expect(box.area).toBeCloseTo(22, 5);
    expect(box.volume).toBeCloseTo(6, 5);
  });

  it('are told by names and bones: skin, eyes, cloth, studs; what nothing tells is not guessed', () => {
    expect(called('body').map(({ kind }) => kind)).toEqual(['skin', 'eye', 'eye']);
    expect(called('oilskin coat')[0].kind).toBe('cloth');
    expect(
      called('oilskin coat')
        .slice(1)
        .every(({ kind }) => kind === 'buckle'),
    ).toBe(true);
    expect(called('storm lantern').map(({ kind }) => kind)).toEqual([null, null]);
    expect(called('body')[1].drivers).toMatchObject([{ share: 1 }]);
  });

  it('are told by names that others gave, in several languages, and by none that only looks like one', () => {
    const told = (name: string) => kindInName(name)?.kind ?? null;
    expect(['Hair_02', 'haare', 'cheveux_front', '髪', 'eyelashes'].map(told)).toEqual(Array(5).fill('hair'));
    expect(['EyeBall_L', 'human-highpolyeyes', 'Auge_R', '目', 'ojo.izq'].map(told)).toEqual(
      Array(5).fill('eye'),
    );
    expect(['Teeth_upper', 'zähne', 'dents'].map(told)).toEqual(Array(3).fill('tooth'));
    expect(['chair', 'Object_12', 'repair', 'prop', 'capital', 'ringing'].map(told)).toEqual(
      Array(6).fill(null),
    );
    // Called after two things it may be either.
    expect(told('cap and neckerchief')).toBe(null);
  });

  it('of a body that others made: the body and four eyes', () => {
    const bytes = new Uint8Array(readFileSync('/usr/share/assimp/models/Collada/human.zae'));
    const others = partsOf(readCharacter([{ name: 'human.zae', bytes }]));
    expect(others).toHaveLength(5);
    expect(others.filter(({ kind }) => kind === 'eye')).toHaveLength(4);
  });

  const mark = remedyById('mark-parts')!;
  const coat = called('oilskin coat')[0];
  const marked = mark.apply(
    crew,
    mark.params.cast({ polygons: [{ node: coat.node, ids: [coat.polygons[7]] }], kind: 'hat', rigid: true }),
    brief,
  );

  it.each(['glb', 'dae'] as const)(
    'stay what somebody said, in a file and in another delivery: %s',
    (format) => {
      const { files } = writeCharacter(marked, format, 'marked');
      const back = partsOf(readCharacter(files.map(({ name, bytes }) => ({ name, bytes }))));
      const again = back.find(
        ({ name, points }) => name.startsWith('oilskin coat') && points === coat.points,
      );
      expect(again).toMatchObject({ kind: 'hat', isSaid: true, isRigid: true });
      expect(back.filter(({ isSaid }) => isSaid)).toHaveLength(1);
    },
  );

  it('are what was said last, and what is taken back is read again', () => {
    const say = (kind: string) =>
      mark.apply(
        marked,
        mark.params.cast({ polygons: [{ node: coat.node, ids: [coat.polygons[0]] }], kind }),
        brief,
      );
    const of = (character: Character) =>
      partsOf(character).find(({ node: shows, island }) => shows === coat.node && island === coat.island)!;
    expect(of(say('hair'))).toMatchObject({ kind: 'hair', isSaid: true, isRigid: false });
    expect(of(say('same'))).toMatchObject({ kind: 'cloth', isSaid: false });
    expect(say('same').sets).toEqual(crew.sets);
  });

  it('go apart and come together again, with every point, weight and shape as it was', () => {
    const [, eye] = called('body');
    const mesh = crew.meshes[crew.nodes[eye.node].mesh];
    const isMoved = new Uint8Array(mesh.polygonOffsets.length - 1);
    for (const polygon of eye.polygons) isMoved[polygon] = 1;
    const apart = withPolygonsApart(marked, eye.node, isMoved, 'an eye');
    expect(brokenInvariants(apart)).toEqual([]);
    const own = apart.nodes.findIndex(({ name }) => name === 'an eye');
    expect(apart.meshes[apart.nodes[own].mesh].vertexCount).toBeGreaterThanOrEqual(eye.points);
    // What was said of another mesh is still said of it.
    expect(partsOf(apart).filter(({ isSaid }) => isSaid)).toHaveLength(1);
    const together = withMeshesJoined(apart, eye.node, [own]);
    expect(brokenInvariants(together)).toEqual([]);
    expect(rowsOf(together, eye.node)).toEqual(rowsOf(crew, eye.node));
    expect(
      partsOf(together)
        .map(({ area }) => area.toFixed(9))
        .sort(),
    ).toEqual(parts.map(({ area }) => area.toFixed(9)).sort());
  });

  it('are not joined where one is bound and the other is not, or both in different poses', () => {
    const join = remedyById('join-meshes')!;
    const [body, , lantern] = ['body', 'boots', 'storm lantern'].map((name) =>
      crew.nodes.findIndex((own) => own.name === name && own.mesh >= 0),
    );
    const hung = {
      ...crew,
      nodes: replaceAt(crew.nodes, new Map([[lantern, { ...crew.nodes[lantern], skin: -1 }]])),
    };
    expect(() => join.apply(hung, { nodes: [body, lantern] }, brief)).toThrow(/bound and the other is not/);
    expect(() => join.apply(crew, { nodes: [body] }, brief)).toThrow(/two or more/);
  });
});

/** Every vertex of a mesh with its place and its weights by bone, in an order of their own. */
function rowsOf({ nodes, meshes, skins }: Character, shows: number): string[] {
  const mesh = meshes[nodes[shows].mesh];
  const { joints } = skins[nodes[shows].skin];
  const places = positionsOf(mesh);
  const { offsets, joint, weight } = mesh.influences!;
  return Array.from({ length: mesh.vertexCount }, (_, vertex) => {
    const row = Array.from({ length: offsets[vertex + 1] - offsets[vertex] }, (_unused, k) => {
      const at = offsets[vertex] + k;
      return `${nodes[joints[joint[at]]].name} ${weight[at]}`;
    });
    return [...places.subarray(vertex * 3, vertex * 3 + 3), ...row.sort()].join(' ');
  }).sort();
}

describe('forgotten parts', () => {
  const crew = castCharacter('deckhand-clean.glb');
  const body = crew.nodes.findIndex(({ name }) => name === 'body');

  /** The figure with a small ball more in one of its meshes, with the weights of the mesh's first vertex. */
  function withBall(
    character: Character,
    shows: number,
    middle: readonly number[],
    radius: number,
  ): Character {
    const { points, triangles } = shapeOf(new SphereGeometry(radius, 8, 6));
    const mesh = meshFrom(
      Array.from({ length: points.length / 3 }, (_, i) =>
        [0, 1, 2].map((k) => points[i * 3 + k] + middle[k]),
      ),
      Array.from({ length: triangles.length / 3 }, (_, i) => [...triangles.subarray(i * 3, i * 3 + 3)]),
    );
    const { influences } = character.meshes[character.nodes[shows].mesh];
    const first = { joint: influences!.joint[0], weight: 1 };
    const bound: Mesh = {
      ...mesh,
      influences: {
        offsets: Uint32Array.from({ length: mesh.vertexCount + 1 }, (_, i) => i),
        joint: new Uint16Array(mesh.vertexCount).fill(first.joint),
        weight: new Float32Array(mesh.vertexCount).fill(first.weight),
      },
      influenceStorage: { weights: 'f32', joints: 'u16', sets: 1 },
    };
    const added: Character = {
      ...character,
      nodes: [
        ...character.nodes,
        node({
          name: 'ball',
          kind: 'mesh',
          mesh: character.meshes.length,
          skin: character.nodes[shows].skin,
        }),
      ],
      meshes: [...character.meshes, bound],
    };
    return withMeshesJoined(added, shows, [character.nodes.length]);
  }

  it.each(['deckhand-clean.glb', 'stoker.dae', 'heron.glb', 'capstan.glb'])('%s has none', (file) => {
    expect(forgottenParts(castCharacter(file))).toEqual([]);
  });

  it('are found within a body and beside it, told one by one, and one press each takes them out', () => {
    const faulty = withBall(withBall(crew, body, [0, 1.15, 0], 0.03), body, [0.9, 0.4, 0.6], 0.02);
    expect(brokenInvariants(faulty)).toEqual([]);
    const found = audit(faulty, brief).filter(({ check }) => check === 'forgotten-parts');
    expect(found.map(({ message }) => /closed in by|far from all/.exec(message)?.[0]).sort()).toEqual([
      'closed in by',
      'far from all',
    ]);
    let mended = faulty;
    for (let i = 0; i < 2; i++) {
      const [first] = audit(mended, brief).filter(({ check }) => check === 'forgotten-parts');
      const { id, params } = first.remedies[0];
      mended = remedyById(id)!.apply(mended, params, brief);
    }
    expect(forgottenParts(mended)).toEqual([]);
    expect(rowsOf(mended, body)).toEqual(rowsOf(crew, body));
  });

  it('are told of many within one as of few, and not of those in a hollow that is open to the side', () => {
    const ring = shapeOf(new TorusGeometry(3, 1, 24, 48));
    const balls = Array.from({ length: 20 }, (_, i) => shapeOf(new SphereGeometry(0.2, 8, 6)).points.map((x, k) => x + (i % 2 ? 3 : 1.2) * [Math.cos(i), Math.sin(i), 0][k % 3])); // prettier-ignore
    const faces = shapeOf(new SphereGeometry(0.2, 8, 6)).triangles;
    const points = [ring.points, ...balls].flatMap((own) => Array.from({ length: own.length / 3 }, (_, i) => [...own.subarray(i * 3, i * 3 + 3)])); // prettier-ignore
    const [first, each] = [ring.points.length / 3, balls[0].length / 3];
    const triples = (list: Uint32Array, from: number) =>
      Array.from({ length: list.length / 3 }, (_, i) =>
        [...list.subarray(i * 3, i * 3 + 3)].map((v) => v + from),
      );
    const polygons = [
      triples(ring.triangles, 0),
      ...balls.map((_, i) => triples(faces, first + i * each)),
    ].flat();
    const told = forgottenParts(characterOf(meshFrom(points, polygons)));
    // Of a ring half of whose faces look inward nobody can say what it goes round.
    const turned = polygons.map((face, i) =>
      i % 2 && i < ring.triangles.length / 3 ? face.toReversed() : face,
    );
    expect(forgottenParts(characterOf(meshFrom(points, turned))).filter(({ inside }) => inside)).toEqual([]);
    // Ten lie within the ring itself, ten in the hole that it goes round.
    expect(told.filter(({ inside }) => inside !== null).length).toBe(10);
    expect(told.every(({ part }) => Math.hypot((part.min[0] + part.max[0]) / 2, (part.min[1] + part.max[1]) / 2) > 2.5)).toBe(true); // prettier-ignore
  });

  it('are not a stud on the coat, a lamp in the hand, nor what has a bone of its own', () => {
    const boots = crew.nodes.findIndex(({ name }) => name === 'boots');
    const [boot] = partsOf(crew).filter(({ node: shows }) => shows === boots);
    const beside = [boot.max[0] + 0.02, boot.max[1], (boot.min[2] + boot.max[2]) / 2];
    const near = withBall(crew, boots, beside, 0.01);
    expect(forgottenParts(near)).toEqual([]);
  });
});

it('of more parts than are looked through that is said, and nothing is claimed of them', () => {
  const one = [
    [0, 0, 0],
    [1, 0, 0],
    [0, 1, 0],
  ];
  const count = 4001;
  const points = Array.from({ length: count }, (_, i) => one.map(([x, y, z]) => [x + i * 2, y, z])).flat();
  const many = characterOf(
    meshFrom(
      points,
      Array.from({ length: count }, (_, i) => [i * 3, i * 3 + 1, i * 3 + 2]),
    ),
  );
  const told = audit(many, brief).filter(({ check }) => check === 'forgotten-parts');
  expect(told.map(({ gravity, message }) => [gravity, message])).toEqual([
    ['note', 'It has 4001 parts; whether any of them was forgotten is looked at up to 4000 only'],
  ]);
});

it('what somebody keeps under the name of a kind is not said to be of it by the way', () => {
  const crew = castCharacter('deckhand-clean.glb');
  const [first] = partsOf(crew);
  const boots = partsOf(crew).find(({ name }) => name === 'boots 1')!;
  const own = {
    name: 'hat',
    bones: [],
    vertices: [],
    polygons: [{ node: first.node, ids: first.polygons.slice() }],
  };
  const mark = remedyById('mark-parts')!;
  const said = mark.apply(
    { ...crew, sets: [own] },
    mark.params.cast({ polygons: [{ node: boots.node, ids: [boots.polygons[0]] }], kind: 'hat' }),
    brief,
  );
  expect(said.sets.map(({ name }) => name)).toEqual(['hat', 'hat 2']);
  expect(said.sets[0]).toEqual(own);
  expect(
    partsOf(said)
      .filter(({ isSaid }) => isSaid)
      .map(({ name, isRigid, isSaidRigid }) => [name, isRigid, isSaidRigid]),
  ).toEqual([['boots 1', true, false]]);
});
