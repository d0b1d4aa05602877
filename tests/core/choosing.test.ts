/** From a choice to more of it: on a grid and a ring in closed form, against Dijkstra by brute force, and over seams. */
import fc from 'fast-check';
import { type Character, type ElementsOf, type Mesh, positionsOf } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { topologyOf } from '@/core/character/topology';
import { shortestWay } from '@/core/geometry/surface-walk';
import { type ChoiceStep, type ChosenElements, afterChoiceStep } from '@/core/rooms/surface/choosing';
import { characterOf, meshFrom } from './support/build';
import { castCharacter } from './support/cast';

const WIDE = 7;
const HIGH = 5;
const at = (x: number, y: number) => y * WIDE + x;

/** A grid of quads, alike about its middle column. */
const grid = characterOf(
  meshFrom(
    Array.from({ length: WIDE * HIGH }, (_, i) => [(i % WIDE) - 3, Math.floor(i / WIDE), 0]),
    Array.from({ length: (WIDE - 1) * (HIGH - 1) }, (_, i) => {
      const [x, y] = [i % (WIDE - 1), Math.floor(i / (WIDE - 1))];
      return [at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y + 1)];
    }),
  ),
);

/** A ring of 8 by 6 quads, closed both ways. */
const AROUND = 8;
const ROWS = 6;
const onRing = (row: number, k: number) => (row % ROWS) * AROUND + (k % AROUND);
const ring = characterOf(
  meshFrom(
    Array.from({ length: AROUND * ROWS }, (_, i) => {
      const [a, b] = [((i % AROUND) / AROUND) * 2 * Math.PI, (Math.floor(i / AROUND) / ROWS) * 2 * Math.PI];
      const out = 2 + 0.5 * Math.cos(b);
      return [out * Math.cos(a), 0.5 * Math.sin(b), out * Math.sin(a)];
    }),
    Array.from({ length: AROUND * ROWS }, (_, i) => {
      const [k, row] = [i % AROUND, Math.floor(i / AROUND)];
      return [onRing(row, k), onRing(row + 1, k), onRing(row + 1, k + 1), onRing(row, k + 1)];
    }),
  ),
);

const nothing: ChosenElements = { vertices: [], polygons: [] };
const ids = (list: readonly ElementsOf[]) => list.flatMap((held) => [...held.ids]);
const points = (character: Character, chosen: readonly number[], step: ChoiceStep) => {
  const made = afterChoiceStep(
    character,
    { ...nothing, vertices: [{ node: 0, ids: Uint32Array.from(chosen) }] },
    step,
  );
  return typeof made === 'string' ? made : ids(made.vertices);
};
const polygons = (character: Character, chosen: readonly number[], step: ChoiceStep) => {
  const made = afterChoiceStep(
    character,
    { ...nothing, polygons: [{ node: 0, ids: Uint32Array.from(chosen) }] },
    step,
  );
  return typeof made === 'string' ? made : ids(made.polygons);
};

describe('from a choice of points', () => {
  it('grows to the neighbours, and shrinks back to what it was', () => {
    const plus = [at(3, 1), at(2, 2), at(3, 2), at(4, 2), at(3, 3)];
    expect(points(grid, [at(3, 2)], 'grow')).toEqual(plus.sort((a, b) => a - b));
    expect(points(grid, plus, 'shrink')).toEqual([at(3, 2)]);
    expect(points(grid, [at(3, 2)], 'shrink')).toMatch(/nothing would be left/);
  });

  it('goes on along a loop round a ring, both ways, and says why where it cannot', () => {
    expect(points(ring, [onRing(2, 0), onRing(2, 1)], 'loop')).toEqual(
      Array.from({ length: AROUND }, (_, k) => onRing(2, k)),
    );
    const across = points(ring, [onRing(0, 3), onRing(1, 3)], 'loop');
    expect(across).toEqual(Array.from({ length: ROWS }, (_, row) => onRing(row, 3)));
    expect(points(ring, [onRing(2, 0)], 'loop')).toMatch(/two neighbouring points/);
  });

  it('takes the ring of edges side by side with one: all of a row and the next', () => {
    const both = [...Array(AROUND).keys()].flatMap((k) => [onRing(2, k), onRing(3, k)]).sort((a, b) => a - b);
    expect(points(ring, [onRing(2, 5), onRing(3, 5)], 'ring')).toEqual(both);
    // Open at both sides it ends there.
    const strip = [...Array(HIGH).keys()].flatMap((y) => [at(2, y), at(3, y)]).sort((a, b) => a - b);
    expect(points(grid, [at(2, 1), at(3, 1)], 'ring')).toEqual(strip);
  });

  it('takes the twins on the other side', () => {
    expect(points(grid, [at(1, 1), at(3, 2)], 'twins')).toEqual([at(1, 1), at(5, 1), at(3, 2)]);
  });

  it('inverts to the rest and back', () => {
    const rest = points(grid, [at(0, 0), at(1, 0)], 'invert') as number[];
    expect(rest).toHaveLength(WIDE * HIGH - 2);
    expect(points(grid, rest, 'invert')).toEqual([at(0, 0), at(1, 0)]);
  });

  it('becomes the polygons within, and those their points again', () => {
    const chosen = { ...nothing, vertices: [{ node: 0, ids: Uint32Array.from([0, 1, 2, 7, 8, 9, 3]) }] };
    const within = afterChoiceStep(grid, chosen, 'polygons') as ChosenElements;
    expect(ids(within.polygons)).toEqual([0, 1]);
    expect(ids((afterChoiceStep(grid, within, 'points') as ChosenElements).vertices)).toEqual([
      0, 1, 2, 7, 8, 9,
    ]);
  });
});

describe('from a choice of polygons', () => {
  it('grows by what touches it, shrinks by its rim', () => {
    const block = [7, 8, 9, 13, 14, 15];
    expect(polygons(grid, [8], 'grow')).toEqual([1, 2, 3, 7, 8, 9, 13, 14, 15]);
    expect(polygons(grid, [1, 2, 3, ...block], 'shrink')).toEqual([2, 8]);
  });
  it('goes on along a row of quads from two that lie beside each other', () => {
    const row = polygons(ring, [0, 1], 'loop');
    expect(row).toEqual([...Array(AROUND).keys()]);
  });
  it('becomes the whole part', () => {
    const body = castCharacter('fine/deckhand-clean.glb');
    const node = body.nodes.findIndex(({ name }) => name === 'boots');
    const made = afterChoiceStep(
      body,
      { ...nothing, polygons: [{ node, ids: Uint32Array.of(5) }] },
      'part',
    ) as ChosenElements;
    expect(ids(made.polygons)).toHaveLength(2432);
  });
});

describe('over a body with seams', () => {
  const crew = castCharacter('fine/deckhand-clean.glb');
  const node = crew.nodes.findIndex(({ name }) => name === 'body');
  const mesh = crew.meshes[crew.nodes[node].mesh];
  const { pointOfVertex, pointCount } = pointsOf(mesh);
  const { neighbours } = topologyOf(mesh);

  it('no step ever parts the vertices of one point', () => {
    const isWhole = (vertices: readonly number[]) => {
      const points = new Set(vertices.map((vertex) => pointOfVertex[vertex]));
      let all = 0;
      for (const point of pointOfVertex) if (points.has(point)) all++;
      return all === vertices.length;
    };
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: mesh.vertexCount - 1 }),
        fc.array(fc.constantFrom<ChoiceStep>('grow', 'shrink', 'invert', 'twins', 'part'), {
          minLength: 1,
          maxLength: 4,
        }),
        (vertex, steps) => {
          let chosen: ChosenElements = { ...nothing, vertices: [{ node, ids: Uint32Array.of(vertex) }] };
          for (const step of steps) {
            const made = afterChoiceStep(crew, chosen, step);
            if (typeof made === 'string') return;
            chosen = made;
            expect(isWhole(ids(chosen.vertices))).toBe(true);
          }
        },
      ),
      { numRuns: 20 },
    );
  });

  it('the shortest way is no longer than any, and each step is an edge', () => {
    const own = placesOfPoints(mesh, pointCount);
    const apart = (a: number, b: number) =>
      Math.hypot(...[0, 1, 2].map((k) => own[a * 3 + k] - own[b * 3 + k]));
    for (const [from, to] of [
      [10, 400],
      [1000, 1200],
      [77, 9000],
    ]) {
      const way = shortestWay(neighbours, own, from, to)!;
      expect([way[0], way[way.length - 1]]).toEqual([from, to]);
      let length = 0;
      for (let i = 1; i < way.length; i++) {
        const { offsets, neighbours: list } = neighbours;
        expect([...list.subarray(offsets[way[i - 1]], offsets[way[i - 1] + 1])]).toContain(way[i]);
        length += apart(way[i - 1], way[i]);
      }
      expect(length).toBeCloseTo(bellmanFord(neighbours, own, from)[to], 6);
    }
    const [, eye] = [0, pointOfVertex[mesh.vertexCount - 1]];
    expect(shortestWay(neighbours, own, 10, eye)).toBe(null);
  });
});

const placesOfPoints = (mesh: Mesh, count: number): Float32Array => {
  const { vertexOfPoint } = pointsOf(mesh);
  const own = positionsOf(mesh);
  return Float32Array.from(
    { length: count * 3 },
    (_, i) => own[vertexOfPoint[Math.floor(i / 3)] * 3 + (i % 3)],
  );
};

/** The reference: every edge relaxed until none gets shorter. */
function bellmanFord(
  { offsets, neighbours }: { offsets: Uint32Array; neighbours: Uint32Array },
  places: Float32Array,
  from: number,
): Float64Array {
  const out = new Float64Array(offsets.length - 1).fill(Infinity);
  out[from] = 0;
  for (let isShorter = true; isShorter;) {
    isShorter = false;
    for (let a = 0; a < out.length; a++)
      for (let k = offsets[a]; k < offsets[a + 1]; k++) {
        const b = neighbours[k];
        const way =
          out[a] + Math.hypot(...[0, 1, 2].map((axis) => places[a * 3 + axis] - places[b * 3 + axis]));
        if (way < out[b] - 1e-12) {
          out[b] = way;
          isShorter = true;
        }
      }
  }
  return out;
}
