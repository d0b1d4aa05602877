/** Half-edges, points near a place and trees over triangles, against other people's libraries and plain counting. */
import fc from 'fast-check';
import { KDTree } from 'mnemonist';
import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { placedMeshes } from '@/core/character/measure';
import { positionsOf } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { BORDER, UNPAIRED, halfEdgesOf, neighboursOf, polygonsOfPoints } from '@/core/geometry/half-edges';
import { type Vec3, distance } from '@/core/geometry/matrix';
import { mirrorTwins, mirroredPlace } from '@/core/geometry/mirror';
import { PointTree } from '@/core/geometry/point-tree';
import { TriangleTree, triangleBoxes } from '@/core/geometry/triangle-tree';
import { trianglesOf } from '@/ui/worker/figure';
import { castCharacter } from './support/cast';
import { real } from './support/random';

const plain = (count: number) => Uint32Array.from({ length: count }, (_, i) => i);

/** A grid of quads closed round both ways, u × v: a torus, whose Euler characteristic is 0. */
function torus(u: number, v: number) {
  const corners: number[] = [];
  const offsets = [0];
  const at = (i: number, j: number) => (i % u) * v + (j % v);
  for (let i = 0; i < u; i++)
    for (let j = 0; j < v; j++) {
      corners.push(at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1));
      offsets.push(corners.length);
    }
  return { corners: Uint32Array.from(corners), offsets: Uint32Array.from(offsets), points: u * v };
}

describe('half-edges over welded points', () => {
  it('gives V − E + F = 0 for a torus, every half-edge with its twin and every point four neighbours', () => {
    for (const [u, v] of [
      [3, 3],
      [5, 4],
      [16, 9],
    ]) {
      const { corners, offsets, points } = torus(u, v);
      const mesh = halfEdgesOf(offsets, corners, plain(points), points);
      expect(points - mesh.faces.length + (offsets.length - 1)).toBe(0);
      expect([...mesh.twin].every((twin, h) => twin >= 0 && mesh.twin[twin] === h)).toBe(true);
      const { offsets: starts } = neighboursOf(mesh, points);
      expect([...plain(points)].every((p) => starts[p + 1] - starts[p] === 4)).toBe(true);
    }
  });

  it('tells borders from edges of three faces and from faces that are wound alike', () => {
    const of = (polygons: number[][]) => {
      const offsets = polygons.reduce<number[]>(
        (list, row) => [...list, list[list.length - 1] + row.length],
        [0],
      );
      return halfEdgesOf(Uint32Array.from(offsets), Uint32Array.from(polygons.flat()), plain(9), 9);
    };
    const two = of([
      [0, 1, 2],
      [1, 0, 3],
    ]);
    expect([two.twin[0], two.twin[3], two.twin[1]]).toEqual([3, 0, BORDER]);
    const alike = of([
      [0, 1, 2],
      [0, 1, 3],
    ]);
    expect([alike.twin[0], alike.twin[3]]).toEqual([UNPAIRED, UNPAIRED]);
    const crowded = of([
      [0, 1, 2],
      [1, 0, 3],
      [0, 1, 4],
    ]);
    expect([crowded.twin[0], crowded.twin[3], crowded.twin[6]]).toEqual([UNPAIRED, UNPAIRED, UNPAIRED]);
    expect(Math.max(...crowded.faces)).toBe(3);
  });

  it('agrees with plain counting for any polygons', () => {
    const polygons = fc.array(fc.array(fc.nat(11), { minLength: 3, maxLength: 6 }), { maxLength: 14 });
    fc.assert(
      fc.property(polygons, (rows) => {
        const offsets = Uint32Array.from([0, ...rows.map((_, i) => rows.slice(0, i + 1).flat().length)]);
        const corners = Uint32Array.from(rows.flat());
        const mesh = halfEdgesOf(offsets, corners, plain(12), 12);
        const counted = new Map<string, number>();
        const near = new Map<number, Set<number>>();
        for (const row of rows)
          row.forEach((a, i) => {
            const b = row[(i + 1) % row.length];
            const key = `${Math.min(a, b)} ${Math.max(a, b)}`;
            counted.set(key, (counted.get(key) ?? 0) + 1);
            if (a === b) return;
            near.set(a, (near.get(a) ?? new Set()).add(b));
            near.set(b, (near.get(b) ?? new Set()).add(a));
          });
        const told = new Map(
          [...mesh.faces].map((count, e) => [`${mesh.ends[e * 2]} ${mesh.ends[e * 2 + 1]}`, count]),
        );
        expect(told).toEqual(counted);
        mesh.twin.forEach((twin, h) => {
          if (twin < 0) return;
          expect(mesh.twin[twin]).toBe(h);
          expect(mesh.origin[twin]).toBe(mesh.origin[mesh.next[h]]);
        });
        const { offsets: starts, neighbours } = neighboursOf(mesh, 12);
        const round = polygonsOfPoints(offsets, corners, plain(12), 12);
        for (let p = 0; p < 12; p++) {
          expect([...neighbours.subarray(starts[p], starts[p + 1])]).toEqual(
            [...(near.get(p) ?? [])].sort((a, b) => a - b),
          );
          const having = rows.flatMap((row, i) => (row.includes(p) ? [i] : []));
          expect([...round.polygons.subarray(round.offsets[p], round.offsets[p + 1])]).toEqual(having);
        }
      }),
    );
  });

  it('finds a closed body where a seam splits its vertices', () => {
    for (const { mesh } of placedMeshes(castCharacter('deckhand-clean.glb'))) {
      const { pointOfVertex, pointCount } = pointsOf(mesh);
      const { faces, twin } = halfEdgesOf(mesh.polygonOffsets, mesh.corners, pointOfVertex, pointCount);
      expect([...faces].every((count) => count <= 2)).toBe(true);
      const alike = [...twin].filter((other) => other === UNPAIRED).length;
      expect([mesh.name, alike]).toEqual([mesh.name, 0]);
    }
  });
});

const cloud = fc.array(fc.tuple(real(-2, 2), real(-2, 2), real(-2, 2)), { minLength: 1, maxLength: 120 });

describe('points near a place', () => {
  it('finds the same nearest point as mnemonist, and all within a radius, for any cloud', () => {
    fc.assert(
      fc.property(
        cloud,
        fc.tuple(real(-3, 3), real(-3, 3), real(-3, 3)),
        real(0, 3),
        (points, at, radius) => {
          const tree = new PointTree(points.flat());
          const reference = KDTree.fromAxes(
            [0, 1, 2].map((k) => points.map((point) => point[k])),
            points.map((_, i) => i),
          );
          const far = (i: number) => Math.hypot(...points[i].map((x, k) => x - at[k]));
          expect(far(tree.nearest(at[0], at[1], at[2]))).toBeCloseTo(
            far(reference.nearestNeighbor([...at])),
            12,
          );
          const found: number[] = [];
          tree.within(at[0], at[1], at[2], radius, (point, squared) => {
            found.push(point);
            expect(Math.sqrt(squared)).toBeCloseTo(far(point), 12);
          });
          const squaredOf = (i: number) => points[i].reduce((sum, x, k) => sum + (x - at[k]) ** 2, 0);
          expect(found.sort((a, b) => a - b)).toEqual(
            points.flatMap((_, i) => (squaredOf(i) <= radius * radius ? [i] : [])),
          );
          expect(tree.nearest(at[0], at[1], at[2], radius) >= 0).toBe(found.length > 0);
        },
      ),
    );
  });

  it('finds every point itself, the lowest of those at one place, and never one that is not finite', () => {
    const places = Array.from({ length: 900 }, (_, i) => [i % 7, (i * 13) % 11, (i * 31) % 5]);
    places[400] = [Number.NaN, 0, 0];
    places[500] = [1e30, 0, 0];
    const tree = new PointTree(places.flat());
    const first = new Map<string, number>();
    places.forEach((place, i) => first.has(place.join()) || first.set(place.join(), i));
    places.forEach((place, i) => {
      if (i !== 400) expect(tree.nearest(place[0], place[1], place[2])).toBe(first.get(place.join()));
    });
    expect(tree.nearest(Number.NaN, 0, 0, 1)).toBe(-1);
    expect(new PointTree([]).nearest(0, 0, 0)).toBe(-1);
  });

  it('maps the clean body onto its mirror image, and back', () => {
    const [{ points }] = placedMeshes(castCharacter('deckhand-clean.glb'));
    const twins = mirrorTwins(points, { normal: [1, 0, 0], offset: 0 }, 1e-4);
    const paired = [...twins].filter((twin) => twin >= 0);
    expect(paired.length).toBeGreaterThan(0.9 * twins.length);
    let worst = 0;
    twins.forEach((twin, p) => {
      if (twin < 0) return;
      const back = twins[twin] * 3;
      worst = Math.max(worst, Math.abs(points[twin * 3] + points[p * 3]));
      for (let k = 0; k < 3; k++) worst = Math.max(worst, Math.abs(points[back + k] - points[p * 3 + k]));
    });
    expect(worst).toBeLessThan(1e-4);
  });

  it('finds in any plane what comparing all with all finds, the lowest of those at one place', () => {
    // Few places, so that many points share one.
    const cell = fc.integer({ min: -2, max: 2 }).map((x) => x / 8);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(cell, cell, cell), { minLength: 1, maxLength: 60 }),
        fc.constantFrom([1, 0, 0], [0, 0, -1], [0.6, 0.8, 0], [0.48, -0.6, 0.64]),
        cell,
        fc.constantFrom(0.05, 0.21, 0.9),
        (places, normal, offset, within) => {
          const plane = { normal: normal as unknown as Vec3, offset };
          const points = Float32Array.from(places.flat());
          mirrorTwins(points, plane, within).forEach((twin, i) => {
            const image = mirroredPlace(plane, places[i]);
            const far = places.map((place) => distance(image, place));
            const least = Math.min(...far);
            // What lies on the very edge of the distance may go either way.
            if (Math.abs(least - within) < 1e-9) return;
            expect(twin >= 0).toBe(least < within);
            if (twin < 0) return;
            expect(far[twin]).toBeCloseTo(least, 9);
            expect(places.findIndex((place) => place.join() === places[twin].join())).toBe(twin);
          });
        },
      ),
    );
    expect([...mirrorTwins(new Float32Array(6), { normal: [1, 0, 0], offset: 0 }, 0)]).toEqual([-1, -1]);
  });
});

/** Triangles between points of a cloud, and the same for three-mesh-bvh. */
function soup(points: number[][], rows: number[][]) {
  const positions = Float32Array.from(points.flat());
  const triangles = Uint32Array.from(rows.flat().map((i) => i % points.length));
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setIndex(new BufferAttribute(triangles, 1));
  return {
    tree: new TriangleTree(positions, triangles),
    reference: new MeshBVH(geometry, { indirect: true }),
  };
}

const rows = fc.array(fc.tuple(fc.nat(200), fc.nat(200), fc.nat(200)), { minLength: 1, maxLength: 60 });

describe('a tree over triangles, against three-mesh-bvh', () => {
  it('finds as close a place of the surface, for any triangles', () => {
    fc.assert(
      fc.property(cloud, rows, fc.tuple(real(-4, 4), real(-4, 4), real(-4, 4)), (points, triangles, at) => {
        const { tree, reference } = soup(points, triangles);
        const found = tree.closestPoint(at[0], at[1], at[2]);
        const wanted = reference.closestPointToPoint(new Vector3(...at));
        expect(found?.distance).toBeCloseTo(wanted?.distance ?? Number.NaN, 5);
        // The weights of the corners give the very place.
        const corners = [0, 1, 2].map((k) => tree.triangles[(found?.triangle ?? 0) * 3 + k] * 3);
        for (let k = 0; k < 3; k++)
          expect(
            corners.reduce((sum, corner, c) => sum + tree.points[corner + k] * (found?.corners[c] ?? 0), 0),
          ).toBeCloseTo(found?.point[k] ?? Number.NaN, 5);
      }),
    );
  });

  it('tells every triangle within a radius, and no other', () => {
    fc.assert(
      fc.property(
        cloud,
        rows,
        fc.tuple(real(-4, 4), real(-4, 4), real(-4, 4)),
        real(0, 4),
        (points, all, at, r) => {
          const { tree } = soup(points, all);
          const found = new Set<number>();
          tree.within(at[0], at[1], at[2], r, (triangle) => found.add(triangle));
          all.forEach((row, i) => {
            const alone = soup(points, [row]).tree.closestPoint(at[0], at[1], at[2]);
            if (Math.abs((alone?.distance ?? 0) - r) > 1e-9)
              expect(found.has(i)).toBe((alone?.distance ?? 0) < r);
          });
        },
      ),
      { numRuns: 40 },
    );
  });

  it('meets what a ray meets first, from either side', () => {
    let met = 0;
    fc.assert(
      fc.property(
        cloud,
        rows,
        fc.tuple(real(-1, 1), real(-1, 1), real(-1, 1)),
        (points, triangles, towards) => {
          const { tree, reference } = soup(points, triangles);
          const from = [4, 3, -5];
          const direction = new Vector3(...towards).sub(new Vector3(...from)).normalize();
          const found = tree.firstHit(from, direction.toArray());
          const wanted = reference.raycastFirst(new Ray(new Vector3(...from), direction), DoubleSide);
          // Along an edge or a flat triangle one may meet it and the other not.
          if (!found || !wanted) return;
          met++;
          expect(found.distance).toBeCloseTo(wanted.distance, 4);
          expect(tree.allHits(from, direction.toArray())[0]).toEqual(found);
        },
      ),
    );
    expect(met).toBeGreaterThan(20);
  });

  it('finds the same on the demo body, before and after its points have moved', () => {
    const [{ mesh }] = placedMeshes(castCharacter('deckhand-clean.glb'));
    const points = positionsOf(mesh).slice();
    const triangles = trianglesOf(mesh);
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(points, 3));
    geometry.setIndex(new BufferAttribute(triangles, 1));
    const tree = new TriangleTree(points, triangles);
    const agree = () => {
      const reference = new MeshBVH(geometry, { indirect: true });
      for (let i = 0; i < 300; i++) {
        const at = new Vector3(Math.sin(i * 1.7), 1 + Math.sin(i * 2.3), Math.sin(i * 3.1));
        const wanted = reference.closestPointToPoint(at);
        expect(tree.closestPoint(at.x, at.y, at.z)?.distance).toBeCloseTo(wanted?.distance ?? Number.NaN, 5);
        const direction = new Vector3(0, 1, 0).sub(at).normalize();
        const hit = reference.raycastFirst(new Ray(at, direction), DoubleSide);
        const found = tree.firstHit(at.toArray(), direction.toArray());
        expect(found?.distance ?? -1).toBeCloseTo(hit?.distance ?? -1, 4);
      }
    };
    agree();
    for (let i = 0; i < points.length; i += 3) points[i + 1] += 0.3 * Math.sin(points[i] * 4);
    tree.refit();
    agree();
  });

  it('holds triangles that lie on each other, on a line or nowhere', () => {
    const same = Array.from({ length: 500 }, () => [0, 1, 2]).flat();
    const tree = new TriangleTree([0, 0, 0, 1, 0, 0, 0, 1, 0], Uint32Array.from(same));
    expect(tree.closestPoint(0.2, 0.2, 3)?.distance).toBeCloseTo(3, 12);
    const line = new TriangleTree([0, 0, 0, 1, 0, 0, 2, 0, 0], Uint32Array.of(0, 1, 2));
    expect(line.closestPoint(1.5, 2, 0)?.distance).toBeCloseTo(2, 12);
    const none = new TriangleTree([], new Uint32Array(0));
    expect([none.closestPoint(0, 0, 0), none.firstHit([0, 0, 0], [0, 0, 1])]).toEqual([null, null]);
    // Ever closer pairs of triangles: the middle of the box alone would cut one off at a time.
    const places = Array.from({ length: 240 }, (_, i) => [
      2 ** -(i / 2),
      0,
      0,
      2 ** -(i / 2),
      1e-30,
      0,
      2 ** -(i / 2),
      0,
      1e-30,
    ]);
    const deep = triangleBoxes(places.flat(), plain(720));
    expect(deep.order.length).toBe(240);
    expect(new TriangleTree(places.flat(), plain(720), deep).closestPoint(2 ** -50, 0, 0)?.triangle).toBe(
      100,
    );
  });
});
