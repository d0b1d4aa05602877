/** What lies together: cuts that were never merged, surfaces that lie on each other, and seams whose sides go with different bones. */
import { remadeMesh } from '@/core/character/remake-mesh';
import { placePositions } from '@/core/character/deform';
import { restWorld } from '@/core/character/hierarchy';
import { type Character, positionsOf } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { entriesOf, influencesFrom } from '@/core/geometry/influences';
import { composeMatrix, quatAbout } from '@/core/geometry/matrix';
import { audit } from '@/core/house/audit';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { coincidentGroups } from '@/core/rooms/surface/coincident';
import { mergeFigures } from '@/core/rooms/surface/figures';
import { tornSeams } from '@/core/rooms/weights/seams';
import { characterOf, meshFrom } from './support/build';
import { chainTube } from './support/chain';

const brief = briefById('handset')!;
const SIDE = 6;

/** Sheets of quads, each at its height over the ones before and moved along x. */
const sheets = (...places: readonly (readonly [x: number, y: number])[]) => {
  const points = places.flatMap(([x, y]) =>
    Array.from({ length: SIDE * SIDE }, (_, i) => [x + (i % SIDE), y, -Math.floor(i / SIDE)]),
  );
  const faces = places.flatMap((_, sheet) =>
    Array.from({ length: (SIDE - 1) ** 2 }, (_unused, i) => {
      const at = sheet * SIDE * SIDE + Math.floor(i / (SIDE - 1)) * SIDE + (i % (SIDE - 1));
      return [at, at + 1, at + SIDE + 1, at + SIDE];
    }),
  );
  return characterOf(meshFrom(points, faces));
};

describe('points that lie together', () => {
  const NEAR = 5e-5;
  it('leaves the ends of a short edge two points: it is modelled so', () => {
    const short = meshFrom([[0, 0, 0], [0.00005, 0, 0], [0.01, 1, 0], [0, 1, 0]], [[0, 1, 2, 3]]); // prettier-ignore
    expect(coincidentGroups(short, 1e-4)).toMatchObject({ points: 0, together: 0, apart: 0 });
    const cut = meshFrom([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0.00005, 0, 0], [0, -1, 0], [1, 0.00005, 0]], [[0, 1, 2], [3, 4, 5]]); // prettier-ignore
    expect(coincidentGroups(cut, 1e-4)).toMatchObject({ points: 2, together: 4 });
  });

  it('of a cut are merged along it: both sides end there', () => {
    const cut = sheets([0, 0], [SIDE - 1 + NEAR, 0]);
    expect(coincidentGroups(cut.meshes[0], 1e-4)).toMatchObject({
      points: SIDE,
      together: 2 * SIDE,
      apart: 0,
    });
    const remedy = remedyById('merge-points')!;
    const merged = remedy.apply(cut, remedy.params.cast({ node: 0, distance: 1e-4 }), brief);
    expect(pointsOf(merged.meshes[0]).pointCount).toBe(2 * SIDE * SIDE - SIDE);
    expect(coincidentGroups(merged.meshes[0], 1e-4).points).toBe(0);
  });

  it('of two sheets on each other stay apart but at their rims, and are merged where it is said', () => {
    const layers = sheets([0, 0], [0, NEAR]);
    const inner = (SIDE - 2) ** 2;
    expect(coincidentGroups(layers.meshes[0], 1e-4)).toMatchObject({
      points: SIDE * SIDE - inner,
      apart: inner,
    });
    expect(coincidentGroups(layers.meshes[0], 1e-4, true)).toMatchObject({ points: SIDE * SIDE, apart: 0 });
    // Facing away from each other, as lips do, they are never merged.
    const [mesh] = layers.meshes;
    const turned = mesh.corners.slice();
    for (let face = (SIDE - 1) ** 2; face < 2 * (SIDE - 1) ** 2; face++)
      turned.subarray(mesh.polygonOffsets[face] + 1, mesh.polygonOffsets[face + 1]).reverse();
    expect(coincidentGroups({ ...mesh, corners: turned }, 1e-4, true).points).toBe(0);
  });

  it('are told by mesh and part for any distance', () => {
    const cut = sheets([0, 0], [SIDE - 1 + NEAR, 0]);
    expect(mergeFigures(cut, 1e-5)).toEqual([]);
    expect(mergeFigures(cut, 1e-4)).toMatchObject([{ points: SIDE, partCount: 2, apart: 0 }]);
  });
});

describe('seams', () => {
  /** A tube with a seam round its middle, whose upper side goes with the next bone. */
  function tornTube(): Character {
    const tube = chainTube(2, 5, 8);
    const [mesh] = tube.meshes;
    const ring = 16;
    const cornerOn = new Map<number, number>();
    for (let polygon = 16; polygon < 24; polygon++)
      for (let k = mesh.polygonOffsets[polygon]; k < mesh.polygonOffsets[polygon + 1]; k++) {
        const vertex = mesh.corners[k];
        if (vertex >= ring && vertex < ring + 8) cornerOn.set(k, mesh.vertexCount + vertex - ring);
      }
    const split = remadeMesh(mesh, { copies: Array.from({ length: 8 }, (_, k) => ring + k), cornerOn });
    const rows = Array.from({ length: split.vertexCount }, (_, vertex): [number, number][] =>
      vertex < mesh.vertexCount
        ? entriesOf(split.influences!, vertex).map(({ joint, weight }) => [joint, weight])
        : [[1, 1]],
    );
    return { ...tube, meshes: [{ ...split, influences: influencesFrom(rows) }] };
  }

  /** How far apart the vertices of one point come where the upper bone is turned by a right angle. */
  function gapWhenBent(character: Character): number {
    const [mesh] = character.meshes;
    const world = restWorld(character.nodes).slice();
    world.set(composeMatrix([0, 1, 0], quatAbout([1, 0, 0], Math.PI / 2), [1, 1, 1]), 16);
    const shown = character.nodes.findIndex(({ mesh: own }) => own >= 0);
    const places = placePositions(positionsOf(mesh), mesh.influences, character.skins[0], shown, world);
    const { pointOfVertex, vertexOfPoint } = pointsOf(mesh);
    let most = 0;
    pointOfVertex.forEach((point, vertex) => {
      const first = vertexOfPoint[point];
      most = Math.max(
        most,
        Math.hypot(...[0, 1, 2].map((k) => places[vertex * 3 + k] - places[first * 3 + k])),
      );
    });
    return most;
  }

  it('that would tear are told with their points and closed in one press: nothing opens when it bends', () => {
    const torn = tornTube();
    expect(tornSeams(torn.meshes[0])).toMatchObject({ points: 8 });
    expect(gapWhenBent(torn)).toBeGreaterThan(0.05);
    const [finding] = audit(torn, brief).filter(({ check }) => check === 'torn-seams');
    expect([finding.gravity, finding.count, finding.elements[0].ids.length]).toEqual(['stops', 8, 16]);
    const { id, params } = finding.remedies[0];
    const closed = remedyById(id)!.apply(torn, params, brief);
    expect(tornSeams(closed.meshes[0])).toMatchObject({ points: 0, most: 0 });
    expect(gapWhenBent(closed)).toBeLessThan(1e-9);
    for (let vertex = 0; vertex < closed.meshes[0].vertexCount; vertex++)
      expect(
        entriesOf(closed.meshes[0].influences!, vertex).reduce((sum, { weight }) => sum + weight, 0),
      ).toBeCloseTo(1, 6);
    expect(() => remedyById(id)!.apply(closed, params, brief)).toThrow(/no seam tears/);
  });
});
