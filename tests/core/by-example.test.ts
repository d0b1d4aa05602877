/**
 * Weights by example: the solver against an exhaustive search and a linear-algebra package, and its laws on
 * figures.
 */
import fc from 'fast-check';
import { Matrix, SVD, solve } from 'ml-matrix';
import { skeletonOf } from '@/core/anatomy/skeleton';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import type { Crosswalk } from '@/core/anatomy/crosswalk';
import { restWorld } from '@/core/character/hierarchy';
import type { Character } from '@/core/character/model';
import { influencesFrom } from '@/core/geometry/influences';
import { decompose, quatAbout, quatConjugate, quatMultiply } from '@/core/geometry/matrix';
import { makeRandom } from '@/core/geometry/random';
import { Moments } from '@/core/motion/moments';
import { SimplexSolver } from '@/core/geometry/simplex';
import { byExample, finish, withInfluences } from '@/core/motion/example';
import { MotionFit } from '@/core/motion/fit';
import { clipSeconds, clipWorld, posedWorld } from '@/core/motion/pose';
import { type Joint } from '@/core/motion/carried';
import { JointNormalEquations } from '@/core/motion/joint-normal-equations';
import { borrowedWorlds } from '@/core/rooms/crosswalk/borrowed';
import { exampleWorlds, posesFor } from '@/core/rooms/crosswalk/poses';
import { addsTooMuch, priceOf } from '@/core/rooms/crosswalk/deviation-floor';
import { prove } from '@/core/rooms/crosswalk/proof';
import { type Remapped, remap } from '@/core/rooms/crosswalk/remap';
import { meshFrom } from './support/build';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { rmsApart, rule } from './support/moved';
import { real } from './support/random';

const SIZE = 5;

/** A least-squares problem: rows × bones, and where the rows are to come. */
const problem = fc
  .tuple(
    fc.array(fc.array(real(-2, 2), { minLength: SIZE, maxLength: SIZE }), { minLength: 7, maxLength: 7 }),
    fc.array(real(-2, 2), { minLength: 7, maxLength: 7 }),
  )
  .map(([rows, goal]) => {
    const matrix = new Matrix(rows);
    const otherMatrix = Matrix.columnVector(goal);
    const q = matrix.transpose().mmul(matrix).add(Matrix.eye(SIZE).mul(1e-6));
    return { q, c: matrix.transpose().mmul(otherMatrix) };
  });

const costOf = (matrix: Matrix, otherMatrix: Matrix, world: readonly number[]) => {
  const x = Matrix.columnVector([...world]);
  return x.transpose().mmul(matrix).mmul(x).get(0, 0) - 2 * otherMatrix.transpose().mmul(x).get(0, 0);
};

/** The best over every set of at most `limit` bones: each by its Karush–Kuhn–Tucker equations, by ml-matrix. */
const bestOfAll = (matrix: Matrix, otherMatrix: Matrix, limit: number): number =>
  bestAmong(matrix, otherMatrix, ALL, limit).cost;

const ALL = Array.from({ length: SIZE }, (_, i) => i);

/** The best over every set of at most `limit` of some bones, and the bones that it uses. */
function bestAmong(matrix: Matrix, otherMatrix: Matrix, some: readonly number[], limit: number) {
  let best = { cost: Infinity, on: some };
  for (let mask = 1; mask < 2 ** SIZE; mask++) {
    const on = ALL.filter((i) => mask & (1 << i));
    if (on.length > limit || on.some((i) => !some.includes(i))) continue;
    const count = on.length;
    const kkt = Matrix.zeros(count + 1, count + 1);
    on.forEach((i, index) => {
      on.forEach((j, k) => kkt.set(index, k, matrix.get(i, j)));
      kkt.set(index, count, 1);
      kkt.set(count, index, 1);
    });
    const x = solve(kkt, Matrix.columnVector([...on.map((i) => otherMatrix.get(i, 0)), 1]));
    const world = Array.from({ length: SIZE }, (_, i) => (on.includes(i) ? x.get(on.indexOf(i), 0) : 0));
    const cost = costOf(matrix, otherMatrix, world);
    if (world.every((y) => y >= -1e-12) && cost < best.cost - 1e-12) best = { cost, on };
  }
  return best;
}

/** The bone without which the best of the others costs least is let go, again and again. */
function letGo(matrix: Matrix, otherMatrix: Matrix, limit: number): number {
  let best = bestAmong(matrix, otherMatrix, ALL, SIZE);
  while (best.on.length > limit) {
    const without = best.on.map((out) =>
      bestAmong(
        matrix,
        otherMatrix,
        best.on.filter((i) => i !== out),
        SIZE,
      ),
    );
    best = without.reduce((a, b) => (b.cost < a.cost ? b : a));
  }
  return best.cost;
}

describe('least squares over the simplex, against every set of bones by ml-matrix', () => {
  const solver = new SimplexSolver(SIZE);
  const solved = (matrix: Matrix, otherMatrix: Matrix, limit: number) => {
    const world = new Float64Array(SIZE);
    solver.solveSparse(
      Float64Array.from(matrix.to1DArray()),
      Float64Array.from(otherMatrix.to1DArray()),
      SIZE,
      limit,
      world,
    );
    return Array.from(world);
  };
  it('finds the least without a limit, never negative, summing to one', () => {
    fc.assert(
      fc.property(problem, ({ q: matrix, c: otherMatrix }) => {
        const world = solved(matrix, otherMatrix, SIZE);
        expect(Math.min(...world)).toBeGreaterThanOrEqual(0);
        expect(world.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
        const best = bestOfAll(matrix, otherMatrix, SIZE);
        expect(costOf(matrix, otherMatrix, world) - best).toBeLessThan(1e-7 * (1 + Math.abs(best)));
      }),
      { numRuns: 300 },
    );
  });
  it('lets go of the bone that costs least, as trying all of them does', () => {
    let beyond = 0;
    fc.assert(
      fc.property(problem, fc.integer({ min: 1, max: 4 }), ({ q: matrix, c: otherMatrix }, limit) => {
        const cost = letGo(matrix, otherMatrix, limit);
        if (cost > bestOfAll(matrix, otherMatrix, SIZE) + 1e-6) beyond++;
        expect(Math.abs(costOf(matrix, otherMatrix, solved(matrix, otherMatrix, limit)) - cost)).toBeLessThan(
          1e-6 * (1 + Math.abs(cost)),
        );
      }),
      { numRuns: 300 },
    );
    expect(beyond).toBeGreaterThan(50);
  });
  it('keeps within a limit, and is as good as the best set in nine of ten', () => {
    let [asGood, all] = [0, 0];
    fc.assert(
      fc.property(problem, fc.integer({ min: 1, max: 4 }), ({ q: matrix, c: otherMatrix }, limit) => {
        const world = solved(matrix, otherMatrix, limit);
        expect(world.filter((x) => x > 0).length).toBeLessThanOrEqual(limit);
        expect(world.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
        all++;
        const best = bestOfAll(matrix, otherMatrix, limit);
        if (costOf(matrix, otherMatrix, world) - best < 1e-6 * (1 + Math.abs(best))) asGood++;
      }),
      { numRuns: 300 },
    );
    expect(all).toBe(300);
    expect(asGood / all).toBeGreaterThan(0.9);
  });
});

it('the sums over poses of how two carriers agree are those of the carried points, pose by pose', () => {
  const poses = 3;
  const numbers = (minLength: number) => fc.array(real(-3, 3), { minLength, maxLength: minLength });
  fc.assert(
    fc.property(numbers(4 * poses * 12), numbers(6), ([...matrix], points) => {
      // Two carriers of one point, two of another.
      const moments = new Moments(Float64Array.from(matrix), poses, 2);
      const p = Float32Array.from(points);
      moments.setPoints(p, 0, p, 3);
      const carried = (i: number) =>
        Array.from({ length: poses * 3 }, (_, r) => {
          const row = matrix.slice((i * poses * 3 + r) * 4, (i * poses * 3 + r) * 4 + 4);
          const x = [...p.subarray(i < 2 ? 0 : 3, i < 2 ? 3 : 6), 1];
          return row.reduce((sum, value, k) => sum + value * x[k], 0);
        });
      for (let i = 0; i < 4; i++)
        for (let j = 0; j < 4; j++) {
          const [a, b] = [carried(i), carried(j)];
          expect(moments.product(i, j)).toBeCloseTo(
            a.reduce((sum, x, k) => sum + x * b[k], 0),
            8,
          );
        }
    }),
  );
});

describe('all joints together, against a dense least-squares solve by ml-matrix', () => {
  it('takes the step of Gauss and Newton', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const random = makeRandom(seed);
        const number = () => random() * 2 - 1;
        // A root, a chain of two under it and a branch beside that; and another tree that moves some of the
        // same points.
        // What the inner joints move the outer ones may move in part, or wholly; one point is moved by both branches.
        const count = 14;
        const parents = [-1, 0, 1, 0, -1, 4];
        const movedBy = [
          [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10],
          [2, 3, 4, 5],
          [3, 4, 5],
          [5, 6, 7],
          [7, 8, 9, 10, 11, 12, 13],
          [8, 11, 12],
        ];
        const now = Float64Array.from({ length: count * 3 }, number);
        const wanted = Float64Array.from({ length: count * 3 }, number);
        const world = new Float64Array(movedBy.length * 16).map(number);
        const isWhole = random() < 0.5;
        // A point of two branches or of two trees lies wholly in none of them.
        const isShared = (p: number) => [5, 7, 8, 9, 10].includes(p);
        const joints = movedBy.map((moved, j): Joint => {
          const points = Int32Array.from(moved);
          return {
            node: j,
            parent: parents[j],
            own: [j],
            points,
            masses: Float64Array.from(points, (point) =>
              isWhole && !isShared(point) ? 1 : 0.2 + 0.6 * random(),
            ),
            offsets: new Int32Array(points.length + 1),
            entries: new Int32Array(0),
          };
        });
        const arms = joints.map(({ points, masses }, j) =>
          Float64Array.from({ length: points.length * 3 }, (_, i) => {
            const [k, a] = [Math.floor(i / 3), i % 3];
            return masses[k] === 1 ? now[points[k] * 3 + a] - world[j * 16 + 12 + a] : number();
          }),
        );
        const off = wanted.map((x, i) => x - now[i]);
        const together = new JointNormalEquations(joints);
        together.fill({ arms, world, now, wanted });
        const { turns, shifts } = together.solve(0);
        // Columns: a turn of every joint about x, y and z, then a shift of either root.
        const jacobian = Matrix.zeros(count * 3, 24);
        joints.forEach((joint, j) => {
          joint.points.forEach((point, k) => {
            const [x, y, z] = arms[j].subarray(k * 3, k * 3 + 3);
            // θ × arm, for θ along each axis.
            [
              [0, -z, y],
              [z, 0, -x],
              [-y, x, 0],
            ].forEach((d, axis) => {
              d.forEach((value, row) => jacobian.set(point * 3 + row, j * 3 + axis, value));
            });
            const root = [0, 4].indexOf(j);
            if (root < 0) return;
            for (let a = 0; a < 3; a++) jacobian.set(point * 3 + a, 18 + root * 3 + a, joint.masses[k]);
          });
        });
        const reference = new SVD(jacobian).solve(Matrix.columnVector(Array.from(off))).to1DArray();
        const found = [...turns, ...shifts.subarray(0, 3), ...shifts.subarray(12, 15)];
        found.forEach((x, i) => expect(x).toBeCloseTo(reference[i], 4));
      }),
      { numRuns: 40 },
    );
  });
});

/** The same with the motion that is fitted to it. */
function off(before: Character, remapped: Remapped, worlds: readonly Float64Array[]): number {
  const fit = new MotionFit({
    source: before,
    target: remapped.character,
    sourceNodeOf: remapped.sourceNodeOf,
  });
  return rmsApart(
    before,
    remapped,
    worlds.map((world) => ({ world, moved: fit.pose(world) })),
  );
}

/** Poses of a chain in which its bones bend together, by another seed than the examples have. */
function bends(character: Character, count: number, seed = 99): Float64Array[] {
  const random = makeRandom(seed);
  const bones = character.nodes.flatMap((node, i) => (node.kind === 'bone' && node.parent >= 0 ? [i] : []));
  return Array.from({ length: count }, () =>
    posedWorld(
      character,
      new Map(
        bones.map((bone) => [bone, quatAbout([random() - 0.5, 0, random() - 0.5], 0.5 * random())] as const),
      ),
    ),
  );
}

describe('a tube of four bones on two', () => {
  const four = chainTube(4);
  const two = skeletonOf(chainTube(2));
  const crosswalk: Crosswalk = [
    rule(0, 'carry', 0),
    rule(1, 'fold', 0),
    rule(2, 'carry', 1),
    rule(3, 'fold', 1),
  ];
  const plain = remap(four, two, crosswalk, { limit: 4 });
  const solved = remap(four, two, crosswalk, { limit: 4, weights: 'example' });

  it('goes nearer to where it went in bends that nothing was solved for', () => {
    const unseen = bends(four, 12);
    expect(off(four, solved, unseen)).toBeLessThan(off(four, plain, unseen));
  });
  it('has weights that are not negative, sum to one and keep to the limit, and says what moved', () => {
    const influences = solved.character.meshes[0].influences!;
    for (let vertex = 0; vertex + 1 < influences.offsets.length; vertex++) {
      const row = influences.weight.subarray(influences.offsets[vertex], influences.offsets[vertex + 1]);
      expect(Math.min(...row)).toBeGreaterThan(0);
      expect(row.length).toBeLessThanOrEqual(4);
      expect(row.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
    }
    const { changed, bones } = solved.report.example!;
    expect(changed).toBeGreaterThan(0);
    expect(bones.map((bone) => solved.character.nodes[bone.node].name).sort()).toEqual(['bone_1', 'bone_2']);
  });
  it('gives the twins of a seam the same weights, so that it does not tear', () => {
    const mesh = four.meshes[0];
    const influences = mesh.influences!;
    const points = mesh.attributes.POSITION.data as Float32Array;
    // Every vertex of the line where the tube was cut stands there twice.
    const cut = Array.from({ length: mesh.vertexCount / 8 }, (_, r) => r * 8);
    const all = [...Array.from({ length: mesh.vertexCount }, (_, value) => value), ...cut];
    const rowOf = (of: typeof influences, vertex: number) =>
      Array.from(
        of.weight.subarray(of.offsets[vertex], of.offsets[vertex + 1]),
        (weight, k) => [of.joint[of.offsets[vertex] + k], weight] as [number, number],
      );
    const split = meshFrom(
      all.map((vertex) => Array.from(points.subarray(vertex * 3, vertex * 3 + 3))),
      [[0, 1, 9, 8]],
      influencesFrom(all.map((vertex) => rowOf(influences, vertex))),
    );
    const out = remap({ ...four, meshes: [split] }, two, crosswalk, { limit: 4, weights: 'example' });
    const now = out.character.meshes[0].influences!;
    expect(out.report.example!.changed).toBeGreaterThan(cut.length);
    cut.forEach((vertex, k) => expect(rowOf(now, mesh.vertexCount + k)).toEqual(rowOf(now, vertex)));
  });
  it('costs what no weights avoid: more than nothing, and never more than the move shows', () => {
    const poses = posesFor(four, crosswalk);
    for (const out of [plain, solved]) {
      const proof = prove(out, poses);
      const price = finish(priceOf(out, poses, proof));
      expect(price.rms).toBeGreaterThan(1e-3);
      for (const k of ['max', 'rms', 'p95'] as const) expect(price[k]).toBeLessThanOrEqual(proof[k]);
    }
  });
  it('more examples never make motions that were not seen worse by more than noise', () => {
    const node = plain.withoutClips.nodes.findIndex((node) => node.mesh >= 0);
    const unseen = bends(four, 12);
    const errors = [6, 24, 96].map((count) => {
      const solvedOver = finish(
        byExample({
          source: four,
          target: plain.withoutClips,
          sourceNodeOf: plain.sourceNodeOf,
          rules: new Map([[node, plain.withoutClips.meshes[0].influences!]]),
          trimmed: [],
          worlds: bends(four, count, 7),
          limit: 4,
        }),
      );
      const character = withInfluences(plain.withoutClips, solvedOver.influences);
      return off(four, { ...plain, character }, unseen);
    });
    expect(errors[1]).toBeLessThan(errors[0] * 1.05);
    expect(errors[2]).toBeLessThan(errors[1] * 1.05);
    expect(errors[2]).toBeLessThan(off(four, plain, unseen));
  });
  it('a wrong pair is told from a skeleton that costs something', () => {
    // All on the lower bone, as if the other one were not there.
    const wrong: Crosswalk = [0, 1, 2, 3].map((b) => rule(b, b === 0 ? 'carry' : 'fold', 0));
    const poses = posesFor(four, wrong);
    const judge = (walked: Crosswalk) => {
      const out = remap(four, two, walked, { limit: 4 });
      const proof = prove(out, poses);
      const price = finish(priceOf(out, poses, proof));
      return addsTooMuch(price, proof, 0.02);
    };
    expect([judge(crosswalk), judge(wrong)]).toEqual([false, true]);
  });
});

describe('on figures', () => {
  it('leaves alone what goes exactly as it went', () => {
    const four = chainTube(4);
    const same = suggest(skeletonOf(four), skeletonOf(four));
    const solved = remap(four, skeletonOf(four), same, { limit: 4, weights: 'example' });
    expect(solved.report.example).toBe(null);
    expect(solved.character.meshes[0].influences).toEqual(
      remap(four, skeletonOf(four), same, { limit: 4 }).character.meshes[0].influences,
    );
  });
  it('takes the clips of another character as examples, by the bones that are alike', () => {
    const stoker = castCharacter('stoker.dae');
    const clean = castCharacter('deckhand-clean.glb');
    const worlds = borrowedWorlds(stoker, clean);
    expect(worlds.length).toBeGreaterThan(10);
    // The arm of the one turns as the arm of the other does at that moment.
    const nodeOf = (character: Character, name: string) =>
      character.nodes.findIndex((node) => node.name === name);
    const turned = (character: Character, world: Float64Array, name: string) => {
      const at = nodeOf(character, name) * 16;
      const [now, rest] = [decompose(world, at), decompose(restWorld(character.nodes), at)];
      return quatMultiply(now.rotation, quatConjugate(rest.rotation));
    };
    const clip = stoker.clips[0];
    const count = Math.round(
      (24 * clipSeconds(clip)) / stoker.clips.reduce((sum, clip) => sum + clipSeconds(clip), 0),
    );
    const k = Math.floor(count / 2);
    const theirs = clipWorld(stoker, clip, (clipSeconds(clip) * (k + 0.5)) / count);
    const [a, b] = [turned(stoker, theirs, 'RightForearm'), turned(clean, worlds[k], 'arm_lower_rt')];
    expect(Math.abs(a.reduce((sum, x, i) => sum + x * b[i], 0))).toBeGreaterThan(1 - 1e-9);
    expect(Math.abs(a[3])).toBeLessThan(0.999);
    expect(borrowedWorlds(castCharacter('quay-skeleton.glb'), clean)).toEqual([]);
    expect(borrowedWorlds(chainTube(2), clean)).toEqual([]);
  });
  it('learns both sides alike: every made example has its mirror image beside it, and both hands are proved alike', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const crosswalk = suggest(skeletonOf(clean), VRM_HUMANOID);
    const worlds = exampleWorlds(clean, crosswalk).slice(0, 66);
    const [left, right] = ['hand_lt', 'hand_rt'].map((name) =>
      clean.nodes.findIndex((node) => node.name === name),
    );
    const place = (world: Float64Array, n: number) => [...world.subarray(n * 16 + 12, n * 16 + 15)];
    let moved = 0;
    for (let k = 0; k < worlds.length; k += 2) {
      const [x, y, z] = place(worlds[k], left);
      const other = place(worlds[k + 1], right);
      [-x, y, z].forEach((bone, index) => expect(other[index]).toBeCloseTo(bone, 3));
      const [rest] = place(restWorld(clean.nodes), left);
      if (Math.abs(x - rest) > 0.02) moved++;
    }
    expect(moved).toBeGreaterThan(20);
    const { bones } = prove(remap(clean, VRM_HUMANOID, crosswalk, { limit: 4 }), posesFor(clean, crosswalk));
    const maxOf = (name: string) => bones.find((bone) => clean.nodes[bone.node].name === name)?.max ?? 0;
    expect(maxOf('arm_twist_lt')).toBeGreaterThan(0.005);
    expect(maxOf('arm_twist_rt') / maxOf('arm_twist_lt')).toBeCloseTo(1, 1);
  });
  it('lets go of what moves the mesh least where the limit takes bones', () => {
    const four = chainTube(6, 41);
    const same = suggest(skeletonOf(four), skeletonOf(four));
    const { limited } = remap(four, skeletonOf(four), same, { limit: 1, weights: 'example' }).report.example!;
    expect(limited.points).toBeGreaterThan(50);
    expect(limited.chosen).toBeLessThanOrEqual(limited.plain + 1e-9);
  });
  it('brings the clean Deckhand nearer on the VRM humanoid, in every mean', () => {
    const before = castCharacter('deckhand-clean.glb');
    const crosswalk = suggest(skeletonOf(before), VRM_HUMANOID);
    const plain = remap(before, VRM_HUMANOID, crosswalk, { limit: 4 });
    const solved = remap(before, VRM_HUMANOID, crosswalk, { limit: 4, weights: 'example' });
    const seen = exampleWorlds(before, crosswalk).filter((_, k) => k % 5 === 0);
    expect(off(before, solved, seen)).toBeLessThan(0.85 * off(before, plain, seen));
    // What carried nothing by the rules carries nothing now.
    const busy = (character: Character) => {
      const found = new Set<string>();
      for (const node of character.nodes)
        if (node.skin >= 0)
          for (const j of character.meshes[node.mesh].influences?.joint ?? [])
            found.add(character.nodes[character.skins[node.skin].joints[j]].name);
      return [...found].sort();
    };
    expect(busy(solved.character)).toEqual(busy(plain.character));
    const poses = posesFor(before, crosswalk);
    // The worst point lies where a joint turns by itself that the target does not have: no weights bring it nearer.
    expect(prove(solved, poses).max).toBeLessThan(1.02 * prove(plain, poses).max);
  });
});
