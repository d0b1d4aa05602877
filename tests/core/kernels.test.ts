import fc from 'fast-check';
import {
  Bone,
  BufferAttribute,
  BufferGeometry,
  Matrix4,
  Quaternion,
  Skeleton as ThreeSkeleton,
  SkinnedMesh,
  Vector3,
} from 'three';
import { WebIO } from '@gltf-transform/core';
import { sortPrimitiveWeights } from '@gltf-transform/functions';
import {
  compose,
  composeMatrix,
  decompose,
  determinant3,
  invertAffine,
  quatAbout,
  quatBetween,
  quatOfRotation,
  quatRotate,
  times,
} from '@/core/geometry/matrix';
import {
  influencesFrom,
  limitInfluences,
  limitPlain,
  remapInfluences,
  roundExactly,
  totalWeight,
} from '@/core/geometry/influences';
import { placedPoints } from '@/core/character/deform';
import { residentSkin, skinMatrices, skinPoints } from '@/core/geometry/skinning';
import { PointTree } from '@/core/geometry/point-tree';
import { limitFast } from '@/core/geometry/wasm';
import { forClosePairs, nearestWithin } from '@/core/geometry/point-grid';
import { weldExact } from '@/core/geometry/weld';
import { posedWorld } from '@/core/motion/pose';
import { readGltf } from '@/core/formats/gltf/read';
import { castCharacter, handBytes } from './support/cast';
import { tube } from './support/build';
import { anyReal, real } from './support/random';

const small = anyReal(-5, 5);
const unitQuat = fc
  .tuple(small, small, small, small)
  .filter((rotation) => Math.hypot(...rotation) > 0.1)
  .map((rotation) => rotation.map((x) => x / Math.hypot(...rotation)));
const scale = fc.tuple(...[0, 1, 2].map(() => real(0.2, 4)));

describe('matrices, against three.js', () => {
  it('composes, multiplies, inverts and splits as three.js does', () => {
    fc.assert(
      fc.property(
        fc.tuple(small, small, small),
        unitQuat,
        scale,
        fc.tuple(small, small, small),
        unitQuat,
        (translation, rotation, s, t2, q2) => {
          const a = composeMatrix(translation, rotation, s);
          const b = composeMatrix(t2, q2, [1, 1, 1]);
          const ra = new Matrix4().compose(
            new Vector3(...translation),
            new Quaternion(...(rotation as [number, number, number, number])),
            new Vector3(...(s as [number, number, number])),
          );
          const rb = new Matrix4().compose(
            new Vector3(...t2),
            new Quaternion(...(q2 as [number, number, number, number])),
            new Vector3(1, 1, 1),
          );
          const product = times(a, b);
          const reference = new Matrix4().multiplyMatrices(ra, rb).elements;
          for (let i = 0; i < 16; i++) expect(product[i]).toBeCloseTo(reference[i], 8);
          const inverse = invertAffine(a)!;
          const ri = ra.clone().invert().elements;
          for (let i = 0; i < 16; i++) expect(inverse[i]).toBeCloseTo(ri[i], 6);
          expect(determinant3(a)).toBeCloseTo(s[0] * s[1] * s[2], 6);
          const parts = decompose(a);
          const back = new Float64Array(16);
          compose(back, 0, parts.translation, parts.rotation, parts.scale);
          for (let i = 0; i < 16; i++) expect(back[i]).toBeCloseTo(a[i], 7);
        },
      ),
    );
  });

  it('turns one direction into another by the smallest rotation', () => {
    fc.assert(
      fc.property(fc.tuple(small, small, small), fc.tuple(small, small, small), (a, b) => {
        fc.pre(Math.hypot(...a) > 0.1 && Math.hypot(...b) > 0.1);
        const row = quatRotate(quatBetween(a, b), a);
        const length = Math.hypot(...a) / Math.hypot(...b);
        row.forEach((x, k) => expect(x).toBeCloseTo(b[k] * length, 5));
      }),
    );
    expect(quatRotate(quatBetween([1, 0, 0], [-1, 0, 0]), [1, 0, 0])[0]).toBeCloseTo(-1, 9);
  });

  it('reads a rotation back from its matrix', () => {
    fc.assert(
      fc.property(unitQuat, (rotation) => {
        const quat = quatOfRotation(composeMatrix([0, 0, 0], rotation, [1, 1, 1]));
        expect(Math.abs(quat.reduce((sum, x, k) => sum + x * rotation[k], 0))).toBeCloseTo(1, 9);
      }),
    );
  });
});

describe('linear blend skinning', () => {
  it('gives the points of three.js, vertex by vertex, in random poses', () => {
    const character = castCharacter('deckhand-clean.glb');
    const nodeIndex = character.nodes.findIndex((node) => node.name === 'oilskin coat');
    const mesh = character.meshes[character.nodes[nodeIndex].mesh];
    const skin = character.skins[character.nodes[nodeIndex].skin];
    const influences = mesh.influences!;
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(mesh.attributes.POSITION.data as Float32Array, 3));
    const joints = new Uint16Array(mesh.vertexCount * 4);
    const weights = new Float32Array(mesh.vertexCount * 4);
    for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
      for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++) {
        joints[vertex * 4 + k - influences.offsets[vertex]] = influences.joint[k];
        weights[vertex * 4 + k - influences.offsets[vertex]] = influences.weight[k];
      }
    geometry.setAttribute('skinIndex', new BufferAttribute(joints, 4));
    geometry.setAttribute('skinWeight', new BufferAttribute(weights, 4));
    const bones = skin.joints.map(() => {
      const bone = new Bone();
      bone.matrixAutoUpdate = false;
      return bone;
    });
    const inverses = skin.joints.map((_, j) =>
      new Matrix4().fromArray(Array.from(skin.inverseBinds.subarray(j * 16, j * 16 + 16))),
    );
    const reference = new SkinnedMesh(geometry);
    reference.bind(new ThreeSkeleton(bones, inverses), new Matrix4());
    for (let pose = 0; pose < 3; pose++) {
      const world = posedWorld(
        character,
        new Map(
          skin.joints.map((j, i) => [
            j,
            quatAbout([Math.sin(i), Math.cos(i), 0], 0.5 * Math.sin(i * 3.1 + pose)),
          ]),
        ),
      );
      bones.forEach((bone, i) =>
        bone.matrixWorld.fromArray(Array.from(world.subarray(skin.joints[i] * 16, skin.joints[i] * 16 + 16))),
      );
      reference.skeleton.update();
      const mine = placedPoints(mesh, skin, nodeIndex, world);
      const vector = new Vector3();
      let worst = 0;
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++) {
        reference.getVertexPosition(vertex, vector);
        worst = Math.max(
          worst,
          Math.hypot(
            vector.x - mine[vertex * 3],
            vector.y - mine[vertex * 3 + 1],
            vector.z - mine[vertex * 3 + 2],
          ),
        );
      }
      expect(worst).toBeLessThan(2e-6);
    }
  });

  // Closed form: Kavan et al. 2007. A ring bound half and half and twisted by θ keeps cos(θ/2) of its radius.
  it.each([
    [0, 1],
    [60, Math.cos(Math.PI / 6)],
    [90, Math.SQRT1_2],
    [180, 0],
  ])('a ring bound half and half and twisted %d° keeps %d of its radius', (degrees, share) => {
    const character = tube();
    const world = posedWorld(character, new Map([[1, quatAbout([1, 0, 0], (degrees * Math.PI) / 180)]]));
    const points = placedPoints(character.meshes[0], character.skins[0], 2, world);
    const ring = 4 * 16;
    for (let vertex = ring; vertex < ring + 16; vertex++)
      expect(Math.hypot(points[vertex * 3 + 1], points[vertex * 3 + 2])).toBeCloseTo(0.1 * share, 6);
  });

  it('leaves every point in place at rest, and takes no notice of the mesh node', () => {
    const character = tube();
    const moved = {
      ...character,
      nodes: character.nodes.map((node, i) => (i === 2 ? { ...node, translation: [7, 7, 7] } : node)),
    };
    expect(
      Array.from(placedPoints(character.meshes[0], character.skins[0], 2, posedWorld(moved, new Map()))),
    ).toEqual(Array.from(character.meshes[0].attributes.POSITION.data));
    expect(skinMatrices(character.skins[0], posedWorld(character, new Map())).length).toBe(24);
  });
});

const rows = fc.array(
  fc
    .array(fc.tuple(fc.nat(40), anyReal(0, 1)), { maxLength: 12 })
    .map((row) => [...new Map(row)] as [number, number][]),
  { minLength: 1, maxLength: 40 },
);

describe('influences', () => {
  it('after limiting, every vertex has at most the limit, sums to one, and has kept its heaviest', () => {
    fc.assert(
      fc.property(rows, fc.integer({ min: 1, max: 8 }), (list, limit) => {
        const { influences, trimmed } = limitInfluences(influencesFrom(list), limit);
        list.forEach((row, index) => {
          const live = row.filter(([, w]) => Math.fround(w) > 0);
          const n = influences.offsets[index + 1] - influences.offsets[index];
          expect(n).toBe(Math.min(limit, live.length));
          if (n === 0) return;
          let sum = 0;
          let least = Infinity;
          for (let k = influences.offsets[index]; k < influences.offsets[index + 1]; k++) {
            sum += influences.weight[k];
            least = Math.min(least, live.find(([j]) => j === influences.joint[k])![1]);
          }
          expect(Math.abs(sum - 1)).toBeLessThan(2e-7 * n + 1e-9);
          expect(live.filter(([, w]) => Math.fround(w) > Math.fround(least)).length).toBeLessThan(limit + 1);
          expect(trimmed.includes(index)).toBe(live.length > limit);
        });
      }),
    );
  });

  it('keeps the same joints as gltf-transform’s sortPrimitiveWeights', async () => {
    const document = await new WebIO().readBinary(handBytes('left'));
    const before = readGltf([{ name: 'left.glb', bytes: handBytes('left') }]).meshes[0].influences!;
    const primitive = document.getRoot().listMeshes()[0].listPrimitives()[0];
    sortPrimitiveWeights(primitive, 4);
    const accessor = primitive.getAttribute('JOINTS_0')!;
    const otherAccessor = primitive.getAttribute('WEIGHTS_0')!;
    // The reference limits in fours; the two heaviest that it leaves are compared.
    const mine = limitInfluences(before, 2).influences;
    for (let vertex = 0; vertex < accessor.getCount(); vertex += 7) {
      const theirs = accessor
        .getElement(vertex, [])
        .map((x, k) => [x, otherAccessor.getElement(vertex, [])[k]] as const)
        .filter(([, x]) => x > 0)
        .sort((a, b) => b[1] - a[1])
        .slice(0, 2);
      const sum = theirs.reduce((sum, [, x]) => sum + x, 0);
      for (const [joint, weight] of theirs) {
        let got = 0;
        for (let k = mine.offsets[vertex]; k < mine.offsets[vertex + 1]; k++)
          if (mine.joint[k] === joint) got = mine.weight[k];
        expect(got).toBeCloseTo(weight / sum, 5);
      }
    }
  });

  it('rounds to whole numbers that sum exactly, none off by more than one', () => {
    fc.assert(
      fc.property(
        fc.array(anyReal(0, 1), { minLength: 1, maxLength: 8 }),
        fc.constantFrom(255, 65535),
        (weights, whole) => {
          const sum = weights.reduce((a, b) => a + b, 0);
          fc.pre(sum > 1e-6);
          const row = roundExactly(weights, whole);
          expect(row.reduce((a, b) => a + b, 0)).toBe(whole);
          row.forEach((x, i) => expect(Math.abs(x - (weights[i] / sum) * whole)).toBeLessThan(1));
        },
      ),
    );
  });

  it('totals the weight', () =>
    expect(
      totalWeight(
        influencesFrom([
          [
            [0, 0.25],
            [1, 0.75],
          ],
          [[1, 1]],
        ]),
      ),
    ).toBe(2));
});

describe('the SIMD kernels give what the plain loops give', () => {
  it('limiting, to the bit', () => {
    fc.assert(
      fc.property(rows, fc.integer({ min: 1, max: 8 }), fc.constantFrom(0, 0.1, 0.6), (list, limit, dust) => {
        const influences = influencesFrom(list);
        expect(limitFast(influences, limit, Math.fround(dust))).toEqual(
          limitPlain(influences, limit, Math.fround(dust)),
        );
      }),
    );
  });
  it('renaming joints before limiting, to the bit', () => {
    fc.assert(
      fc.property(
        rows,
        fc.array(fc.nat(20), { minLength: 41, maxLength: 41 }),
        fc.integer({ min: 1, max: 8 }),
        (list, to, limit) => {
          const influences = influencesFrom(list);
          const before = {
            offsets: influences.offsets.slice(),
            joint: influences.joint.slice(),
            weight: influences.weight.slice(),
          };
          expect(limitFast(influences, limit, 0, { to, jointCount: 21 })).toEqual(
            limitPlain(remapInfluences(influences, to, 21), limit, 0),
          );
          expect({ ...influences }).toEqual(before);
        },
      ),
    );
  });
  it('skinning, to a millionth, in random poses', () => {
    const character = castCharacter('deckhand.glb');
    const mesh = character.meshes[1];
    const skin = character.skins[0];
    const points = mesh.attributes.POSITION.data as Float32Array;
    const fast = residentSkin(points, mesh.influences!, skin.joints.length)!;
    const [a, b] = [new Float32Array(points.length), new Float32Array(points.length)];
    for (let pose = 0; pose < 3; pose++) {
      const matrices = skinMatrices(
        skin,
        posedWorld(
          character,
          new Map(skin.joints.map((j, i) => [j, quatAbout([0, 1, 0], Math.sin(i + pose))])),
        ),
      );
      fast.pose(matrices, a);
      skinPoints(points, mesh.influences!, matrices, b);
      expect(Math.max(...a.map((x, i) => Math.abs(x - b[i])))).toBeLessThan(1e-6);
    }
  });
});

describe('points', () => {
  const grid = fc.array(fc.tuple(fc.nat(3), fc.nat(3), fc.nat(3)), { minLength: 1, maxLength: 60 });
  it('welds exactly those vertices that stand at the same place', () => {
    fc.assert(
      fc.property(grid, (list) => {
        const { pointOfVertex, pointCount } = weldExact(Float32Array.from(list.flat()));
        expect(pointCount).toBe(new Set(list.map(String)).size);
        for (let i = 0; i < list.length; i++)
          for (let j = 0; j < i; j++)
            expect(pointOfVertex[i] === pointOfVertex[j]).toBe(String(list[i]) === String(list[j]));
      }),
    );
    expect(weldExact(Float32Array.from([0, 0, 0, -0, 0, -0])).pointCount).toBe(1);
  });
  it('finds exactly the pairs that a search over all finds', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(small, small, small), { maxLength: 40 }),
        real(0.05, 2),
        (list, distance) => {
          const positions = Float32Array.from(list.flat());
          const found = new Set<string>();
          forClosePairs(positions, distance, (a, b) => found.add(`${Math.min(a, b)},${Math.max(a, b)}`));
          const all = new Set<string>();
          for (let i = 0; i < list.length; i++)
            for (let j = 0; j < i; j++)
              if (
                (positions[i * 3] - positions[j * 3]) ** 2 +
                  (positions[i * 3 + 1] - positions[j * 3 + 1]) ** 2 +
                  (positions[i * 3 + 2] - positions[j * 3 + 2]) ** 2 <=
                distance * distance
              )
                all.add(`${j},${i}`);
          expect(found).toEqual(all);
        },
      ),
    );
  });
  it('finds how far the nearest is as the k-d tree does, and nothing beyond the distance', () => {
    const cloud = fc.array(fc.tuple(small, small, small), { minLength: 1, maxLength: 40 });
    fc.assert(
      fc.property(cloud, cloud, real(0.05, 2), (own, asked, reach) => {
        const points = Float32Array.from(own.flat());
        const places = Float32Array.from(asked.flat());
        const tree = new PointTree(points);
        nearestWithin(points, places, reach).forEach((far, i) => {
          const place = [places[i * 3], places[i * 3 + 1], places[i * 3 + 2]] as const;
          const point = tree.nearest(...place, reach);
          const wanted = point < 0 ? Infinity : Math.hypot(...place.map((x, k) => x - points[point * 3 + k]));
          if (point < 0) expect(far).toBe(Infinity);
          else expect(far).toBeCloseTo(wanted, 5);
        });
      }),
    );
  });
});
