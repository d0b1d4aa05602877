/** Left and right: the plane however it stands, twins by place and by how faces hang together, differences limb by limb. */
import fc from 'fast-check';
import { readFileSync } from 'node:fs';
import { type Character, type Mesh, positionsOf, replaceAt } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { looseVertices, remadeMesh } from '@/core/character/remake-mesh';
import { underSimilarity } from '@/core/character/similarity';
import { topologyOf } from '@/core/character/topology';
import { quatAbout, quatRotate, normalise, dot, type Vec3 } from '@/core/geometry/matrix';
import { mirrorTwins } from '@/core/geometry/mirror';
import { twinsByTopology } from '@/core/geometry/mirror-topology';
import { planeOfSymmetry } from '@/core/geometry/symmetry';
import { readCharacter } from '@/core/formats/index';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { asymmetryOf } from '@/core/anatomy/asymmetry';
import { waysToNextLoop } from '@/core/rooms/surface/loops';
import { loopsAcrossJoints } from '@/core/anatomy/joint-loops';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const crew = castCharacter('deckhand-clean.glb');
const body = crew.nodes.findIndex(({ name }) => name === 'body');
const coat = crew.nodes.findIndex(({ name }) => name === 'oilskin coat');

/** The character with the points of a mesh moved. */
function moved(
  character: Character,
  node: number,
  by: (x: number, y: number, z: number) => readonly number[],
): Character {
  const index = character.nodes[node].mesh;
  const mesh = character.meshes[index];
  const data = positionsOf(mesh).slice();
  for (let i = 0; i < data.length; i += 3) data.set(by(data[i], data[i + 1], data[i + 2]), i);
  const attributes = { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data } };
  return { ...character, meshes: replaceAt(character.meshes, new Map([[index, { ...mesh, attributes }]])) };
}

/** The left lower arm pushed out by up to 2 cm: a smooth bump on one side. */
const bumped = (character: Character) =>
  moved(character, body, (x, y, z) => [
    x,
    y + (x > 0.4 && x < 0.55 ? 0.02 * Math.sin(((x - 0.4) / 0.15) * Math.PI) : 0),
    z,
  ]);

const bodyPoints = (mesh: Mesh): Float32Array => {
  const { vertexOfPoint } = pointsOf(mesh);
  const own = positionsOf(mesh);
  const out = new Float32Array(vertexOfPoint.length * 3);
  vertexOfPoint.forEach((vertex, point) => out.set(own.subarray(vertex * 3, vertex * 3 + 3), point * 3));
  return out;
};

describe('the plane of symmetry', () => {
  const bytes = new Uint8Array(readFileSync('/usr/share/assimp/models/Collada/human.zae'));
  const [human] = readCharacter([{ name: 'human.zae', bytes }]).meshes.toSorted(
    (a, b) => b.vertexCount - a.vertexCount,
  );
  const points = bodyPoints(human);
  const reach = points.reduce((most, x, i) => (i % 3 === 0 ? Math.max(most, x) : most), 0);

  it('is found however the body is turned and moved, with one forearm and hand torn off', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const angle = (seed % 360) * (Math.PI / 180);
        const axis = normalise([Math.sin(seed), Math.cos(seed * 3), Math.sin(seed * 7) + 1e-3]);
        const turn = quatAbout(axis, angle);
        const kept: number[] = [];
        for (let i = 0; i < points.length; i += 3) {
          // What hangs on one arm is gone.
          if (points[i] > 0.6 * reach) continue;
          const [x, y, z] = quatRotate(turn, [points[i], points[i + 1], points[i + 2]]);
          kept.push(x + 0.3, y - 0.2, z + 0.1);
        }
        const plane = planeOfSymmetry(Float32Array.from(kept), 0.001)!;
        const wanted = quatRotate(turn, [1, 0, 0]);
        expect(Math.abs(dot(plane.normal, wanted))).toBeGreaterThan(0.99999);
        expect(Math.abs(plane.offset)).toBeCloseTo(Math.abs(dot(wanted, [0.3, -0.2, 0.1])), 4);
        expect(plane.share).toBeGreaterThan(0.6);
      }),
      { numRuns: 12 },
    );
  });

  it('is found in a dense body as in a plain one, whichever way it faces, and with an arm torn off', () => {
    const { polygonOffsets, corners } = human;
    const own = positionsOf(human);
    const wanted = planeOfSymmetry(points, 0.001)!;
    const turn = quatAbout(normalise([1, 2, -0.5]), 2.1);
    const denseBody = (isKept: (x: number) => boolean) => {
      const out: number[] = [];
      for (let polygon = 0; polygon + 1 < polygonOffsets.length; polygon++)
        for (let k = polygonOffsets[polygon]; k < polygonOffsets[polygon + 1]; k++)
          for (const share of [0.1, 0.3, 0.5, 0.7, 0.9]) {
            const next = k + 1 < polygonOffsets[polygon + 1] ? k + 1 : polygonOffsets[polygon];
            const place = [0, 1, 2].map(
              (axis) => own[corners[k] * 3 + axis] * (1 - share) + own[corners[next] * 3 + axis] * share,
            ) as unknown as Vec3;
            if (isKept(place[0])) out.push(...quatRotate(turn, place));
          }
      return Float32Array.from(out);
    };
    for (const isKept of [() => true, (x: number) => x < 0.6 * reach]) {
      const dense = denseBody(isKept);
      expect(dense.length / 3).toBeGreaterThan(100_000);
      const plane = planeOfSymmetry(dense, 0.001)!;
      expect(Math.abs(dot(plane.normal, quatRotate(turn, wanted.normal)))).toBeGreaterThan(0.99999);
      expect(plane.share).toBeGreaterThan(0.8);
    }
  });

  it('is found in a body that others made, and none is in a heap of points', () => {
    const plane = planeOfSymmetry(bodyPoints(human), 0.001 * 1.7)!;
    expect(plane.share).toBeGreaterThan(0.95);
    expect(Math.abs(plane.normal[0])).toBeGreaterThan(0.9999);
    const heap = Float32Array.from({ length: 3000 }, (_, i) => (Math.sin(i * 12.9898) * 43758.5453) % 1);
    expect(planeOfSymmetry(heap, 0.001)!.share).toBeLessThan(0.1);
    expect(planeOfSymmetry(new Float32Array(9), 0.001)).toBe(null);
  });
});

describe('twins by how faces hang together', () => {
  it('are those by place on an even body, each the other’s, and stay so where one side was sculpted', () => {
    const mesh = crew.meshes[crew.nodes[body].mesh];
    const plane = { normal: [1, 0, 0] as Vec3, offset: 0 };
    const near = mirrorTwins(bodyPoints(mesh), plane, 1e-4);
    const even = twinsByTopology(topologyOf(mesh).halfEdges, near);
    expect(even).toEqual(near);
    even.forEach((twin, point) => expect(even[twin]).toBe(point));
    const sculpted = bumped(crew).meshes[crew.nodes[body].mesh];
    const lost = mirrorTwins(bodyPoints(sculpted), plane, 1e-4);
    expect(lost.filter((twin) => twin < 0).length).toBeGreaterThan(100);
    expect(twinsByTopology(topologyOf(sculpted).halfEdges, lost)).toEqual(even);
  });
});

describe('what differs left and right', () => {
  const differences = (character: Character) =>
    audit(character, brief).filter(({ check }) => check === 'asymmetry');

  it.each(['deckhand-clean.glb', 'stoker.dae', 'heron.glb'])(
    '%s: nothing, and what stands on one side is not asked',
    (file) => {
      const found = asymmetryOf(castCharacter(file), 0.001);
      expect(found.plane!.share).toBeGreaterThan(0.99);
      expect(found.differences).toEqual([]);
    },
  );

  it('is told by limb with its points, wherever the figure stands, and one press makes it alike again', () => {
    const faulty = bumped(crew);
    const told = differences(faulty);
    expect(told.map(({ gravity }) => gravity)).toEqual(told.map(() => 'worth'));
    expect(told.some(({ message }) => message.includes('left arm'))).toBe(true);
    const turned = underSimilarity(faulty, {
      scale: 1,
      rotation: quatAbout([0, 1, 0], 0.7),
      translation: [0.2, 0, -0.4],
    });
    expect(asymmetryOf(turned, 0.001).differences.map(({ vertices }) => vertices.length)).toEqual(
      asymmetryOf(faulty, 0.001).differences.map(({ vertices }) => vertices.length),
    );
    const remedy = remedyById('match-sides')!;
    const from = (side: string) =>
      remedy.apply(faulty, remedy.params.cast({ node: body, from: side }), brief);
    for (const side of ['both', 'left', 'right']) expect(differences(from(side))).toEqual([]);
    // As the untouched side is: what it was.
    const before = positionsOf(crew.meshes[crew.nodes[body].mesh]);
    const after = positionsOf(from('right').meshes[crew.nodes[body].mesh]);
    const farthest = before.reduce((most, x, i) => Math.max(most, Math.abs(x - after[i])), 0);
    expect(farthest).toBeLessThan(1e-5);
    expect(() => remedy.apply(from('both'), remedy.params.cast({ node: body }), brief)).toThrow(
      /mirrors its twin already/,
    );
  });

  it('is not asked of what somebody said needs no twin, and clothes are for the eyes', () => {
    const torn = moved(crew, coat, (x, y, z) => [x, y, x > 0.1 && y > 0.9 && y < 1 ? z + 0.01 : z]);
    const told = differences(torn);
    expect(told.map(({ gravity }) => gravity)).toEqual(told.map(() => 'note'));
    expect(told.length).toBeGreaterThan(0);
    const mark = remedyById('mark-parts')!;
    const polygons = [{ node: coat, ids: [0] }];
    const waived = mark.apply(torn, mark.params.cast({ polygons, oneSided: true }), brief);
    expect(differences(waived)).toEqual([]);
  });
});

describe('loops across joints', () => {
  const crew = castCharacter('fine/deckhand-clean.glb');
  it('tell how far it is from each to the next: on a limb the longer of the two ways, wide between joints and narrow at them', () => {
    const { loops } = loopsAcrossJoints(crew).find(({ bone }) => crew.nodes[bone].name === 'leg_lower_lt')!;
    const ways = waysToNextLoop(crew).get(loops[0].node)!;
    loops.forEach(({ vertices, along }, i) => {
      const beside = [loops[i - 1], loops[i + 1]]
        .filter(Boolean)
        .map((other) => Math.abs(other.along - along));
      // A loop may be counted at the joint beside as well.
      expect(ways[vertices[0]]).toBeGreaterThanOrEqual(Math.max(...beside) - 1e-6);
      expect(new Set(vertices.map((vertex) => ways[vertex])).size).toBe(1);
    });
    const off = ways.filter((way) => way > 0);
    expect(off.length).toBeGreaterThan(200);
    expect(off.length).toBeLessThan(ways.length);
  });

  it('are counted at every elbow, knee and knuckle of the cast, alike on both sides', () => {
    const across = loopsAcrossJoints(crew);
    expect(across.length).toBe(28);
    const count = new Map(across.map(({ bone, loops }) => [crew.nodes[bone].name, loops.length]));
    for (const [name, loops] of count)
      expect([name, count.get(name.replace('_lt', '_rt'))]).toEqual([name, loops]);
  });

  /** The mesh without every other loop across a joint: the two rings of quads beside each become one. */
  function withoutEveryOther(character: Character, name: string): Character {
    const { loops } = loopsAcrossJoints(character).find(({ bone }) => character.nodes[bone].name === name)!;
    const { node: shows } = loops[0];
    const index = character.nodes[shows].mesh;
    const mesh = character.meshes[index];
    const { pointOfVertex } = pointsOf(mesh);
    const { twin, next, polygon, origin } = topologyOf(mesh).halfEdges;
    const gone = new Set(
      loops
        .filter((_, i) => i % 2 === 1)
        .flatMap(({ vertices }) => vertices.map((vertex) => pointOfVertex[vertex])),
    );
    const goneFaces = new Uint8Array(mesh.polygonOffsets.length - 1);
    const added: { piece: number; corners: number[] }[] = [];
    for (let half = 0; half < twin.length; half++) {
      if (twin[half] < half || !gone.has(origin[half]) || !gone.has(origin[next[half]])) continue;
      // The edge between two quads goes: what is left of them are their four other corners.
      const [one, other] = [half, twin[half]];
      const corner = (at: number) => mesh.corners[at];
      const quad = [next[next[one]], next[next[next[one]]], next[next[other]], next[next[next[other]]]].map(
        corner,
      );
      goneFaces[polygon[one]] = 1;
      goneFaces[polygon[other]] = 1;
      added.push({
        piece: mesh.pieces.findIndex(
          ({ polygonStart, polygonCount }) =>
            polygon[one] >= polygonStart && polygon[one] < polygonStart + polygonCount,
        ),
        corners: quad,
      });
    }
    const open = remadeMesh(mesh, { goneFaces, added });
    const left = remadeMesh(open, { goneVertices: looseVertices(open) });
    return { ...character, meshes: replaceAt(character.meshes, new Map([[index, left]])) };
  }

  it('a knee whose loops were taken out is told with how many are left, and nothing else is', () => {
    const told = (character: Character) =>
      audit(character, brief)
        .filter(({ check }) => check === 'loops-at-joints')
        .map(({ subject, measured }) => [subject.name, measured]);
    let faulty = crew;
    expect(told(faulty)).toEqual([]);
    for (let i = 0; i < 3; i++) faulty = withoutEveryOther(faulty, 'leg_lower_lt');
    const [[name, left], ...others] = told(faulty);
    expect(others).toEqual([]);
    expect(name).toBe('leg_lower_lt');
    expect(left).toBeGreaterThan(0);
    expect(left).toBeLessThan(3);
  });

  it('are held against what the brief wants, limb by limb, and lit with their edges', () => {
    const told = audit(crew, {
      ...brief,
      surface: { ...brief.surface, loopsAtLimbs: 9, loopsAtKnuckles: 0 },
    } as never).filter(({ check }) => check === 'loops-at-joints');
    expect(told.map(({ subject, measured }) => [subject.name, measured])).toEqual([
      ['hand_lt', 8],
      ['foot_lt', 8],
      ['hand_rt', 8],
      ['foot_rt', 8],
    ]);
    expect(told[0].elements.map(({ kind }) => kind)).toEqual(['bone', 'edge']);
  });
});
