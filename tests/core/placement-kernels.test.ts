/**
 * What placement computes with: inside and outside, mirrors, baking, binds, reach; against three.js, searches
 * over all, and closed forms.
 */
import fc from 'fast-check';
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Matrix4,
  Mesh as ThreeMesh,
  MeshBasicMaterial,
  Raycaster,
  Vector3,
} from 'three';
import { MeshBVH, acceleratedRaycast } from 'three-mesh-bvh';
import { turnFromUp, toHouseAxes } from '@/core/character/axes';
import { restPlace } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import { type Character, node, replaceAt } from '@/core/character/model';
import { underSimilarity } from '@/core/character/similarity';
import { readCharacter } from '@/core/formats';
import { withinReach } from '@/core/formats/reach';
import { composeMatrix, quatAbout, quatRotate } from '@/core/geometry/matrix';
import { placedPoints } from '@/core/character/deform';
import { forClosePairs } from '@/core/geometry/point-grid';
import { bakedMesh, isIdentity } from '@/core/character/baked';
import { bindsOf, withPointsThrough } from '@/core/character/bind';
import { lieInside } from '@/core/rooms/placement/inside';
import { symmetryOf } from '@/core/geometry/symmetry';
import { posedWorld } from '@/core/motion/pose';
import { trianglesOf } from '@/ui/worker/figure';
import { meshFrom, tube } from './support/build';
import { castCharacter } from './support/cast';
import { box } from './support/figure';
import { dice, randomCharacter, real, seeds } from './support/random';

const apart = (a: ArrayLike<number>, b: ArrayLike<number>) => {
  let d = 0;
  for (let i = 0; i < a.length; i++) d = Math.max(d, Math.abs(a[i] - b[i]));
  return d;
};

describe('inside a body', () => {
  it('as rays of three.js cross the same surface', () => {
    const character = castCharacter('stoker.dae');
    const placed = placedMeshes(character).filter((placed) => placed.skin);
    const draw = dice(11);
    const meshes = placed.map((placed) => {
      const geometry = new BufferGeometry();
      geometry.setAttribute('position', new BufferAttribute(placed.points, 3));
      geometry.setIndex(new BufferAttribute(trianglesOf(placed.mesh), 1));
      const mesh = new ThreeMesh(geometry, new MeshBasicMaterial({ side: DoubleSide }));
      // The same rays, faster: a tree over the triangles.
      geometry.boundsTree = new MeshBVH(geometry);
      mesh.raycast = acceleratedRaycast;
      return mesh;
    });
    const ray = new Raycaster();
    const places: number[] = [];
    for (let i = 0; i < 60; i++)
      places.push(draw.between(-1.6, 1.6), draw.between(0, 4.2), draw.between(-0.6, 0.6));
    const mine = lieInside(places, placed);
    let agreed = 0;
    let asked = 0;
    for (let i = 0; i < 60; i++) {
      const from = new Vector3(places[i * 3], places[i * 3 + 1], places[i * 3 + 2]);
      // Leaving faces minus entering ones, over a few odd directions; places where those disagree lie at a
      // hole or an edge.
      const votes = [
        [0.3, 0.2, 0.93],
        [-0.7, 0.4, 0.59],
        [0.1, -0.8, -0.59],
      ].map((way) => {
        ray.set(from, new Vector3(...(way as [number, number, number])).normalize());
        return (
          ray
            .intersectObjects(meshes, false)
            .reduce(
              (most, intersection) => most + (intersection.face!.normal.dot(ray.ray.direction) > 0 ? 1 : -1),
              0,
            ) > 0
        );
      });
      if (new Set(votes).size > 1) continue;
      asked++;
      if (mine[i].inside === votes[0]) agreed++;
    }
    expect(asked).toBeGreaterThan(45);
    expect(agreed).toBe(asked);
  });
  it('shells within shells are inside, what lies beside is as far out as its nearest vertex', () => {
    const shells = [box([0, 0, 0], [2, 2, 2]), box([0.5, 0.5, 0.5], [1.5, 1.5, 1.5])].map((b) =>
      meshFrom(b.points, b.polygons),
    );
    const placed = shells.map((mesh, node) => ({
      node,
      mesh,
      skin: null,
      points: mesh.attributes.POSITION.data as Float32Array,
    }));
    const lies = lieInside([1, 1, 1, 0.2, 0.2, 0.2, 3, 3, 3, -1, 0, 0], placed);
    expect(lies.map((ly) => ly.inside)).toEqual([true, true, false, false]);
    expect(lies[2].outside).toBeCloseTo(Math.sqrt(3), 6);
    expect(lies[3].outside).toBeCloseTo(1, 6);
  });
});

describe('the plane of symmetry', () => {
  it('of a cloud too dense to ask every point, moved anywhere', () =>
    fc.assert(
      fc.property(real(-2, 2), (offset) => {
        const draw = dice(5);
        const half = 80_000;
        const points = new Float32Array(half * 6);
        for (let i = 0; i < half; i++) {
          const [x, y, z] = [draw.between(0.01, 0.6), draw.between(0, 1.8), draw.between(-0.3, 0.3)];
          points.set([offset + x, y, z, offset - x, y, z], i * 6);
        }
        const found = symmetryOf([points], 0.0018)!;
        expect(found.share).toBeGreaterThan(0.95);
        expect(Math.abs(found.offset - offset)).toBeLessThan(1e-4);
      }),
      { numRuns: 5 },
    ));
  it('a few points tell nothing', () => expect(symmetryOf([new Float32Array(9)], 0.001)).toBeNull());
  it('ends, wherever the points are', () => {
    for (const far of [1e5, 1e9, 1e20, 1e37]) {
      const points = Float32Array.from({ length: 90 }, (_, i) => far + (i % 7));
      expect(() => symmetryOf([points], 1e-6)).not.toThrow();
    }
  });
});

describe('close pairs', () => {
  const pairsOf = (points: Float32Array, distance: number) => {
    const out: string[] = [];
    forClosePairs(points, distance, (a, b) => out.push(a < b ? `${a} ${b}` : `${b} ${a}`));
    return out.sort();
  };
  it('are those of a search over all, near the origin and far from it', () =>
    fc.assert(
      fc.property(seeds, fc.constantFrom(0, 1024, -65536, 4194304), (seed, far) => {
        const draw = dice(seed);
        const n = 60;
        const points = Float32Array.from({ length: n * 3 }, () => far + draw.below(6));
        const reach = 1.5;
        const all: string[] = [];
        for (let a = 0; a < n; a++)
          for (let b = a + 1; b < n; b++)
            if (Math.hypot(...[0, 1, 2].map((k) => points[a * 3 + k] - points[b * 3 + k])) <= reach)
              all.push(`${a} ${b}`);
        expect(pairsOf(points, reach)).toEqual(all.sort());
      }),
      { numRuns: 60 },
    ));
  it('end, wherever the points are and however small the distance', () => {
    for (const far of [1e9, 1e30, Number.POSITIVE_INFINITY])
      expect(() =>
        pairsOf(
          Float32Array.from({ length: 30 }, () => far),
          1e-12,
        ),
      ).not.toThrow();
  });
});

describe('baking a matrix into a mesh', () => {
  const matrices = fc
    .tuple(...Array.from({ length: 3 }, () => real(0.3, 2)), real(-3, 3), fc.boolean())
    .map(([x, y, z, a, mirror]) => {
      const [share, v, w] = [x, y, z].map(Number);
      return composeMatrix([share, -v, w], quatAbout([0.6, 0, 0.8], Number(a)), [
        mirror ? -share : share,
        v,
        w,
      ]);
    });
  it('takes points, normals and tangents where three.js takes them', () =>
    fc.assert(
      fc.property(seeds, matrices, (seed, matrix) => {
        const mesh = randomCharacter(seed).meshes[0];
        const vertexCount = mesh.vertexCount;
        const draw = dice(seed);
        const tangent = {
          data: Float32Array.from({ length: vertexCount * 4 }, (_, i) =>
            i % 4 === 3 ? 1 : draw.between(-1, 1),
          ),
          size: 4,
          normalized: false,
          type: 'VEC4',
        };
        const geometry = new BufferGeometry();
        geometry.setAttribute(
          'position',
          new BufferAttribute(Float32Array.from(mesh.attributes.POSITION.data), 3),
        );
        geometry.setAttribute(
          'normal',
          new BufferAttribute(Float32Array.from(mesh.attributes.NORMAL.data), 3),
        );
        geometry.setAttribute('tangent', new BufferAttribute(Float32Array.from(tangent.data), 4));
        geometry.applyMatrix4(new Matrix4().fromArray(Array.from(matrix)));
        const baked = bakedMesh({ ...mesh, attributes: { ...mesh.attributes, TANGENT: tangent } }, matrix);
        expect(apart(baked.attributes.POSITION.data, geometry.getAttribute('position').array)).toBeLessThan(
          1e-5,
        );
        const unit = (a: ArrayLike<number>, size: number) =>
          Array.from(a, (_, i) =>
            i % size < 3 ? a[i] / Math.hypot(...[0, 1, 2].map((k) => a[i - (i % size) + k])) : 0,
          );
        // three.js leaves a mirrored normal on its side; ours goes with the polygon, which is turned as well.
        expect(
          apart(unit(baked.attributes.NORMAL.data, 3), unit(geometry.getAttribute('normal').array, 3)),
        ).toBeLessThan(2e-5);
        expect(
          apart(unit(baked.attributes.TANGENT.data, 4), unit(geometry.getAttribute('tangent').array, 4)),
        ).toBeLessThan(2e-5);
        const mirrored = new Matrix4().fromArray(Array.from(matrix)).determinant() < 0;
        expect(baked.attributes.TANGENT.data[3]).toBe(mirrored ? -1 : 1);
        // A mirror turns every polygon round; the corner that it begins with does not matter.
        for (let polygon = 0; polygon + 1 < mesh.polygonOffsets.length; polygon++) {
          const of = (corners: Uint32Array) =>
            Array.from(corners.subarray(mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]));
          const wanted = mirrored ? of(mesh.corners).reverse() : of(mesh.corners);
          const got = of(baked.corners);
          const at = wanted.indexOf(got[0]);
          expect(got).toEqual([...wanted.slice(at), ...wanted.slice(0, at)]);
        }
      }),
      { numRuns: 40 },
    ));
  it('the identity is told from what is nearly it', () => {
    const one = composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1, 1]);
    const near = composeMatrix([0, 0, 0], [0, 0, 0, 1], [1, 1 + 1e-6, 1]);
    expect([isIdentity(one), isIdentity(near), isIdentity(near, 1e-5)]).toEqual([true, false, true]);
  });
});

describe('binds', () => {
  it('points and inverse binds taken through a matrix and back leave every pose alone', () =>
    fc.assert(
      fc.property(seeds, real(0.3, 3), (seed, radians) => {
        const character = randomCharacter(seed);
        const through = composeMatrix([0.3, -0.2, 0.5], quatAbout([0, 1, 0], radians), [
          radians,
          radians,
          radians,
        ]);
        const after = withPointsThrough(character, 0, through);
        const world = posedWorld(
          character,
          new Map(
            character.nodes.flatMap((node, i) =>
              node.kind === 'bone' ? [[i, quatAbout([0, 0, 1], 0.3)] as const] : [],
            ),
          ),
        );
        character.nodes.forEach((node, i) => {
          if (node.mesh < 0) return;
          const shown = (otherCharacter: Character) =>
            placedPoints(
              otherCharacter.meshes[otherCharacter.nodes[i].mesh],
              node.skin >= 0 ? otherCharacter.skins[node.skin] : null,
              i,
              world,
            );
          expect(apart(shown(after), shown(character))).toBeLessThan(1e-4);
        });
      }),
      { numRuns: 30 },
    ));
  it('how far rest and bind are apart is the distance that a joint was moved, and a turn is told from a stretch', () =>
    fc.assert(
      fc.property(real(0.01, 0.4), (by) => {
        const target = tube();
        const moved = {
          ...target,
          nodes: replaceAt(target.nodes, new Map([[1, { ...target.nodes[1], translation: [1 + by, 0, 0] }]])),
        };
        const [bind] = bindsOf(moved);
        expect(bind.posed).toBe(false);
        expect(Math.max(...bind.joints.map((joint) => joint.apart))).toBeCloseTo(by, 6);
        const turned = {
          ...target,
          nodes: replaceAt(
            target.nodes,
            new Map([[1, { ...target.nodes[1], rotation: quatAbout([0, 0, 1], by) }]]),
          ),
        };
        expect(bindsOf(turned)[0].posed).toBe(true);
        expect(bindsOf(target)[0].joints.every((joint) => joint.apart < 1e-7)).toBe(true);
      }),
      { numRuns: 20 },
    ));
  it('are asked anew under another tolerance', () => {
    const target = tube();
    const off = {
      ...target,
      nodes: replaceAt(target.nodes, new Map([[1, { ...target.nodes[1], translation: [1.01, 0, 0] }]])),
    };
    expect([bindsOf(off, 0.0005)[0].posed, bindsOf(off, 0.5)[0].posed]).toEqual([false, true]);
  });
});

describe('axes', () => {
  it.each([
    ['z', [0, 0, 1]],
    ['x', [1, 0, 0]],
    ['y', [0, 1, 0]],
  ] as const)('%s up comes to stand along +Y, and the hand of the axes stays', (axis, up) => {
    const turn = turnFromUp(axis);
    quatRotate(turn, up).forEach((x, k) => expect(x).toBeCloseTo(k === 1 ? 1 : 0, 12));
    expect(Math.hypot(...turn)).toBeCloseTo(1, 12);
  });
  it('a source in another unit and with another axis up is brought to metres and +Y', () => {
    const target = tube();
    const character = toHouseAxes({ ...target, source: { ...target.source, unitMetres: 0.01, upAxis: 'z' } });
    const [x, y, z] = restPlace(character.nodes, 1);
    expect([x, y, z].map((value) => Number(value.toFixed(9)) + 0)).toEqual([0.01, 0, 0]);
    expect(toHouseAxes(target)).toBe(target);
  });
});

describe('reach', () => {
  const target = tube();
  const far = 2e9;
  const big = (data: ArrayLike<number>) => {
    const out = Float32Array.from(data);
    out[4] = far;
    return out;
  };
  it.each<[string, Character, RegExp]>([
    [
      'a node',
      {
        ...target,
        nodes: replaceAt(target.nodes, new Map([[1, { ...target.nodes[1], translation: [far, 0, 0] }]])),
      },
      /a\.glb: node 1 “upper” stands or is scaled beyond all bounds, more than 1e\+9 m/,
    ],
    [
      'scales that only multiply to it',
      {
        ...target,
        nodes: [
          ...target.nodes,
          node({ name: 'a', scale: [1e5, 1e5, 1e5] }),
          node({ name: 'b', parent: 3, scale: [1e5, 1e5, 1e5] }),
        ],
      },
      /node 4 “b”/,
    ],
    [
      'a vertex',
      {
        ...target,
        meshes: [
          {
            ...target.meshes[0],
            attributes: {
              POSITION: {
                ...target.meshes[0].attributes.POSITION,
                data: big(target.meshes[0].attributes.POSITION.data),
              },
            },
          },
        ],
      },
      /vertex 1 of mesh 0/,
    ],
    [
      'an inverse bind',
      { ...target, skins: [{ ...target.skins[0], inverseBinds: big(target.skins[0].inverseBinds) }] },
      /inverse bind of joint 0 in skin 0/,
    ],
    [
      'a morph weight',
      { ...target, meshes: [{ ...target.meshes[0], morphWeights: [far] }] },
      /a morph weight of mesh 0/,
    ],
    [
      'a key of a clip',
      {
        ...target,
        clips: [
          {
            name: 'leap',
            channels: [
              {
                node: 1,
                path: 'translation',
                interpolation: 'LINEAR',
                times: Float32Array.of(0),
                values: Float32Array.of(0, far, 0),
              },
            ],
          },
        ],
      },
      /clip 0 “leap” moves “upper”/,
    ],
  ])('%s beyond all bounds is refused', (_, character, sentence) =>
    expect(() => withinReach(character, 'a.glb')).toThrow(sentence),
  );
  it('a scene of any sensible size is let through', () => {
    expect(withinReach(target, 'a.glb')).toBe(target);
    expect(() =>
      withinReach(
        underSimilarity(target, { scale: 1e6, rotation: [0, 0, 0, 1], translation: [1e6, 0, 0] }),
        'a.glb',
      ),
    ).not.toThrow();
    expect(() =>
      readCharacter([
        { name: 'a.obj', bytes: new TextEncoder().encode('v 0 0 0\nv 1e12 0 0\nv 0 1 0\nf 1 2 3\n') },
      ]),
    ).toThrow(/a\.obj: vertex \d of mesh 0/);
  });
});
