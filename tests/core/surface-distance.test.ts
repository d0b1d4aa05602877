/** How far it is along a surface: planes, balls and tubes in closed form, the way along edges, and what may make no difference. */
import fc from 'fast-check';
import { type Mesh, positionsOf } from '@/core/character/model';
import { topologyOf } from '@/core/character/topology';
import { surfaceDistances } from '@/core/geometry/surface-distance';
import { shortestWay } from '@/core/geometry/surface-walk';
import { polygonsOf } from '@/core/rooms/surface/soundness';
import { meshFrom } from './support/build';
import { castCharacter } from './support/cast';

const distances = (mesh: Mesh, seeds: readonly number[], within?: number) =>
  surfaceDistances(polygonsOf(mesh), positionsOf(mesh), seeds, within);

/** A sheet of quads, or of the triangles that each makes, over a square of side 1. */
function sheet(count: number, lift: (x: number, y: number) => number[], isCut = false): Mesh {
  const points: number[][] = [];
  const faces: number[][] = [];
  for (let i = 0; i <= count; i++) for (let j = 0; j <= count; j++) points.push(lift(i / count, j / count));
  const at = (i: number, j: number) => i * (count + 1) + j;
  for (let i = 0; i < count; i++)
    for (let j = 0; j < count; j++) {
      const quad = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      if (isCut) faces.push([quad[0], quad[1], quad[2]], [quad[0], quad[2], quad[3]]);
      else faces.push(quad);
    }
  return meshFrom(points, faces);
}

describe('the distance along a surface', () => {
  it('of a plane is the straight one, within three parts in a hundred of it, whatever the diagonals', () => {
    for (const isCut of [false, true]) {
      const mesh = sheet(40, (x, y) => [x, y, 0], isCut);
      const found = distances(mesh, [0]);
      const points = positionsOf(mesh);
      found.forEach((far, point) => {
        const wanted = Math.hypot(points[point * 3], points[point * 3 + 1]);
        expect(far).toBeGreaterThan(wanted - 1e-6);
        if (wanted > 0.1) expect(far / wanted).toBeLessThan(isCut ? 1.05 : 1.03);
      });
    }
  });

  it('round a tube and over a ball is that of the closed form, not that through it', () => {
    // Three quarters of a tube of radius 1: from one edge to the other it is 3π / 2 round, and √2 straight.
    const tube = sheet(60, (x, y) => [Math.cos(1.5 * Math.PI * x), y, Math.sin(1.5 * Math.PI * x)]);
    const seeds = Array.from({ length: 61 }, (_, j) => j);
    const found = distances(tube, seeds);
    for (let j = 0; j <= 60; j++) expect(found[60 * 61 + j] / (1.5 * Math.PI)).toBeCloseTo(1, 2);
    const ball = sheet(48, (x, y) => {
      const [up, round] = [0.15 + 2.8 * x, Math.PI * y];
      return [Math.sin(up) * Math.cos(round), Math.cos(up), Math.sin(up) * Math.sin(round)];
    });
    const points = positionsOf(ball);
    const from = 10 * 49 + 24;
    distances(ball, [from]).forEach((far, point) => {
      const dot = [0, 1, 2].reduce((sum, k) => sum + points[from * 3 + k] * points[point * 3 + k], 0);
      const wanted = Math.acos(Math.max(-1, Math.min(1, dot)));
      // The half ball has an edge, which a way may have to go along.
      if (wanted > 0.2 && wanted < 1.2) expect(Math.abs(far / wanted - 1)).toBeLessThan(0.04);
    });
  });

  it('is never more than that along edges, nor less than the straight one; a front stops where it is asked to', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const [body] = clean.meshes;
    const { neighbours } = topologyOf(body);
    const { pointCount } = polygonsOf(body);
    const places = positionsOf(body);
    const found = distances(body, [17]);
    for (let point = 0; point < pointCount; point += 997) {
      if (found[point] === Infinity) continue;
      const way = shortestWay(neighbours, places, 17, point)!;
      const along = way.slice(1).reduce((sum, to, i) => sum + straight(places, way[i], to), 0);
      expect(found[point]).toBeLessThan(along + 1e-6);
      expect(found[point]).toBeGreaterThan(straight(places, 17, point) - 1e-6);
    }
    const near = distances(body, [17], 0.2);
    near.forEach((far, point) => expect(far).toBe(found[point] <= 0.2 ? found[point] : Infinity));
  });

  it('turns with the surface, grows with it, and of several seeds the nearest counts', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(0.25, 2, 64), (seed, size) => {
        const lift = (x: number, y: number) => [x, y, 0.2 * Math.sin(5 * x + seed) * y];
        const plain = sheet(9, lift);
        // By whole quarters and powers of two, so that rounding decides nothing.
        const moved = sheet(9, (x, y) => {
          const [px, py, pz] = lift(x, y).map(Math.fround);
          return [pz * size, -px * size, py * size];
        });
        const [one, other] = [seed % 100, (seed * 7) % 100];
        const before = distances(plain, [one, other]);
        distances(moved, [one, other]).forEach((far, point) =>
          expect(far / size).toBeCloseTo(before[point], 9),
        );
        const [alone, apart] = [distances(plain, [one]), distances(plain, [other])];
        before.forEach((far, point) => expect(far).toBeLessThan(Math.min(alone[point], apart[point]) + 0.02));
      }),
      { numRuns: 40 },
    );
  });
});

const straight = (places: ArrayLike<number>, one: number, other: number): number =>
  Math.hypot(...[0, 1, 2].map((k) => places[one * 3 + k] - places[other * 3 + k]));
