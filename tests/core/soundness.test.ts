/** Where polygons make no sound surface: counts in closed form, manifold-3d's genus, planted faults on the cast and on made bodies. */
import fc from 'fast-check';
import { brokenInvariants } from '@/core/character/invariants';
import { islandsOfMesh } from '@/core/character/islands';
import { type Character, type Mesh, node, replaceAt } from '@/core/character/model';
import { EMPTY_CARRIED } from '@/core/character/model';
import { remadeMesh } from '@/core/character/remake-mesh';
import { topologyOf } from '@/core/character/topology';
import { borderLoops, eulerNumbers, facesWithoutArea, windingCamps } from '@/core/geometry/soundness';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { previewRemedy } from '@/core/house/preview';
import { remedyById } from '@/core/house/registry';
import { polygonsOf, soundnessOf } from '@/core/rooms/surface/soundness';
import { meshFrom } from './support/build';
import { castCharacter } from './support/cast';

type Point = [number, number, number];

const brief = briefById('handset')!;
const clean = castCharacter('fine/deckhand-clean.glb');
const bodyNode = clean.nodes.findIndex(({ name }) => name === 'body');
const body = clean.meshes[clean.nodes[bodyNode].mesh];

/** A grid of quads bent round once, or twice: a tube is open at both ends, a torus closed. */
function tube(rows: number, columns: number, isTorus = false): Mesh {
  const points: Point[] = [];
  const faces: number[][] = [];
  for (let i = 0; i < rows; i++)
    for (let j = 0; j < columns; j++) {
      const [a, b] = [(2 * Math.PI * j) / columns, (2 * Math.PI * i) / rows];
      const out = isTorus ? 2 + 0.5 * Math.cos(b) : 1;
      points.push([out * Math.cos(a), isTorus ? 0.5 * Math.sin(b) : i, out * Math.sin(a)]);
    }
  for (let i = 0; i + (isTorus ? 0 : 1) < rows; i++)
    for (let j = 0; j < columns; j++) {
      const at = (row: number, column: number) => (row % rows) * columns + (column % columns);
      faces.push([at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]);
    }
  return meshFrom(points, faces);
}

const eulerOf = (mesh: Mesh) => {
  const { halfEdges } = topologyOf(mesh);
  return eulerNumbers(polygonsOf(mesh), halfEdges, islandsOfMesh(mesh), borderLoops(halfEdges));
};

const shown = (mesh: Mesh): Character => ({
  name: 'thing',
  nodes: [node({ name: 'thing', kind: 'mesh', mesh: 0 })],
  meshes: [mesh],
  skins: [],
  clips: [],
  sets: [],
  carried: { ...EMPTY_CARRIED, scenes: [{ json: {}, roots: [0] }] },
  source: { format: 'made', generator: '', unitMetres: 1, files: [] },
  notes: [],
});

const ROOM = ['winding', 'empty-faces', 'loose-points', 'joined-wrongly', 'holes'];
const found = (character: Character) =>
  audit(character, brief)
    .filter(({ check }) => ROOM.includes(check))
    .map(({ check, subject, count }) => [check, subject.name, count]);

describe('Euler’s numbers', () => {
  it('of tubes and tori are those of the closed form, whatever their rows', () => {
    const rows = fc.integer({ min: 3, max: 9 });
    fc.assert(
      fc.property(rows, rows, (high, round) => {
        expect(eulerOf(tube(high, round))).toEqual([
          {
            vertices: high * round,
            edges: round * (2 * high - 1),
            faces: round * (high - 1),
            borders: 2,
            genus: 0,
          },
        ]);
        const [torus] = eulerOf(tube(high, round, true));
        expect(torus).toMatchObject({
          borders: 0,
          genus: 1,
          vertices: high * round,
          edges: 2 * high * round,
        });
      }),
    );
  });

  it('of the cast: bodies are spheres, the rope a ring, and every border is a loop', () => {
    expect(new Set(eulerOf(body).map(({ genus, borders }) => `${genus} ${borders}`))).toEqual(
      new Set(['0 0']),
    );
    const capstan = castCharacter('capstan.glb');
    const rope = capstan.meshes[capstan.nodes.find(({ name }) => name === 'rope')!.mesh];
    expect(eulerOf(rope).every(({ genus, borders }) => genus === 1 && borders === 0)).toBe(true);
  });
});

describe('the clean cast', () => {
  it.each(['deckhand-clean.glb', 'stoker.dae', 'heron.glb', 'capstan.glb'])(
    '%s has nothing of it',
    (file) => {
      expect(found(castCharacter(file))).toEqual([]);
    },
  );
});

describe('does not depend on how the mesh is written', () => {
  it('in another order of faces, with seams split, turned and sized', () => {
    const faulty = planted();
    const before = soundnessOf(faulty);
    const order = Array.from({ length: faulty.polygonOffsets.length - 1 }, (_, i) => i).sort(
      (one, other) => ((one * 7919) % 1000) - ((other * 7919) % 1000) || one - other,
    );
    const corners = order.flatMap((face) => [
      ...faulty.corners.subarray(faulty.polygonOffsets[face], faulty.polygonOffsets[face + 1]),
    ]);
    const offsets = [0];
    for (const face of order)
      offsets.push(
        offsets[offsets.length - 1] + faulty.polygonOffsets[face + 1] - faulty.polygonOffsets[face],
      );
    const shuffled: Mesh = {
      ...faulty,
      corners: Uint32Array.from(corners),
      polygonOffsets: Uint32Array.from(offsets),
    };
    const sized: Mesh = {
      ...shuffled,
      attributes: {
        ...shuffled.attributes,
        POSITION: {
          ...shuffled.attributes.POSITION,
          data: Float32Array.from(shuffled.attributes.POSITION.data, (x) => x * 37),
        },
      },
    };
    for (const other of [shuffled, sized]) {
      const now = soundnessOf(other);
      const counts = (s: typeof now) => [
        s.withoutArea.length,
        s.doubled.same.length,
        s.crowded.length,
        s.pinched.size,
        s.holes.length,
        s.loose.length,
      ];
      expect(counts(now)).toEqual(counts(before));
      expect(Math.max(...counts(now))).toBeGreaterThan(0);
    }
  });
});

/** A body with one of each fault, on its first faces. */
function planted(): Mesh {
  const face = (i: number) =>
    Array.from(body.corners.subarray(body.polygonOffsets[i], body.polygonOffsets[i + 1]));
  const goneFaces = new Uint8Array(body.polygonOffsets.length - 1);
  goneFaces[4000] = 1;
  const [a, b] = face(9000);
  return remadeMesh(body, {
    goneFaces,
    // Two loose copies, a face twice, one without area, a fin on an edge.
    copies: [a, b, face(100)[0]],
    added: [
      { piece: 0, corners: face(2000) },
      { piece: 0, corners: [face(3000)[0], face(3000)[1], face(3000)[0]] },
    ],
  });
}

describe('a planted fault on the body of the Deckhand is found as just that, and mended', () => {
  const on = (mesh: Mesh): Character => ({
    ...clean,
    meshes: replaceAt(clean.meshes, new Map([[clean.nodes[bodyNode].mesh, mesh]])),
  });
  const faceOf = (i: number) =>
    Array.from(body.corners.subarray(body.polygonOffsets[i], body.polygonOffsets[i + 1]));
  const gone = (...faces: number[]) => {
    const goneFaces = new Uint8Array(body.polygonOffsets.length - 1);
    for (const i of faces) goneFaces[i] = 1;
    return goneFaces;
  };
  /** Faces round a point that are one connected patch with one border. */
  const around = (i: number) => {
    const { halfEdges } = topologyOf(body);
    const half = body.polygonOffsets[i];
    return [i, halfEdges.polygon[halfEdges.twin[half]]];
  };
  const flip = (faces: readonly number[]): Mesh => {
    const corners = body.corners.slice();
    for (const i of faces) corners.subarray(body.polygonOffsets[i] + 1, body.polygonOffsets[i + 1]).reverse();
    return { ...body, corners };
  };
  const cases: [string, string, number, () => Mesh][] = [
    ['a missing quad', 'holes', 1, () => remadeMesh(body, { goneFaces: gone(5000) })],
    ['two quads side by side', 'holes', 1, () => remadeMesh(body, { goneFaces: gone(...around(5000)) })],
    [
      'a face twice',
      'empty-faces',
      1,
      () => remadeMesh(body, { added: [{ piece: 0, corners: faceOf(2000) }] }),
    ],
    [
      'a face on a line',
      'empty-faces',
      1,
      () =>
        remadeMesh(body, {
          added: [{ piece: 0, corners: [faceOf(3000)[0], faceOf(3000)[1], faceOf(3000)[0]] }],
        }),
    ],
    ['three loose points', 'loose-points', 3, () => remadeMesh(body, { copies: [7, 8, 9] })],
    [
      'a fin on an edge',
      'joined-wrongly',
      1,
      () => {
        const [a, b] = faceOf(6000);
        const fin = remadeMesh(body, {
          copies: [faceOf(6000)[2]],
          added: [{ piece: 0, corners: [a, b, body.vertexCount] }],
        });
        const data = fin.attributes.POSITION.data.slice();
        // A copy stands at the end of the run that it was copied from.
        const tip = fin.pieces[0].vertexStart + fin.pieces[0].vertexCount - 1;
        data[tip * 3 + 2] += 0.03;
        return { ...fin, attributes: { ...fin.attributes, POSITION: { ...fin.attributes.POSITION, data } } };
      },
    ],
    ['a flipped patch', 'winding', 2, () => flip(around(7000))],
  ];

  it.each(cases)('%s', (_, check, count, make) => {
    const faulty = on(make());
    expect(brokenInvariants(faulty)).toEqual([]);
    expect(found(faulty)).toEqual([[check, 'body', count]]);
    const [finding] = audit(faulty, brief).filter((one) => one.check === check);
    const remedy = remedyById(finding.remedies[0].id)!;
    const params = remedy.params.cast(finding.remedies[0].params) as Record<string, unknown>;
    const { after, effects } = previewRemedy(remedy, faulty, params, brief);
    expect([effects.outside, found(after), brokenInvariants(after)]).toEqual([[], [], []]);
    const mended = after.meshes[after.nodes[bodyNode].mesh];
    // A fin stays as a piece of its own; all else is again as it was.
    if (check !== 'joined-wrongly') {
      expect(mended.polygonOffsets.length).toBe(body.polygonOffsets.length);
      expect(mended.vertexCount).toBe(body.vertexCount);
      expect(eulerOf(mended).map(({ genus, borders }) => [genus, borders])).toEqual(
        eulerOf(body).map(({ genus, borders }) => [genus, borders]),
      );
    }
    expect(() => remedy.apply(after, params, brief)).toThrow(/nothing to/);
  });
});

describe('what is meant is no fault', () => {
  it('a sheet that is seen from both sides, a card, a tube, parts that only touch', () => {
    const sheet = meshFrom(
      [
        [0, 0, 0],
        [1, 0, 0],
        [1, 1, 0],
        [0, 1, 0],
      ],
      [
        [0, 1, 2, 3],
        [3, 2, 1, 0],
      ],
    );
    expect(found(shown(sheet))).toEqual([]);
    expect(found(shown(tube(12, 8)))).toEqual([]);
    // Three walls along one edge, each with points of its own there.
    const walls = meshFrom(
      [0, 1, 2].flatMap((k): Point[] => {
        const [x, z] = [Math.cos(k * 2), Math.sin(k * 2)];
        return [
          [0, 0, 0],
          [0, 1, 0],
          [x, 1, z],
          [x, 0, z],
        ];
      }),
      [0, 4, 8].map((first) => [first, first + 1, first + 2, first + 3]),
    );
    expect(found(shown(walls))).toEqual([]);
  });

  it('two cones that share their tip are told and parted, in their places', () => {
    const ring = (y: number): Point[] =>
      [0, 1, 2, 3].map((k) => [Math.cos((k * Math.PI) / 2), y, Math.sin((k * Math.PI) / 2)]);
    const cones = meshFrom(
      [[0, 0, 0], ...ring(1), ...ring(-1)],
      [0, 1, 2, 3].flatMap((k) => {
        const next = (k + 1) % 4;
        return [
          [0, 1 + next, 1 + k],
          [0, 5 + k, 5 + next],
        ];
      }),
    );
    const character = shown(cones);
    expect(found(character)).toEqual([['joined-wrongly', 'thing', 1]]);
    const after = remedyById('split-joins')!.apply(character, { node: 0 }, brief);
    expect([found(after), after.meshes[0].vertexCount]).toEqual([[], cones.vertexCount + 1]);
  });

  it('a band with one side tells no winding; its faces are not turned', () => {
    const count = 12;
    const points = Array.from({ length: count }, (_, i): Point[] => {
      const [turn, half] = [(2 * Math.PI * i) / count, (Math.PI * i) / count];
      return [-0.3, 0.3].map((w) => [
        (1 + w * Math.cos(half)) * Math.cos(turn),
        w * Math.sin(half),
        (1 + w * Math.cos(half)) * Math.sin(turn),
      ]);
    }).flat();
    const faces = Array.from({ length: count }, (_, i) =>
      i + 1 < count ? [2 * i, 2 * i + 1, 2 * i + 3, 2 * i + 2] : [2 * i, 2 * i + 1, 0, 1],
    );
    const band = meshFrom(points, faces);
    expect([...windingCamps(band.polygonOffsets, topologyOf(band).halfEdges)]).toEqual(Array(count).fill(-1));
  });
});

it('faces without area are those of no area, at any size and place', () => {
  const coordinate = fc.double({ min: -1, max: 1, noNaN: true });
  const point = fc.tuple(coordinate, coordinate, coordinate);
  fc.assert(
    fc.property(point, point, point, fc.double({ min: 1e-3, max: 1e3, noNaN: true }), (a, b, c, size) => {
      const area = Math.hypot(
        (b[1] - a[1]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[1] - a[1]),
        (b[2] - a[2]) * (c[0] - a[0]) - (b[0] - a[0]) * (c[2] - a[2]),
        (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]),
      );
      if (area < 1e-3) return;
      const positions = Float64Array.from(
        [a, b, c, a.map((x, k) => (x + b[k]) / 2)].flat(),
        (x) => x * size + 5 * size,
      );
      const polygons = {
        offsets: Uint32Array.of(0, 3, 6),
        corners: Uint32Array.of(0, 1, 2, 0, 1, 3),
        pointOfVertex: Uint32Array.of(0, 1, 2, 3),
        pointCount: 4,
      };
      expect([...facesWithoutArea(polygons, positions)]).toEqual([1]);
    }),
  );
});
