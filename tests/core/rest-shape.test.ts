/** A mesh brought to another stance with the rest shape that moves as it moved. */
import fc from 'fast-check';
import { Matrix, solve } from 'ml-matrix';
import { type Skeleton, skeletonOf } from '@/core/anatomy/skeleton';
import { VRM_HUMANOID } from '@/core/anatomy/skeletons/vrm';
import { suggest } from '@/core/anatomy/suggest';
import { bonesOf, restWorld } from '@/core/character/hierarchy';
import { brokenInvariants } from '@/core/character/invariants';
import { placedMeshes } from '@/core/character/measure';
import type { Channel, Character } from '@/core/character/model';
import { positionsOf } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { writeGlb } from '@/core/formats/gltf/write';
import { composeMatrix, decompose, inverseOr, normalise, quatAbout, times } from '@/core/geometry/matrix';
import { mirrorTwins } from '@/core/geometry/mirror';
import { makeRandom } from '@/core/geometry/random';
import { finish } from '@/core/motion/example';
import { Goals } from '@/core/motion/goals';
import { MeshWeights } from '@/core/motion/mesh-weights';
import { clipSeconds, posedWorld } from '@/core/motion/pose';
import { reshapedAtRest } from '@/core/motion/rest-shape';
import { boundInPose } from '@/core/motion/bound-in-pose';
import { posesFor, sidePlaneOf } from '@/core/rooms/crosswalk/poses';
import { priceOf } from '@/core/rooms/crosswalk/deviation-floor';
import { prove } from '@/core/rooms/crosswalk/proof';
import { type RemapOptions, remap } from '@/core/rooms/crosswalk/remap';
import { turnedJoint } from '@/core/rooms/crosswalk/turned-joint';
import { castCharacter } from './support/cast';
import { chainTube } from './support/chain';
import { real } from './support/random';
import { playedPoints, playedTurns, threeGltf } from './support/three-play';
import { validate } from './support/validator';

const deckhand = castCharacter('deckhand-clean.glb');

/** The deckhand Deckhand with its arms so many degrees below the horizontal, bound there. */
function inA(degrees: number): Character {
  const arm = (name: string) => deckhand.nodes.findIndex((node) => node.name === name);
  const by = (side: 1 | -1) => quatAbout([0, 0, 1], (-side * degrees * Math.PI) / 180);
  return boundInPose(
    deckhand,
    new Map([
      [arm('arm_upper_lt'), by(1)],
      [arm('arm_upper_rt'), by(-1)],
    ]),
  );
}

const onto = (character: Character, target: Skeleton, options: Partial<RemapOptions> = {}) =>
  remap(character, target, suggest(skeletonOf(character), target), { limit: 4, mode: 'mesh', ...options });

/** The character with a walk as its only clip: arms and legs swing about how they stand, the trunk turns a little. */
function walking(character: Character): Character {
  const swing = (name: string, axis: readonly number[], degrees: number): Channel => {
    const node = character.nodes.findIndex((node) => node.name === name);
    const turns = [0, 1, 0, -1, 0].map((factor) => {
      const world = posedWorld(
        character,
        new Map([[node, quatAbout(axis, (factor * degrees * Math.PI) / 180)]]),
      );
      const above = character.nodes[node].parent * 16;
      return decompose(times(inverseOr(world, above), world, 0, node * 16)).rotation;
    });
    return {
      node,
      path: 'rotation',
      interpolation: 'LINEAR',
      times: Float32Array.of(0, 0.3, 0.6, 0.9, 1.2),
      values: Float32Array.from(turns.flat()),
    };
  };
  const channels = [
    swing('arm_upper_lt', [1, 0, 0], 25),
    swing('arm_upper_rt', [1, 0, 0], -25),
    swing('leg_upper_lt', [1, 0, 0], -30),
    swing('leg_upper_rt', [1, 0, 0], 30),
    swing('spine_1', [0, 1, 0], 8),
  ];
  return { ...character, clips: [{ name: 'walk', channels }] };
}

/** In an A-pose, and what becomes of it in the T-pose of its own bones: as posed, and with the rest shape by example. */
const a = walking(inA(60));
const posed = onto(a, skeletonOf(deckhand));
const shaped = onto(a, skeletonOf(deckhand), { weights: 'example', rest: 'example' });

describe('the rest place of a vertex', () => {
  const four = chainTube(4);
  const node = four.nodes.findIndex((node) => node.mesh >= 0);
  const skin = four.skins[0];
  const influences = four.meshes[0].influences!;
  const random = makeRandom(3);
  const turn = (most: number) =>
    quatAbout(normalise([random() - 0.5, random() - 0.5, random() - 0.5]), most * (random() - 0.5));
  const poseOf = (most: number) => {
    const world = restWorld(four.nodes);
    bonesOf(four).forEach((bone) =>
      world.set(composeMatrix([0, 0.4 * bone, 0], turn(most), [1, 1, 1]), bone * 16),
    );
    return world;
  };
  // Goals by one motion, bones in another: nothing fits exactly.
  const [goals, motion] = [
    Array.from({ length: 7 }, () => poseOf(1)),
    Array.from({ length: 7 }, () => poseOf(1.4)),
  ];
  const shown = { node, mesh: four.meshes[0], skin };
  const weights = new MeshWeights(four, node, skin, influences, new Goals(shown, goals), {
    limit: 4,
    nearness: 0,
    steps: 1,
    areWeightsKept: true,
    rest: { keep: 0, turns: 0 },
  });
  weights.setMotion(motion);

  it('is what a solver of least squares by QR finds for the stacked equations (ml-matrix)', () => {
    const many = Array.from({ length: 40 }, (_, k) => k * 8 + 3);
    weights.solve(many);
    const points = positionsOf(four.meshes[0]);
    const apply = (world: Float64Array, j: number, at: readonly number[]) => {
      const [matrix, b] = [
        world.subarray(skin.joints[j] * 16),
        skin.inverseBinds.subarray(j * 16, j * 16 + 16),
      ];
      const local = [0, 1, 2].map(
        (r) => b[r] * at[0] + b[4 + r] * at[1] + b[8 + r] * at[2] + b[12 + r] * at[3],
      );
      return [0, 1, 2].map(
        (r) =>
          matrix[r] * local[0] + matrix[4 + r] * local[1] + matrix[8 + r] * local[2] + matrix[12 + r] * at[3],
      );
    };
    const blend = (world: Float64Array, vertex: number, at: readonly number[]) => {
      const out = [0, 0, 0];
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
        apply(world, influences.joint[k], at).forEach((x, index) => (out[index] += influences.weight[k] * x));
      return out;
    };
    for (const vertex of many) {
      const place = [...points.subarray(vertex * 3, vertex * 3 + 3), 1];
      const rows: number[][] = [];
      const right: number[] = [];
      motion.forEach((world, index) => {
        const columns = [0, 1, 2].map((bone) =>
          blend(
            world,
            vertex,
            [0, 1, 2, 3].map((k) => Number(k === bone)),
          ),
        );
        const shift = blend(world, vertex, [0, 0, 0, 1]);
        blend(goals[index], vertex, place).forEach((x, otherIndex) => {
          rows.push(columns.map((column) => column[otherIndex]));
          right.push(x - shift[otherIndex]);
        });
      });
      const expected = solve(new Matrix(rows), Matrix.columnVector(right)).to1DArray();
      expected.forEach((x, index) => expect(weights.restPlaces[vertex * 3 + index]).toBeCloseTo(x, 5));
    }
  });
});

describe('points in a mirror', () => {
  it('are found whatever the plane, and each is the other’s (property)', () => {
    const axis = fc.tuple(real(-1, 1), real(-1, 1), real(-1, 1)).filter((a) => Math.hypot(...a) > 0.1);
    fc.assert(
      fc.property(axis, real(-0.4, 0.4), fc.integer({ min: 0, max: 1000 }), (a, offset, seed) => {
        const normal = normalise(a);
        const random = makeRandom(seed);
        const half = Array.from({ length: 30 }, () => [random(), random(), random()]);
        const other = half.map((points) => {
          const by = 2 * (points.reduce((sum, x, k) => sum + x * normal[k], 0) - offset);
          return points.map((x, k) => x - by * normal[k]);
        });
        const twins = mirrorTwins(Float32Array.from([...half, ...other].flat()), { normal, offset }, 1e-5);
        half.forEach((_, k) => {
          expect(twins[k]).toBe(k + 30);
          expect(twins[k + 30]).toBe(k);
        });
      }),
      { numRuns: 30 },
    );
  });
});

describe('normals', () => {
  it('turn as the mesh does where it is turned as a whole, hard edges and all (closed form)', () => {
    const mesh = deckhand.meshes[0];
    const rotation = quatAbout([0.6, 0, 0.8], 0.7);
    const matrix = composeMatrix([0, 0, 0], rotation, [1, 1, 1]);
    const turn = (x: ArrayLike<number>, i: number) =>
      [0, 1, 2].map((r) => matrix[r] * x[i] + matrix[4 + r] * x[i + 1] + matrix[8 + r] * x[i + 2]);
    const places = positionsOf(mesh).slice();
    for (let i = 0; i < places.length; i += 3) places.set(turn(positionsOf(mesh), i), i);
    const turned = reshapedAtRest(mesh, places).attributes.NORMAL.data;
    const before = mesh.attributes.NORMAL.data;
    let off = 0;
    for (let i = 0; i < turned.length; i += 3)
      turn(before, i).forEach((x, index) => (off += Math.abs(x - turned[i + index]) > 0.02 ? 1 : 0));
    // Where the faces around a point cancel, nothing tells how it turned.
    expect(off / turned.length).toBeLessThan(0.01);
  });
});

describe('an A-pose of 60° onto the T-pose of the same bones', () => {
  const crosswalk = suggest(skeletonOf(a), skeletonOf(deckhand));
  const poses = posesFor(a, crosswalk).filter((_, k) => k % 3 === 0);
  const [before, after] = [prove(posed, poses), prove(shaped, poses)];

  it('moves nearer to how it moved than the posed mesh does, on poses that nothing was solved for', () => {
    expect(posed.report.rest).toBe(null);
    expect(after.rms).toBeLessThan(0.75 * before.rms);
    expect(after.max).toBeLessThan(before.max);
  });
  it('and nearly as near as any weights and rest shape that were found for the very poses of the proof', () => {
    const all = posesFor(a, crosswalk);
    const proof = prove(shaped, all);
    const floor = finish(priceOf(shaped, all, proof));
    expect(floor.rms).toBeGreaterThan(0.2 * proof.rms);
    expect(proof.rms).toBeLessThan(1.4 * floor.rms);
  });
  it('points that one bone carries wholly go exactly as they went', () => {
    const mesh = shaped.character.meshes[0];
    const influences = mesh.influences!;
    let [seen, most] = [0, 0];
    for (const { node, distance } of after.worst) {
      if (shaped.character.nodes[node].mesh !== 0) continue;
      distance.forEach((far, index) => {
        if (influences.offsets[index + 1] - influences.offsets[index] !== 1) return;
        if (a.meshes[0].influences!.offsets[index + 1] - a.meshes[0].influences!.offsets[index] !== 1) return;
        seen++;
        most = Math.max(most, far);
      });
    }
    expect(seen).toBeGreaterThan(500);
    expect(most).toBeLessThan(2e-6);
  });
  it('is the same on both sides, whole at its seams, with no face turned round', () => {
    const plane = sidePlaneOf(shaped.motionSource)!;
    const [one, other] = [posed, shaped].map(({ character }) => placedMeshes(character));
    let [paired, uneven, torn, turned] = [0, 0, 0, 0];
    other.forEach(({ mesh, points }, k) => {
      const first = one[k].points;
      const { pointOfVertex, vertexOfPoint } = pointsOf(one[k].mesh);
      pointOfVertex.forEach((point, index) => {
        for (let i = 0; i < 3; i++)
          torn = Math.max(torn, Math.abs(points[index * 3 + i] - points[vertexOfPoint[point] * 3 + i]));
      });
      const twins = mirrorTwins(first, plane, 1e-4);
      twins.forEach((twin, index) => {
        if (twin < 0) return;
        paired++;
        if (Math.abs(points[index * 3] + points[twin * 3] - 2 * plane.offset * plane.normal[0]) > 1e-4)
          uneven++;
      });
      for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++) {
        const [x, y, z] = [0, 1, 2].map((corner) => mesh.corners[mesh.polygonOffsets[polygon] + corner] * 3);
        const normal = (at: Float32Array) => {
          const side = (i: number) => [0, 1, 2].map((bone) => at[i + bone] - at[x + bone]);
          const [u, world] = [side(y), side(z)];
          return [
            u[1] * world[2] - u[2] * world[1],
            u[2] * world[0] - u[0] * world[2],
            u[0] * world[1] - u[1] * world[0],
          ];
        };
        const [was, is] = [normal(first), normal(points)];
        const cosine =
          was.reduce((sum, n, i) => sum + n * is[i], 0) / (Math.hypot(...was) * Math.hypot(...is) || 1);
        if (cosine < -0.3) turned++;
      }
    });
    expect(torn).toBeLessThan(1e-6);
    expect(turned).toBe(0);
    expect(paired).toBeGreaterThan(5000);
    expect(uneven / paired).toBeLessThan(0.02);
  });
  it('tells how far it went from the posed mesh, and keeps what must hold', async () => {
    const { moved, rms, max, bones } = shaped.report.rest!;
    expect(moved).toBeGreaterThan(500);
    expect(rms).toBeLessThan(max);
    let most = 0;
    const first = placedMeshes(posed.character);
    placedMeshes(shaped.character).forEach(({ points }, k) => {
      for (let i = 0; i < points.length; i += 3)
        most = Math.max(
          most,
          Math.hypot(...[0, 1, 2].map((bone) => points[i + bone] - first[k].points[i + bone])),
        );
    });
    expect(max).toBeCloseTo(most, 5);
    expect(bones[0].most).toBe(max);
    expect(brokenInvariants(shaped.character)).toEqual([]);
    expect(await validate(writeGlb(shaped.character).bytes)).toEqual([]);
  });
});

describe('played from the files alone (three.js: GLTFLoader, AnimationMixer, SkinnedMesh)', () => {
  /** The mean distance of all points over moments of the first clip, metres; and the largest over feet and hands. */
  async function apart(before: Character, after: Character) {
    const [one, other] = await Promise.all(
      [before, after].map((character) => threeGltf(writeGlb(character).bytes)),
    );
    const seconds = clipSeconds(before.clips[0]);
    let [sum, count] = [0, 0];
    const far: number[] = [];
    for (const at of [0.13, 0.41, 0.77]) {
      const [first, then] = [playedPoints(one, 0, at * seconds), playedPoints(other, 0, at * seconds)];
      expect([...then.keys()].sort()).toEqual([...first.keys()].sort());
      for (const [name, points] of first) {
        const rotation = then.get(name)!;
        for (let i = 0; i < points.length; i += 3) {
          const square =
            (points[i] - rotation[i]) ** 2 +
            (points[i + 1] - rotation[i + 1]) ** 2 +
            (points[i + 2] - rotation[i + 2]) ** 2;
          sum += square;
          far.push(Math.sqrt(square));
        }
        count += points.length / 3;
      }
    }
    far.sort((x, y) => x - y);
    return { rms: Math.sqrt(sum / count), middle: far[far.length >> 1] };
  }
  it('a clip made for the old stance plays as it played, nearer than on the posed mesh', async () => {
    const [before, after] = [await apart(a, posed.character), await apart(a, shaped.character)];
    expect(after.rms).toBeLessThan(0.4 * before.rms);
    // Most of the body is carried by one bone at a time, and goes exactly where it went: no hovering.
    expect(after.middle).toBeLessThan(1e-5);
  });
  it('a clip that is shared with the skeleton turns every bone as it does there', async () => {
    const [shared, mine] = await Promise.all(
      [deckhand, shaped.character].map((character) => threeGltf(writeGlb(character).bytes)),
    );
    let seen = 0;
    for (const time of [0.2, 0.9, 1.6]) {
      const there = playedTurns(shared, shared, 0, time);
      for (const [name, turn] of playedTurns(mine, shared, 0, time)) {
        const same = there.get(name);
        if (!same) continue;
        seen++;
        expect(Math.abs(turn.dot(same))).toBeGreaterThan(1 - 1e-6);
      }
    }
    expect(seen).toBeGreaterThan(200);
  });
  it('joints that stand where they stood move as they moved, whatever keys them and however: ≤ 0.3 mm', async () => {
    const at = (name: string) => a.nodes.findIndex((node) => node.name === name);
    const key = (
      name: string,
      path: Channel['path'],
      interpolation: Channel['interpolation'],
      values: number[],
    ) => ({
      node: at(name),
      path,
      interpolation,
      times: Float32Array.of(0, 0.4, 1.1),
      values: Float32Array.from(values),
    });
    const hand = a.nodes[at('hand_lt')].translation;
    const shifted = (by: number) => hand.map((x, k) => x + (k === 0 ? by : 0));
    const q = (degrees: number) => quatAbout([0, 0, 1], (degrees * Math.PI) / 180);
    const none = [0, 0, 0, 0];
    const channels: Channel[] = [
      key('hand_lt', 'translation', 'LINEAR', [...shifted(0), ...shifted(0.03), ...shifted(-0.02)]),
      key('hand_rt', 'rotation', 'STEP', [...q(0), ...q(30), ...q(-20)]),
      key('arm_upper_lt', 'rotation', 'CUBICSPLINE', [
        ...none,
        ...q(-60),
        ...[0, 0, 1, 0],
        ...none,
        ...q(20),
        ...[0, 0, -1, 0],
        ...none,
        ...q(-40),
        ...none,
      ]),
      key('spine_1', 'rotation', 'LINEAR', [...q(0), ...q(14), ...q(-10)]),
      key('spine_2', 'rotation', 'LINEAR', [...quatAbout([1, 0, 0], 0.2), ...q(-12), ...q(9)]),
    ];
    const keyed = { ...a, clips: [{ name: 'keyed in every way', channels }] };
    const out = onto(keyed, skeletonOf(a), { mode: 'target', weights: 'example' });
    const { rms } = await apart(keyed, out.character);
    expect(rms).toBeLessThan(3e-4);
  });
});

it('is the same on both sides even where all that is played moves one side alone', () => {
  const [{ channels }] = a.clips;
  const oneSided = { ...a, clips: [{ name: 'wave', channels: channels.slice(0, 1) }] };
  const out = onto(oneSided, skeletonOf(deckhand), { rest: 'example' });
  const { normal, offset } = sidePlaneOf(out.motionSource)!;
  const [first, then] = [posed, out].map(({ character }) => placedMeshes(character));
  let [paired, most] = [0, 0];
  then.forEach(({ points }, k) => {
    const twins = mirrorTwins(first[k].points, { normal, offset }, 1e-4);
    if (twins.filter((twin) => twin >= 0).length < 0.95 * twins.length) return;
    twins.forEach((twin, index) => {
      if (twin < 0 || twins[twin] < 0) return;
      paired++;
      // How far the point stands from where the mirror shows its twin.
      const by = 2 * (normal.reduce((sum, n, i) => sum + n * points[twin * 3 + i], 0) - offset);
      const off = normal.map((n, i) => points[index * 3 + i] - (points[twin * 3 + i] - by * n));
      most = Math.max(most, Math.hypot(...off));
    });
  });
  expect(paired).toBeGreaterThan(5000);
  expect(most).toBeLessThan(5e-6);
});

it('the worst places stand at the joint that was turned, and the joint is named by how far', () => {
  const poses = posesFor(a, suggest(skeletonOf(a), skeletonOf(deckhand))).filter((_, k) => k % 5 === 0);
  const { above, below, degrees, share } = turnedJoint(shaped, prove(shaped, poses))!;
  const name = (node: number) => shaped.character.nodes[node].name;
  expect(name(below)).toMatch(/^arm_upper_/);
  expect(name(above)).toMatch(/^(collar|spine)_/);
  expect(degrees).toBeCloseTo(60, 0);
  expect(share).toBeGreaterThan(0.25);
  // Joints moved to the mesh turn against nothing.
  const target = onto(a, skeletonOf(deckhand), { mode: 'target' });
  expect(turnedJoint(target, prove(target, poses))).toBe(null);
});

it('an A-posed body stands in VRM’s T-pose and moves nearer to how it moved', () => {
  const poses = posesFor(a, suggest(skeletonOf(a), VRM_HUMANOID)).filter((_, k) => k % 8 === 0);
  const [before, after] = [onto(a, VRM_HUMANOID), onto(a, VRM_HUMANOID, { rest: 'example' })];
  expect(prove(after, poses).rms).toBeLessThan(0.9 * prove(before, poses).rms);
});
