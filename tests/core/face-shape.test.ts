/** Faces of bad shape: closed forms, corners put out of order and splinters made on bodies that others made, manifold-3d. */
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { partsOf } from '@/core/anatomy/parts';
import { brokenInvariants } from '@/core/character/invariants';
import { type Character, type Mesh, positionsOf, replaceAt } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { topologyOf } from '@/core/character/topology';
import { readCharacter } from '@/core/formats/index';
import { fanned } from '@/core/geometry/fan';
import { crossedFaces, forThinFaces, widthOfFace } from '@/core/geometry/face-shape';
import { normalise, quatAbout, quatRotate, type Vec3 } from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { soundnessOf } from '@/core/rooms/surface/soundness';
import { sliversOf } from '@/core/rooms/surface/slivers';
import { characterOf, meshFrom } from './support/build';
import { castCharacter } from './support/cast';
import { type Solid, solidsOf } from './support/manifold';

const brief = briefById('handset')!;
const real = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const crossedOf = (mesh: Mesh) => [
  ...crossedFaces({ offsets: mesh.polygonOffsets, corners: mesh.corners }, positionsOf(mesh)),
];
const faceOf = (places: readonly (readonly number[])[]) =>
  meshFrom(places, [Array.from(places, (_, i) => i)]);
/** Places in a plane, turned, sized and moved, each off the plane by some of their size. */
const somewhere = (flat: readonly (readonly [number, number])[], seed: number, off = 0): number[][] => {
  const turn = quatAbout(normalise([Math.sin(seed), Math.cos(seed * 2), Math.sin(seed * 5) + 0.01]), seed);
  return flat.map(([x, y], i) =>
    quatRotate(turn, [x, y, off * Math.sin(seed + i * 2.4)]).map((one) => one * 0.01 + Math.cos(seed)),
  );
};
const told = (character: Character, check: string) =>
  audit(character, brief).filter((finding) => finding.check === check);

describe('a face that crosses itself', () => {
  const seeds = fc.integer({ min: 1, max: 1e6 });
  it('is one whose corners are in the wrong order, wherever it lies, flat or nearly', () => {
    fc.assert(
      fc.property(seeds, real(0.4, 2), real(0, 0.03), (seed, long, off) => {
        const quad = [[0, 0], [long, 0.1], [long + 0.1, 1], [0, 0.9]] as const; // prettier-ignore
        expect(crossedOf(faceOf(somewhere(quad, seed, off)))).toEqual([]);
        for (const order of [[0, 2, 1, 3], [0, 1, 3, 2]]) // prettier-ignore
          expect(crossedOf(faceOf(somewhere(order.map((i) => quad[i]), seed, off)))).toEqual([0]); // prettier-ignore
      }),
    );
  });
  it('is a star drawn in one stroke, and none with a dent, a twist or much length', () => {
    const ring = (step: number) =>
      Array.from({ length: 5 }, (_, i): [number, number] => [
        Math.cos((2 * Math.PI * i * step) / 5),
        Math.sin((2 * Math.PI * i * step) / 5),
      ]);
    expect(crossedOf(faceOf(somewhere(ring(2), 3)))).toEqual([0]);
    expect(crossedOf(faceOf(somewhere(ring(1), 3)))).toEqual([]);
    expect(crossedOf(faceOf(somewhere([[0, 0], [2, 0], [0.4, 0.4], [0, 2]], 5)))).toEqual([]); // prettier-ignore
    // A ribbon of a hundred to one, turned by a quarter from end to end.
    expect(crossedOf(faceOf([[0, 0, 0], [100, 0, 0], [100, 0, 1], [0, 1, 0]]))).toEqual([]); // prettier-ignore
  });
});

describe('the width of a face for its length', () => {
  it('is that of the closed form, in every size and place', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), real(0.001, 1), (seed, high) => {
        const width = (flat: readonly (readonly [number, number])[]) =>
          widthOfFace(
            { offsets: Uint32Array.of(0, flat.length), corners: Uint32Array.from(flat, (_, i) => i) },
            somewhere(flat, seed).flat(),
            0,
          );
        expect(width([[0, 0], [1, 0], [0.5, Math.sqrt(3) / 2]])).toBeCloseTo(Math.sqrt(3) / 2, 6); // prettier-ignore
        expect(width([[0, 0], [1, 0], [1, 1], [0, 1]])).toBeCloseTo(Math.SQRT1_2, 6); // prettier-ignore
        expect(width([[0, 0], [1, 0], [1, high], [0, high]])).toBeCloseTo(high / Math.hypot(1, high), 6); // prettier-ignore
        expect(width([[0, 0], [1, 0], [2, 0]])).toBeCloseTo(0, 6); // prettier-ignore
      }),
    );
  });
});

describe('thin faces', () => {
  it('are all those whose width is less, however far from the origin', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(real(0, 1), real(0, 1), real(0, 1)), { minLength: 9, maxLength: 60 }),
        real(0.01, 0.7),
        real(0, 50),
        (list, share, off) => {
          const points = list.flat().map((x) => x + off);
          const corners = Uint32Array.from({ length: list.length - (list.length % 3) }, (_, i) => i);
          const offsets = Uint32Array.from({ length: corners.length / 3 + 1 }, (_, i) => i * 3);
          const polygons = { offsets, corners };
          const found: number[] = [];
          forThinFaces(polygons, points, share, (face) => {
            found.push(face);
            return share;
          });
          const all = Array.from({ length: corners.length / 3 }, (_, face) => face);
          expect(found).toEqual(all.filter((face) => widthOfFace(polygons, points, face) < share));
        },
      ),
    );
  });
});

/** A body that others made, as it was written: quads, with seams. */
const bytes = new Uint8Array(readFileSync('/usr/share/assimp/models/Collada/human.zae'));
const human = readCharacter([{ name: 'human.zae', bytes }]);
const [bodyNode] = human.nodes
  .flatMap((one, i) => (one.mesh >= 0 ? [i] : []))
  .toSorted(
    (a, b) => human.meshes[human.nodes[b].mesh].vertexCount - human.meshes[human.nodes[a].mesh].vertexCount,
  );
const body = human.meshes[human.nodes[bodyNode].mesh];
const withBody = (mesh: Mesh): Character => ({
  ...human,
  meshes: replaceAt(human.meshes, new Map([[human.nodes[bodyNode].mesh, mesh]])),
});

describe('on a body that others made', () => {
  const quads = Array.from({ length: body.polygonOffsets.length - 1 }, (_, face) => face).filter(
    (face) => body.polygonOffsets[face + 1] - body.polygonOffsets[face] === 4,
  );

  it('quads put out of order are told, just those, and get the order back that the faces round them have', () => {
    expect(crossedOf(body)).toEqual([]);
    const spoilt = [5, 90, 400, 777, 1200]
      .map((i) => quads[(i * 7) % quads.length])
      .toSorted((a, b) => a - b);
    const corners = body.corners.slice();
    for (const face of spoilt) {
      const at = body.polygonOffsets[face] + 1;
      [corners[at], corners[at + 1]] = [corners[at + 1], corners[at]];
    }
    const faulty = withBody({ ...body, corners });
    const [finding, ...others] = told(faulty, 'crossed-faces');
    expect(others).toEqual([]);
    expect(finding.elements).toEqual([{ kind: 'polygon', node: bodyNode, ids: Uint32Array.from(spoilt) }]);
    const remedy = remedyById(finding.remedies[0].id)!;
    const mended = remedy.apply(faulty, remedy.params.cast(finding.remedies[0].params), brief);
    expect(told(mended, 'crossed-faces')).toEqual([]);
    expect(brokenInvariants(mended)).toEqual([]);
    const again = mended.meshes[mended.nodes[bodyNode].mesh];
    // What holds of the whole holds again: each edge where it was.
    expect(edgesOf(again)).toEqual(edgesOf(body));
    expect(positionsOf(again)).toEqual(positionsOf(body));
    expect(() => remedy.apply(mended, remedy.params.cast({ node: bodyNode }), brief)).toThrow(
      /No face crosses/,
    );
  });

  it('one that is folded over itself is cut in two, and no edge round it goes', () => {
    const fold = meshFrom(
      [[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0.01], [-1, 0.5, 0], [2, 0.5, 0]], // prettier-ignore
      [
        [0, 1, 2, 3],
        [1, 0, 4],
        [2, 1, 5],
        [3, 2, 4],
        [0, 3, 5],
      ],
    );
    const remedy = remedyById('mend-crossed-faces')!;
    const [after] = remedy.apply(characterOf(fold), remedy.params.cast({ node: 0 }), brief).meshes;
    expect(after.polygonOffsets.length - 1).toBe(6);
    const before = edgesOf(fold);
    expect(edgesOf(after).filter((edge) => before.includes(edge))).toEqual(before);
    expect(soundnessOf(after).crossed.length).toBe(0);
  });

  it('splinters are told, just those, and go without a tear', () => {
    expect(told(withBody(trianglesOf(body)), 'slivers')).toEqual([]);
    const cut = trianglesOf(body);
    const { halfEdges } = topologyOf(cut);
    const data = positionsOf(cut).slice();
    const { pointOfVertex } = pointsOf(cut);
    const edges = [301, 2203, 4105, 6007, 8009].map((half) => half % cut.corners.length);
    // One end of each edge goes nearly to the other: the triangles at it become thin.
    for (const half of edges) {
      const [from, to] = [cut.corners[half], cut.corners[halfEdges.next[half]]];
      for (let vertex = 0; vertex < cut.vertexCount; vertex++)
        if (pointOfVertex[vertex] === pointOfVertex[from])
          for (let k = 0; k < 3; k++)
            data[vertex * 3 + k] += 0.999 * (positionsOf(cut)[to * 3 + k] - data[vertex * 3 + k]);
    }
    const thin = {
      ...cut,
      attributes: { ...cut.attributes, POSITION: { ...cut.attributes.POSITION, data } },
    };
    const faulty = withBody(thin);
    const expected = sliversOf(thin, 0.01);
    expect(expected.length).toBeGreaterThan(3);
    const [finding] = told(faulty, 'slivers');
    expect(finding).toMatchObject({ gravity: 'note', count: expected.length });
    const remedy = remedyById('collapse-slivers')!;
    const mended = remedy.apply(faulty, remedy.params.cast(finding.remedies[0].params), brief);
    expect(told(mended, 'slivers')).toEqual([]);
    expect(brokenInvariants(mended)).toEqual([]);
    const after = mended.meshes[mended.nodes[bodyNode].mesh];
    const borders = (mesh: Mesh) => topologyOf(mesh).halfEdges.faces.filter((faces) => faces !== 2).length;
    expect(borders(after)).toBe(borders(cut));
    expect(pointsOf(after).pointCount).toBeGreaterThan(pointsOf(body).pointCount - 30);
  });
});

describe('a splinter that cannot go', () => {
  const remedy = remedyById('collapse-slivers')!;
  const collapsed = (mesh: Mesh): Mesh => {
    try {
      return remedy.apply(characterOf(mesh), remedy.params.cast({ node: 0 }), brief).meshes[0];
    } catch (error) {
      expect((error as Error).message).toMatch(/can go without tearing a border or a seam/);
      return mesh;
    }
  };
  const bordersOf = (mesh: Mesh) => topologyOf(mesh).halfEdges.faces.filter((faces) => faces === 1).length;

  it('since its short edge is all that holds two borders apart stays', () => {
    // Two sheets that a bridge as wide as a hair joins: its long sides are borders.
    const bridge = meshFrom(
      [[0, -1, 0], [0, 0, 0], [0, 0.0005, 0], [0, 1, 0], [1, -1, 0], [1, 0, 0], [1, 0.0005, 0], [1, 1, 0], [-1, 0, 0], [2, 0, 0]], // prettier-ignore
      [[1, 5, 6], [1, 6, 2], [0, 1, 8], [1, 2, 8], [2, 3, 8], [5, 4, 9], [6, 5, 9], [7, 6, 9]], // prettier-ignore
    );
    expect(sliversOf(bridge, 0.01).length).toBeGreaterThan(1);
    const after = collapsed(bridge);
    expect(bordersOf(after)).toBe(bordersOf(bridge));
    expect(soundnessOf(after).pinched.size).toBe(0);
  });

  it('since a tube of three would close stays, and the tube is a sound surface still', () => {
    const ring = (z: number) => [[0, 0, z], [z === 1 ? 0.0005 : 1, 0, z], [0.5, 1, z]]; // prettier-ignore
    const sides = [0, 3, 6].flatMap((low) => [0, 1, 2].flatMap((k) => {
      const [a, b] = [low + k, low + ((k + 1) % 3)];
      return [[a, b, b + 3], [a, b + 3, a + 3]]; // prettier-ignore
    })); // prettier-ignore
    const tube = meshFrom([0, 1, 2, 3].flatMap(ring), [[2, 1, 0], ...sides, [9, 10, 11]]);
    expect(sliversOf(tube, 0.01).length).toBeGreaterThan(0);
    const after = collapsed(tube);
    expect(topologyOf(after).halfEdges.faces.every((faces) => faces === 2)).toBe(true);
    const [part, ...others] = partsIn(after);
    expect(others).toEqual([]);
    expect(part).toMatchObject({ isClosed: true, genus: 0 });
  });
});

/** The same mesh of triangles. */
function trianglesOf(mesh: Mesh): Mesh {
  const corners = fanned(mesh.polygonOffsets, mesh.corners);
  expect(mesh.pieces.length).toBe(1);
  return {
    ...mesh,
    corners,
    polygonOffsets: new Uint32Array(corners.length / 3 + 1).map((_, i) => i * 3),
    pieces: [{ ...mesh.pieces[0], polygonCount: corners.length / 3 }],
  };
}

/** Every edge as its two points, in words. */
function edgesOf(mesh: Mesh): string[] {
  const { ends } = topologyOf(mesh).halfEdges;
  return Array.from({ length: ends.length / 2 }, (_, i) => `${ends[i * 2]} ${ends[i * 2 + 1]}`).toSorted();
}

describe('against manifold-3d', () => {
  it('genus, volume and area of balls, rings and double rings, and of closed bodies', () => {
    const meshes = [0, 1, 2].map(boxWithHoles);
    const bodies = [castCharacter('deckhand-clean.glb').meshes[0]];
    const solids = solidsOf([...meshes, ...bodies]);
    expect(solids.map(({ status }) => status)).toEqual(solids.map(() => 'NoError'));
    solids.slice(0, 3).forEach((solid: Solid, holes) => {
      expect(solid.genus).toBe(holes);
      const [part] = partsIn(meshes[holes]);
      expect(part).toMatchObject({ genus: holes, isClosed: true });
      expect(part.volume).toBeCloseTo(solid.volume, 4);
      expect(part.area).toBeCloseTo(solid.area, 4);
    });
    // Of several pieces manifold-3d tells the sums; its genus is 1 − χ / 2 of all together.
    const whole = partsIn(bodies[0]);
    const sum = (of: (part: (typeof whole)[number]) => number) =>
      whole.reduce((total, part) => total + of(part), 0);
    const last = solids[3];
    expect(sum(({ volume }) => volume)).toBeCloseTo(last.volume, 4);
    expect(1 - sum(({ genus }) => 1 - (genus as number))).toBe(last.genus);
    expect(sum(({ area }) => area) / last.area).toBeCloseTo(1, 2);
  });

  it('a sheet with a border is no manifold to either', () => {
    const open = { ...boxWithHoles(0) };
    const gone = {
      ...open,
      polygonOffsets: open.polygonOffsets.slice(0, -1),
      corners: open.corners.slice(0, -4),
    };
    expect(solidsOf([gone])[0].status).not.toBe('NoError');
    expect(partsIn(gone)[0].isClosed).toBe(false);
  });
});

const partsIn = (mesh: Mesh) => partsOf(characterOf(mesh));

/** A slab with so many square holes through it, of quads. */
function boxWithHoles(holes: number): Mesh {
  const columns = 2 * holes + 1;
  const points: Vec3[] = [];
  const index = new Map<string, number>();
  const at = (x: number, y: number, z: number) => {
    const key = `${x} ${y} ${z}`;
    if (!index.has(key)) index.set(key, points.push([x, y, z]) - 1);
    return index.get(key) as number;
  };
  const isSolid = (x: number, y: number) =>
    x >= 0 && y >= 0 && x < columns && y < 3 && !(y === 1 && x % 2 === 1);
  const faces: number[][] = [];
  for (let x = 0; x < columns; x++)
    for (let y = 0; y < 3; y++) {
      if (!isSolid(x, y)) continue;
      faces.push([at(x, y, 1), at(x + 1, y, 1), at(x + 1, y + 1, 1), at(x, y + 1, 1)]);
      faces.push([at(x, y + 1, 0), at(x + 1, y + 1, 0), at(x + 1, y, 0), at(x, y, 0)]);
      if (!isSolid(x - 1, y)) faces.push([at(x, y, 0), at(x, y, 1), at(x, y + 1, 1), at(x, y + 1, 0)]);
      if (!isSolid(x + 1, y))
        faces.push([at(x + 1, y + 1, 0), at(x + 1, y + 1, 1), at(x + 1, y, 1), at(x + 1, y, 0)]);
      if (!isSolid(x, y - 1)) faces.push([at(x + 1, y, 0), at(x + 1, y, 1), at(x, y, 1), at(x, y, 0)]);
      if (!isSolid(x, y + 1))
        faces.push([at(x, y + 1, 0), at(x, y + 1, 1), at(x + 1, y + 1, 1), at(x + 1, y + 1, 0)]);
    }
  return meshFrom(points, faces);
}
