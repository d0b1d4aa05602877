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
import { limitFast } from '@/core/geometry/wasm';
import { forClosePairs, weldExact } from '@/core/geometry/weld';
import { posedWorld } from '@/core/motion/pose';
import { readGltf } from '@/core/formats/gltf/read';
import { castCharacter, handBytes } from './support/cast';
import { tube } from './support/build';
import { anyReal, real } from './support/random';

const small = anyReal(-5, 5);
const unitQuat = fc
  .tuple(small, small, small, small)
  .filter((q) => Math.hypot(...q) > 0.1)
  .map((q) => q.map((x) => x / Math.hypot(...q)));
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
        (t, q, s, t2, q2) => {
          const a = composeMatrix(t, q, s);
          const b = composeMatrix(t2, q2, [1, 1, 1]);
          const ra = new Matrix4().compose(
            new Vector3(...t),
            new Quaternion(...(q as [number, number, number, number])),
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
        const r = quatRotate(quatBetween(a, b), a);
        const f = Math.hypot(...a) / Math.hypot(...b);
        r.forEach((x, k) => expect(x).toBeCloseTo(b[k] * f, 5));
      }),
    );
    expect(quatRotate(quatBetween([1, 0, 0], [-1, 0, 0]), [1, 0, 0])[0]).toBeCloseTo(-1, 9);
  });

  it('reads a rotation back from its matrix', () => {
    fc.assert(
      fc.property(unitQuat, (q) => {
        const r = quatOfRotation(composeMatrix([0, 0, 0], q, [1, 1, 1]));
        expect(Math.abs(r.reduce((s, x, k) => s + x * q[k], 0))).toBeCloseTo(1, 9);
      }),
    );
  });
});

describe('linear blend skinning', () => {
  it('gives the points of three.js, vertex by vertex, in random poses', () => {
    const character = castCharacter('deckhand-clean.glb');
    const n = character.nodes.findIndex((x) => x.name === 'oilskin coat');
    const mesh = character.meshes[character.nodes[n].mesh];
    const skin = character.skins[character.nodes[n].skin];
    const f = mesh.influences!;
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(mesh.attributes.POSITION.data as Float32Array, 3));
    const joints = new Uint16Array(mesh.vertexCount * 4);
    const weights = new Float32Array(mesh.vertexCount * 4);
    for (let v = 0; v < mesh.vertexCount; v++)
      for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
        joints[v * 4 + k - f.offsets[v]] = f.joint[k];
        weights[v * 4 + k - f.offsets[v]] = f.weight[k];
      }
    geometry.setAttribute('skinIndex', new BufferAttribute(joints, 4));
    geometry.setAttribute('skinWeight', new BufferAttribute(weights, 4));
    const bones = skin.joints.map(() => {
      const b = new Bone();
      b.matrixAutoUpdate = false;
      return b;
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
      bones.forEach((b, i) =>
        b.matrixWorld.fromArray(Array.from(world.subarray(skin.joints[i] * 16, skin.joints[i] * 16 + 16))),
      );
      reference.skeleton.update();
      const mine = placedPoints(mesh, skin, n, world);
      const p = new Vector3();
      let worst = 0;
      for (let v = 0; v < mesh.vertexCount; v++) {
        reference.getVertexPosition(v, p);
        worst = Math.max(worst, Math.hypot(p.x - mine[v * 3], p.y - mine[v * 3 + 1], p.z - mine[v * 3 + 2]));
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
    const c = tube();
    const world = posedWorld(c, new Map([[1, quatAbout([1, 0, 0], (degrees * Math.PI) / 180)]]));
    const p = placedPoints(c.meshes[0], c.skins[0], 2, world);
    const ring = 4 * 16;
    for (let v = ring; v < ring + 16; v++)
      expect(Math.hypot(p[v * 3 + 1], p[v * 3 + 2])).toBeCloseTo(0.1 * share, 6);
  });

  it('leaves every point in place at rest, and takes no notice of the mesh node', () => {
    const c = tube();
    const moved = { ...c, nodes: c.nodes.map((n, i) => (i === 2 ? { ...n, translation: [7, 7, 7] } : n)) };
    expect(Array.from(placedPoints(c.meshes[0], c.skins[0], 2, posedWorld(moved, new Map())))).toEqual(
      Array.from(c.meshes[0].attributes.POSITION.data),
    );
    expect(skinMatrices(c.skins[0], posedWorld(c, new Map())).length).toBe(24);
  });
});

const rows = fc.array(
  fc
    .array(fc.tuple(fc.nat(40), anyReal(0, 1)), { maxLength: 12 })
    .map((r) => [...new Map(r)] as [number, number][]),
  { minLength: 1, maxLength: 40 },
);

describe('influences', () => {
  it('after limiting, every vertex has at most the limit, sums to one, and has kept its heaviest', () => {
    fc.assert(
      fc.property(rows, fc.integer({ min: 1, max: 8 }), (list, limit) => {
        const { influences: f, trimmed } = limitInfluences(influencesFrom(list), limit);
        list.forEach((row, v) => {
          const live = row.filter(([, w]) => Math.fround(w) > 0);
          const n = f.offsets[v + 1] - f.offsets[v];
          expect(n).toBe(Math.min(limit, live.length));
          if (n === 0) return;
          let sum = 0;
          let least = Infinity;
          for (let k = f.offsets[v]; k < f.offsets[v + 1]; k++) {
            sum += f.weight[k];
            least = Math.min(least, live.find(([j]) => j === f.joint[k])![1]);
          }
          expect(Math.abs(sum - 1)).toBeLessThan(2e-7 * n + 1e-9);
          expect(live.filter(([, w]) => Math.fround(w) > Math.fround(least)).length).toBeLessThan(limit + 1);
          expect(trimmed.includes(v)).toBe(live.length > limit);
        });
      }),
    );
  });

  it('keeps the same joints as gltf-transform’s sortPrimitiveWeights', async () => {
    const document = await new WebIO().readBinary(handBytes('left'));
    const before = readGltf([{ name: 'left.glb', bytes: handBytes('left') }]).meshes[0].influences!;
    const primitive = document.getRoot().listMeshes()[0].listPrimitives()[0];
    sortPrimitiveWeights(primitive, 4);
    const j = primitive.getAttribute('JOINTS_0')!;
    const w = primitive.getAttribute('WEIGHTS_0')!;
    // The reference limits in fours; the two heaviest that it leaves are compared.
    const mine = limitInfluences(before, 2).influences;
    for (let v = 0; v < j.getCount(); v += 7) {
      const theirs = j
        .getElement(v, [])
        .map((x, k) => [x, w.getElement(v, [])[k]] as const)
        .filter(([, x]) => x > 0)
        .sort((a, b) => b[1] - a[1])
        .slice(0, 2);
      const sum = theirs.reduce((s, [, x]) => s + x, 0);
      for (const [joint, weight] of theirs) {
        let got = 0;
        for (let k = mine.offsets[v]; k < mine.offsets[v + 1]; k++)
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
        (w, whole) => {
          const sum = w.reduce((a, b) => a + b, 0);
          fc.pre(sum > 1e-6);
          const r = roundExactly(w, whole);
          expect(r.reduce((a, b) => a + b, 0)).toBe(whole);
          r.forEach((x, i) => expect(Math.abs(x - (w[i] / sum) * whole)).toBeLessThan(1));
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
        const f = influencesFrom(list);
        expect(limitFast(f, limit, Math.fround(dust))).toEqual(limitPlain(f, limit, Math.fround(dust)));
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
          const f = influencesFrom(list);
          const before = { offsets: f.offsets.slice(), joint: f.joint.slice(), weight: f.weight.slice() };
          expect(limitFast(f, limit, 0, { to, jointCount: 21 })).toEqual(
            limitPlain(remapInfluences(f, to, 21), limit, 0),
          );
          expect({ ...f }).toEqual(before);
        },
      ),
    );
  });
  it('skinning, to a millionth, in random poses', () => {
    const c = castCharacter('deckhand.glb');
    const m = c.meshes[1];
    const skin = c.skins[0];
    const points = m.attributes.POSITION.data as Float32Array;
    const fast = residentSkin(points, m.influences!, skin.joints.length)!;
    const [a, b] = [new Float32Array(points.length), new Float32Array(points.length)];
    for (let pose = 0; pose < 3; pose++) {
      const matrices = skinMatrices(
        skin,
        posedWorld(c, new Map(skin.joints.map((j, i) => [j, quatAbout([0, 1, 0], Math.sin(i + pose))]))),
      );
      fast.pose(matrices, a);
      skinPoints(points, m.influences!, matrices, b);
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
      fc.property(fc.array(fc.tuple(small, small, small), { maxLength: 40 }), real(0.05, 2), (list, d) => {
        const p = Float32Array.from(list.flat());
        const found = new Set<string>();
        forClosePairs(p, d, (a, b) => found.add(`${Math.min(a, b)},${Math.max(a, b)}`));
        const all = new Set<string>();
        for (let i = 0; i < list.length; i++)
          for (let j = 0; j < i; j++)
            if (
              (p[i * 3] - p[j * 3]) ** 2 +
                (p[i * 3 + 1] - p[j * 3 + 1]) ** 2 +
                (p[i * 3 + 2] - p[j * 3 + 2]) ** 2 <=
              d * d
            )
              all.add(`${j},${i}`);
        expect(found).toEqual(all);
      }),
    );
  });
});
