/** A share of a character's points; a coarser mesh over the same vertices. */
import fc from 'fast-check';
import { sampleCharacter } from '@/core/character/sample';
import { placedMeshes } from '@/core/character/measure';
import { coarseTriangles } from '@/core/geometry/coarse';
import { castCharacter } from './support/cast';

const deckhand = castCharacter('deckhand-clean.glb');
const countOf = (character: typeof deckhand) =>
  character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);

describe('a share of the points', () => {
  it('is about as large as was asked for, and every joint that moves anything moves something of it', () => {
    for (const inAll of [500, 2000, 8000]) {
      const { character } = sampleCharacter(deckhand, { inAll });
      const joints = new Set(deckhand.skins.flatMap((skin) => skin.joints)).size;
      expect(countOf(character)).toBeGreaterThan(inAll * 0.5);
      expect(countOf(character)).toBeLessThan(inAll + joints * 12 * deckhand.meshes.length);
      const moved = (character: typeof deckhand) =>
        character.meshes.map(
          (mesh) =>
            new Set(
              Array.from(mesh.influences?.joint ?? []).filter((_, k) => mesh.influences!.weight[k] > 0),
            ),
        );
      expect(moved(character)).toEqual(moved(deckhand));
    }
  });
  it('has the places and weights of the vertices that it says it is of', () => {
    fc.assert(
      fc.property(fc.integer({ min: 50, max: 5000 }), (ofMesh) => {
        const { character, vertices } = sampleCharacter(deckhand, { ofMesh });
        const whole = new Map(placedMeshes(deckhand).map((placed) => [placed.node, placed.points]));
        for (const { node, points, mesh } of placedMeshes(character)) {
          const at = vertices[character.nodes[node].mesh];
          expect([mesh.vertexCount, points.length]).toEqual([at.length, at.length * 3]);
          const far = Array.from(at).reduce(
            (most, vertex, i) =>
              Math.max(
                most,
                ...[0, 1, 2].map((k) => Math.abs(points[i * 3 + k] - whole.get(node)![vertex * 3 + k])),
              ),
            0,
          );
          expect(far).toBeLessThan(1e-6);
        }
      }),
      { numRuns: 20 },
    );
  });
  it('of fewer points than that is all of them, in their order', () => {
    const { vertices } = sampleCharacter(deckhand, { inAll: 1e9 });
    vertices.forEach((list, index) =>
      expect([...list]).toEqual(
        Array.from({ length: deckhand.meshes[index].vertexCount }, (_, value) => value),
      ),
    );
  });
});

describe('a coarser mesh', () => {
  /** A flat sheet of n by n squares with an edge of 1. */
  const sheet = (n: number) => {
    const points = new Float32Array((n + 1) ** 2 * 3);
    for (let i = 0; i <= n; i++)
      for (let k = 0; k <= n; k++) points.set([i / n, k / n, 0], (i * (n + 1) + k) * 3);
    const triangles: number[] = [];
    for (let i = 0; i < n; i++)
      for (let k = 0; k < n; k++) {
        const a = i * (n + 1) + k;
        triangles.push(a, a + n + 1, a + 1, a + 1, a + n + 1, a + n + 2);
      }
    return { points, triangles: Uint32Array.from(triangles) };
  };
  it('of cells twice as wide has about a quarter of the triangles, and covers nearly the same', () => {
    const { points, triangles } = sheet(64);
    const coarse = coarseTriangles(points, triangles, 2.001 / 64);
    expect(coarse.length / triangles.length).toBeGreaterThan(0.2);
    expect(coarse.length / triangles.length).toBeLessThan(0.3);
    let area = 0;
    for (let triangle = 0; triangle < coarse.length; triangle += 3) {
      const [a, b, c] = [coarse[triangle] * 3, coarse[triangle + 1] * 3, coarse[triangle + 2] * 3];
      area +=
        ((points[b] - points[a]) * (points[c + 1] - points[a + 1]) -
          (points[c] - points[a]) * (points[b + 1] - points[a + 1])) /
        2;
    }
    expect(area).toBeGreaterThan(0.9);
  });
  it('has only vertices of the mesh, no triangle without area, and is the mesh itself where cells are small', () => {
    const { points, triangles } = sheet(12);
    fc.assert(
      fc.property(fc.double({ min: 0.01, max: 2, noNaN: true }), (cell) => {
        const coarse = coarseTriangles(points, triangles, cell);
        for (let triangle = 0; triangle < coarse.length; triangle += 3)
          expect(new Set([coarse[triangle], coarse[triangle + 1], coarse[triangle + 2]]).size).toBe(3);
        expect(Math.max(0, ...coarse)).toBeLessThan(points.length / 3);
      }),
    );
    expect(coarseTriangles(points, triangles, 0.01)).toEqual(triangles);
  });
});
