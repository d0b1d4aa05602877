/**
 * Binding and copying. Solvers against a dense solve (ml-matrix) and closed forms; heat on a rod against its differential equation;
 * copies against what they are copied from.
 */
import fc from 'fast-check';
import { Matrix, solve as solveDense } from 'ml-matrix';
import { placedMeshes } from '@/core/character/measure';
import { type Character, node } from '@/core/character/model';
import { brokenInvariants } from '@/core/character/invariants';
import { pointsOf } from '@/core/character/points';
import { closestPlaces } from '@/core/geometry/closest-places';
import { SmoothFill, bendingEnergy } from '@/core/geometry/fill-smoothly';
import { bonesInSight, heatWeights } from '@/core/geometry/heat-weights';
import { type SparseSymmetric, surfaceLaplacian } from '@/core/geometry/laplacian';
import { SparseCholesky, factorised, nestedDissection } from '@/core/geometry/sparse-cholesky';
import { TriangleTree } from '@/core/geometry/triangle-tree';
import { fanned } from '@/core/geometry/fan';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { bindMeshes, lookAtBinding } from '@/core/rooms/weights/binding';
import { bindingBones, boneSegments } from '@/core/rooms/weights/bone-segments';
import { FILLED, FOUND, copiedRows } from '@/core/rooms/weights/copying';
import { rowsOfMesh, stepBetween } from '@/core/rooms/weights/steps';
import { RemedyError } from '@/core/contracts/remedy';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { dice, seeds } from './support/random';
import { meshFrom } from './support/build';

const brief = briefById('handset')!;
const SETTINGS = { limit: 4, falloff: 8, method: 'heat', ways: new Map() } as const;
const done = (id: string, character: Character, params: object): Character => {
  const remedy = remedyById(id)!;
  return remedy.apply(character, remedy.params.validateSync(params) as Record<string, unknown>, brief);
};

/** A sparse matrix that is positive definite, about places in space. */
function randomSystem(seed: number) {
  const draw = dice(seed);
  const size = 3 + draw.below(60);
  const places = Float64Array.from({ length: size * 3 }, () => draw.between(-1, 1));
  const dense = Matrix.zeros(size, size);
  for (let i = 0; i < size; i++) dense.set(i, i, 0.5);
  for (let k = 0; k < size * 3; k++) {
    const [i, j] = [draw.below(size), draw.below(size)];
    if (i === j) continue;
    const value = draw.between(0.1, 2);
    dense.set(i, j, dense.get(i, j) - value);
    dense.set(j, i, dense.get(j, i) - value);
    dense.set(i, i, dense.get(i, i) + value);
    dense.set(j, j, dense.get(j, j) + value);
  }
  const offsets = new Uint32Array(size + 1);
  const columns: number[] = [];
  const values: number[] = [];
  for (let i = 0; i < size; i++) {
    for (let j = 0; j < size; j++)
      if (j !== i && dense.get(i, j) !== 0) {
        columns.push(j);
        values.push(dense.get(i, j));
      }
    offsets[i + 1] = columns.length;
  }
  const matrix: SparseSymmetric = {
    size,
    offsets,
    columns: Uint32Array.from(columns),
    values: Float64Array.from(values),
    diagonal: Float64Array.from({ length: size }, (_, i) => dense.get(i, i)),
  };
  return { matrix, dense, places, right: Float64Array.from({ length: size }, () => draw.between(-1, 1)) };
}

describe('the sparse solver', () => {
  it('solves as a dense one does (ml-matrix)', () => {
    fc.assert(
      fc.property(seeds, (seed) => {
        const { matrix, dense, places, right } = randomSystem(seed);
        const solved = factorised(matrix, places).solve(right);
        const wanted = solveDense(dense, Matrix.columnVector([...right]));
        solved.forEach((x, i) => expect(x).toBeCloseTo(wanted.get(i, 0), 8));
      }),
      { numRuns: 60 },
    );
  });
  it('takes every row once, and refuses what is not positive definite', () => {
    const { matrix, places } = randomSystem(5);
    expect([...nestedDissection(matrix, places)].sort((a, b) => a - b)).toEqual(
      Array.from({ length: matrix.size }, (_, i) => i),
    );
    const diagonal = matrix.diagonal.map((x) => -x);
    expect(() => new SparseCholesky({ ...matrix, diagonal }, nestedDissection(matrix, places))).toThrow(
      RangeError,
    );
  });
});

/** A flat grid of quads in the plane z = 0, n by n, a unit apart. */
function grid(n: number) {
  const points = Array.from({ length: n * n }, (_, i): [number, number, number] => [
    i % n,
    Math.floor(i / n),
    0,
  ]);
  const polygons = Array.from({ length: (n - 1) * (n - 1) }, (_, i) => {
    const at = Math.floor(i / (n - 1)) * n + (i % (n - 1));
    return [at, at + 1, at + n + 1, at + n];
  });
  return meshFrom(points, polygons);
}

describe('the Laplacian of a surface', () => {
  const mesh = grid(9);
  const { pointOfVertex } = pointsOf(mesh);
  const places = mesh.attributes.POSITION.data;
  const { stiffness, areas } = surfaceLaplacian(mesh.polygonOffsets, mesh.corners, pointOfVertex, places);
  it('has rows that sum to zero and areas that sum to the surface’s', () => {
    for (let row = 0; row < stiffness.size; row++) {
      let sum = stiffness.diagonal[row];
      for (let k = stiffness.offsets[row]; k < stiffness.offsets[row + 1]; k++) sum += stiffness.values[k];
      expect(sum).toBeCloseTo(0, 10);
    }
    expect(areas.reduce((sum, area) => sum + area, 0)).toBeCloseTo(64, 6);
  });
  it('fills in from a rim what is linear exactly (closed form)', () => {
    const linear = (row: number) => 0.3 + 0.07 * places[row * 3] - 0.05 * places[row * 3 + 1];
    // Two rings round are known: values and their slope.
    const isKnown = Uint8Array.from(areas, (_, row) => {
      const [x, y] = [places[row * 3], places[row * 3 + 1]];
      return Number(Math.min(x, y) < 2 || Math.max(x, y) > 6);
    });
    const list = Float64Array.from(areas, (_, row) => (isKnown[row] ? linear(row) : 9));
    new SmoothFill(bendingEnergy({ stiffness, areas }, 1), isKnown, places).fill(list);
    list.forEach((x, row) => expect(x).toBeCloseTo(linear(row), 8));
  });
});

describe('heat along a rod', () => {
  it('follows its equation: half at the joint, and e-fold over the radius (closed form)', () => {
    const radius = 0.1;
    const rod = chainTube(2, 161, 48, radius);
    const [mesh] = rod.meshes;
    const places = mesh.attributes.POSITION.data;
    const segments = boneSegments(rod, [0, 1], null).map((segment) =>
      segment.bone === 1 ? { ...segment, to: [0, 2, 0] as const } : segment,
    );
    const sight = bonesInSight(
      places,
      segments,
      new TriangleTree(places, fanned(mesh.polygonOffsets, mesh.corners)),
    );
    expect(new Set(sight.bone)).toEqual(new Set([0, 1]));
    const { pointOfVertex } = pointsOf(mesh);
    const surface = { offsets: mesh.polygonOffsets, corners: mesh.corners, pointOfVertex, places };
    const second = heatWeights(surface, sight)!.get(1)!;
    for (let row = 30; row <= 130; row++) {
      // w″ = (w − p) / r², p a step; the ring at the joint is the first bone's, so that it lies half a ring beyond.
      const along = (row * 2) / 160 - 1 - 1 / 160;
      const wanted = along < 0 ? 0.5 * Math.exp(along / radius) : 1 - 0.5 * Math.exp(-along / radius);
      expect(Math.abs(second[row * 48] - wanted)).toBeLessThan(0.01);
    }
  });
  it('bones that something hides are not seen', () => {
    const wall = meshFrom(
      [
        [1, -5, -5],
        [1, 5, -5],
        [1, 5, 5],
        [1, -5, 5],
      ],
      [[0, 1, 2, 3]],
    );
    const tree = new TriangleTree(wall.attributes.POSITION.data, fanned(wall.polygonOffsets, wall.corners));
    const segments = [
      { bone: 0, from: [0, 0, 0], to: [0, 1, 0] },
      { bone: 1, from: [4, 0, 0], to: [4, 1, 0] },
    ] as const;
    const { bone, nearest } = bonesInSight([1.5, 0.5, 0], segments, tree);
    expect([bone[0], nearest[0]]).toEqual([1, 0]);
  });
});

describe('a body bound anew', () => {
  const deckhand = castCharacter('deckhand-clean.glb');
  // The coat with its toggles, and the boots: the body by itself takes as long as all the rest.
  const nodes = deckhand.nodes.flatMap(({ skin, name }, i) => (skin >= 0 && name !== 'body' ? [i] : []));
  const bare: Character = {
    ...deckhand,
    nodes: deckhand.nodes.map((own) => (own.skin >= 0 ? { ...own, skin: -1 } : own)),
    meshes: deckhand.meshes.map((mesh) => ({ ...mesh, influences: null, influenceStorage: null })),
    skins: [],
  };
  it('takes bones that deform, and neither the root nor ends', () => {
    const names = bindingBones(bare, brief).map((bone) => bare.nodes[bone].name);
    expect(names).toContain('arm_upper_lt');
    expect(names.filter((name) => /_4_lt$|tip/.test(name))).toEqual([]);
    const { outside } = lookAtBinding(bare, nodes, brief);
    expect(outside.map((bone) => bare.nodes[bone].name)).toContain('root');
  });
  it('takes no other than those of the set that the brief names', () => {
    const some = ['arm_upper_lt', 'hand_lt'].map((name) => bare.nodes.findIndex((own) => own.name === name));
    const withSet = { ...bare, sets: [{ name: 'deform', bones: some, vertices: [], polygons: [] }] };
    const wants = { ...brief, carriers: { ...brief.carriers, set: 'deform' } };
    expect(bindingBones(withSet, wants).sort()).toEqual([...some].sort());
  });
  it('looks at every part beforehand and says which way, and why', () => {
    const { parts } = lookAtBinding(bare, nodes, brief);
    for (const { why, way, seen } of parts) {
      expect(why).not.toBe('');
      if (way === 'heat') expect(seen).toBeGreaterThan(0.3);
    }
    const ways = new Set(parts.map(({ way }) => way));
    expect(ways).toContain('heat');
    // Eyes and toggles.
    expect(parts.filter(({ way }) => way === 'one').length).toBeGreaterThan(5);
  });
  it('is sound: every point has one to four bones and a sum of one, whatever the way, and nothing moves at rest', () => {
    for (const method of ['heat', 'near'] as const) {
      const bound = done('bind', bare, { nodes, method });
      expect(brokenInvariants(bound)).toEqual([]);
      for (const index of nodes) {
        const { mesh } = bound.nodes[index];
        for (const row of rowsOfMesh(bound.meshes[mesh])) {
          expect(row.size).toBeGreaterThan(0);
          expect(row.size).toBeLessThanOrEqual(4);
        }
      }
      const [before, after] = [bare, bound].map((character) => placedMeshes(character));
      before.forEach(({ points }, i) => {
        let far = 0;
        for (let k = 0; k < points.length; k++) far = Math.max(far, Math.abs(points[k] - after[i].points[k]));
        expect(far).toBeLessThan(1e-5);
      });
    }
  });
  it('parts that are small go wholly with one bone, and a way that is chosen by hand is kept', () => {
    const bones = bindingBones(bare, brief);
    const { look, rows } = bindMeshes(bare, nodes, bones, SETTINGS)!;
    const small = look.parts.find(({ way }) => way === 'one')!;
    const of = (made: typeof rows) =>
      new Set(
        [...small.part.polygons].flatMap((polygon) => {
          const mesh = bare.meshes[bare.nodes[small.part.node].mesh];
          const { pointOfVertex } = pointsOf(mesh);
          return [
            ...made.get(small.part.node)![pointOfVertex[mesh.corners[mesh.polygonOffsets[polygon]]]].keys(),
          ];
        }),
      );
    expect(of(rows).size).toBe(1);
    const ways = new Map([[`${small.part.node}/${small.part.island}`, 'near' as const]]);
    const chosen = bindMeshes(bare, nodes, bones, { ...SETTINGS, ways })!;
    expect(chosen.look.parts.find(({ part }) => part === small.part)!.way).toBe('near');
  });
  it('ends when it is told to, and refuses where there is no bone', () => {
    expect(bindMeshes(bare, nodes, bindingBones(bare, brief), SETTINGS, () => true)).toBeNull();
    const boneless = { ...bare, nodes: bare.nodes.map((own) => ({ ...own, kind: 'mesh' as const })) };
    expect(() => done('bind', boneless, { nodes })).toThrow(RemedyError);
    expect(() => done('bind', bare, { nodes: [] })).toThrow(/No mesh is chosen/);
  });
});

describe('weights that are copied', () => {
  const deckhand = castCharacter('deckhand-clean.glb');
  const placed = placedMeshes(deckhand);
  const body = placed.find((own) => deckhand.nodes[own.node].name === 'body')!;
  const boots = placed.find((own) => deckhand.nodes[own.node].name === 'boots')!;
  const settings = { distance: 0.05, angle: 70, limit: 4 };
  it('of a mesh to itself are what they were', () => {
    const { rows, how } = copiedRows(body, body, settings);
    expect(how.every((kind) => kind === FOUND)).toBe(true);
    const shares = rowsOfMesh(body.mesh);
    // Where two sheets touch, the one may be found for the other.
    const off = rows.filter((row, point) => stepBetween(row, shares[point]) > 1e-3).length;
    expect(off).toBeLessThan(rows.length * 0.001);
  });
  it('are found where the other mesh is near, filled in where not, and always sum to one', () => {
    const near = copiedRows(body, boots, settings);
    const strict = copiedRows(body, boots, { ...settings, distance: 0.006 });
    const count = (how: Uint8Array, kind: number) => how.filter((own) => own === kind).length;
    expect(count(near.how, FOUND)).toBeGreaterThan(count(strict.how, FOUND));
    expect(count(strict.how, FILLED)).toBeGreaterThan(0);
    for (const row of [...near.rows, ...strict.rows])
      expect([...row.values()].reduce((sum, share) => sum + share, 0)).toBeCloseTo(1, 4);
  });
  it('land on a garment that was not bound, by the surface, by order and by texture', () => {
    const bare: Character = {
      ...deckhand,
      nodes: [...deckhand.nodes, node({ name: 'new body', kind: 'mesh', mesh: deckhand.meshes.length })],
      meshes: [
        ...deckhand.meshes,
        { ...body.mesh, name: 'new body', influences: null, influenceStorage: null },
      ],
    };
    const onto = deckhand.nodes.length;
    for (const by of ['surface', 'order', 'uv']) {
      if (by === 'uv' && !body.mesh.attributes.TEXCOORD_0) continue;
      const after = done('copy-weights', bare, { node: onto, from: body.node, by });
      expect(brokenInvariants(after)).toEqual([]);
      const { joints } = after.skins[after.nodes[onto].skin];
      expect(joints.every((joint) => after.nodes[joint].kind === 'bone')).toBe(true);
      const bone = joints.indexOf(deckhand.nodes.findIndex(({ name }) => name === 'head'));
      expect(
        rowsOfMesh(after.meshes[after.nodes[onto].mesh]).filter((row) => row.get(bone)! > 0.9).length,
      ).toBeGreaterThan(50);
    }
    expect(() => done('copy-weights', bare, { node: onto, from: onto })).toThrow(/from itself/);
    expect(() => done('copy-weights', bare, { node: body.node, from: onto })).toThrow(/not bound/);
    expect(() => done('copy-weights', deckhand, { node: boots.node, from: body.node, by: 'order' })).toThrow(
      /copy by the surface/,
    );
  });
  it('only on chosen points where some are chosen', () => {
    const { influences } = boots.mesh;
    const after = done('copy-weights', deckhand, {
      node: boots.node,
      from: body.node,
      vertices: [{ node: boots.node, ids: [0, 1, 2] }],
    });
    const [was, is] = [boots.mesh, after.meshes[after.nodes[boots.node].mesh]].map(rowsOfMesh);
    const names = (character: Character, row: Map<number, number>) => {
      const { joints } = character.skins[character.nodes[boots.node].skin];
      return new Map([...row].map(([joint, share]) => [joints[joint], share]));
    };
    const changed = was.flatMap((row, point) =>
      stepBetween(names(deckhand, row), names(after, is[point])) > 1e-3 ? [point] : [],
    );
    const { pointOfVertex } = pointsOf(boots.mesh);
    expect(influences).not.toBeNull();
    for (const point of changed) expect([0, 1, 2].map((vertex) => pointOfVertex[vertex])).toContain(point);
  });
});

describe('closest places that follow each other', () => {
  it('are those that each would find by itself', () => {
    const deckhand = castCharacter('deckhand-clean.glb');
    const [one, other] = placedMeshes(deckhand);
    const tree = new TriangleTree(one.points, fanned(one.mesh.polygonOffsets, one.mesh.corners));
    const { distance } = closestPlaces(tree, other.points);
    for (let i = 0; i < distance.length; i += 7) {
      const found = tree.closestPoint(other.points[i * 3], other.points[i * 3 + 1], other.points[i * 3 + 2])!;
      expect(distance[i]).toBeCloseTo(found.distance, 5);
    }
  });
});
