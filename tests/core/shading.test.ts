/** Normals and tangents made anew: closed forms, what hard edges do, three.js, and the reference implementation of tangents (mikktspace). */
import fc from 'fast-check';
import { generateTangents } from 'mikktspace';
import { SphereGeometry, TorusKnotGeometry } from 'three';
import { brokenInvariants } from '@/core/character/invariants';
import { type Attribute, type Character, type Mesh, positionsOf } from '@/core/character/model';
import { topologyOf } from '@/core/character/topology';
import { normalise, quatAbout, quatRotate } from '@/core/geometry/matrix';
import { normalsOfGroups, smoothGroups, tangentsOf } from '@/core/geometry/shading';
import { briefById } from '@/core/house/briefs';
import { remedyById } from '@/core/house/registry';
import { BOX_FACES, characterOf, meshFrom } from './support/build';
import { castCharacter } from './support/cast';

const brief = briefById('handset')!;
const remedy = remedyById('recompute-normals')!;
const floats = (data: Float32Array, size: number): Attribute => ({
  data,
  size,
  normalized: false,
  type: `VEC${size}`,
});

const anew = (character: Character, more: Record<string, unknown> = {}): Character =>
  remedy.apply(character, remedy.params.cast({ node: character.nodes.findIndex(({ mesh }) => mesh === 0), ...more }), brief); // prettier-ignore

const cube = meshFrom(
  [[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0], [0, 0, 1], [1, 0, 1], [1, 1, 1], [0, 1, 1]], // prettier-ignore
  BOX_FACES,
);

/** The angle between two rows of three, degrees. */
const between = (rows: ArrayLike<number>, i: number, others: ArrayLike<number>, j: number): number => {
  const dot = [0, 1, 2].reduce((sum, k) => sum + rows[i * 3 + k] * others[j * 3 + k], 0);
  return (Math.acos(Math.max(-1, Math.min(1, dot))) * 180) / Math.PI;
};

describe('normals made anew', () => {
  it('of a cube without any: at its corners along the diagonals; with sharp edges hard, four times six that face along the axes', () => {
    const soft = anew(characterOf(cube)).meshes[0];
    expect(soft.vertexCount).toBe(8);
    for (let vertex = 0; vertex < 8; vertex++) {
      const [x, y, z] = positionsOf(cube).subarray(vertex * 3, vertex * 3 + 3);
      const diagonal = normalise([x - 0.5, y - 0.5, z - 0.5]);
      expect(between(soft.attributes.NORMAL.data, vertex, diagonal, 0)).toBeLessThan(0.05);
    }
    // However its sides are cut into triangles.
    const cut = meshFrom(Array.from({ length: 8 }, (_, i) => [...positionsOf(cube).subarray(i * 3, i * 3 + 3)]), BOX_FACES.flatMap(([a, b, c, d]) => [[a, b, c], [a, c, d]])); // prettier-ignore
    const same = anew(characterOf(cut)).meshes[0].attributes.NORMAL.data;
    for (let vertex = 0; vertex < 8; vertex++)
      expect(between(same, vertex, soft.attributes.NORMAL.data, vertex)).toBeLessThan(0.05);
    const hard = anew(characterOf(cube), { hard: 'angle', angle: 60 });
    expect(brokenInvariants(hard)).toEqual([]);
    const [mesh] = hard.meshes;
    expect(mesh.vertexCount).toBe(24);
    const axes = Array.from({ length: 24 }, (_, vertex) =>
      [...mesh.attributes.NORMAL.data.subarray(vertex * 3, vertex * 3 + 3)].map(
        (x) => Math.round(x * 1e6) / 1e6,
      ),
    );
    expect(axes.every((axis) => axis.filter((x) => Math.abs(x) === 1).length === 1)).toBe(true);
    // What is hard stays so, and comes back when all of it was smoothed over.
    expect(() => anew(hard)).toThrow(/already/);
    const spoilt = { ...mesh, attributes: { ...mesh.attributes, NORMAL: floats(Float32Array.from(mesh.attributes.NORMAL.data, (x, i) => (i < 3 ? -x : x)), 3) } }; // prettier-ignore
    const back = anew({ ...hard, meshes: [spoilt] }).meshes[0];
    expect(back.attributes.NORMAL.data).toEqual(mesh.attributes.NORMAL.data);
    const none = anew(hard, { hard: 'none' }).meshes[0];
    expect(none.vertexCount).toBe(24);
    for (let vertex = 0; vertex < 24; vertex++) {
      const place = positionsOf(mesh).subarray(vertex * 3, vertex * 3 + 3);
      const diagonal = normalise([place[0] - 0.5, place[1] - 0.5, place[2] - 0.5]);
      expect(between(none.attributes.NORMAL.data, vertex, diagonal, 0)).toBeLessThan(0.05);
    }
  });

  it('of a ball are its radii, whatever its seams, nearer than the sum of areas that three.js takes', () => {
    const geometry = new SphereGeometry(1, 24, 16);
    const own = geometry.getAttribute('normal').array.slice();
    // Its seam is closed but for the rounding of a sine.
    const places = (geometry.getAttribute('position').array as Float32Array).map(
      (x) => Math.round(x * 1e6) / 1e6,
    );
    const index = geometry.getIndex()!.array;
    const triangles = Array.from({ length: index.length / 3 }, (_, i) => [...index.slice(i * 3, i * 3 + 3)]);
    const points = Array.from({ length: places.length / 3 }, (_, i) => [...places.slice(i * 3, i * 3 + 3)]);
    const made = anew(characterOf(meshFrom(points, triangles))).meshes[0];
    geometry.computeVertexNormals();
    const theirs = geometry.getAttribute('normal').array;
    let [worst, worstTheirs] = [0, 0];
    made.corners.forEach((vertex) => {
      worst = Math.max(worst, between(made.attributes.NORMAL.data, vertex, own, vertex));
      worstTheirs = Math.max(worstTheirs, between(theirs, vertex, own, vertex));
    });
    expect(worst).toBeLessThan(2);
    expect(worst).toBeLessThan(worstTheirs);
  });

  it('turn with the figure, and are the same whatever was there before', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const axis = normalise([Math.sin(seed), Math.cos(seed * 3), 0.3]);
        const turn = quatAbout(axis, seed % 7);
        const plain = meshFrom([[0, 0, 0], [2, 0, 0.3], [2, 1, 0], [0, 1.4, 0.2], [1, 0.5, 1 + (seed % 3)]], [[0, 1, 4], [1, 2, 4], [2, 3, 4], [3, 0, 4]]); // prettier-ignore
        const before = anew(characterOf(plain)).meshes[0].attributes.NORMAL.data;
        const data = positionsOf(plain).slice();
        for (let i = 0; i < data.length; i += 3)
          data.set(quatRotate(turn, [data[i], data[i + 1], data[i + 2]]), i);
        const moved = {
          ...plain,
          attributes: { POSITION: floats(data, 3), NORMAL: floats(data.slice(), 3) },
        };
        const after = anew(characterOf(moved), { hard: 'none' }).meshes[0].attributes.NORMAL.data;
        for (let vertex = 0; vertex < 5; vertex++) {
          const [x, y, z] = before.subarray(vertex * 3, vertex * 3 + 3);
          expect(between(after, vertex, quatRotate(turn, [x, y, z]), 0)).toBeLessThan(0.05);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('keep what morph targets do to them: at the end of one they are those of the moved surface', () => {
    const delta = Float32Array.from({ length: 24 }, (_, i) => (i % 3 === 0 && i >= 12 ? 0.8 : 0));
    const mesh: Mesh = {
      ...cube,
      morphs: [{ attributes: { POSITION: floats(delta, 3), NORMAL: floats(new Float32Array(24), 3) } }],
    };
    const made = anew(characterOf(mesh)).meshes[0];
    const end = positionsOf(cube).map((x, i) => x + delta[i]);
    const whole = smoothGroups(topologyOf(cube).halfEdges, () => false, cube.corners);
    const wanted = normalsOfGroups(whole, end, cube.polygonOffsets, cube.corners);
    // It leans: at rest the corners face along the diagonals.
    const rest = made.attributes.NORMAL.data;
    expect(Math.max(...cube.corners.map((vertex, corner) => between(rest, vertex, wanted, whole.groupOf[corner])))).toBeGreaterThan(5); // prettier-ignore
    const moved = made.attributes.NORMAL.data.map((x, i) => x + made.morphs[0].attributes.NORMAL.data[i]);
    cube.corners.forEach((vertex, corner) =>
      expect(between(moved, vertex, wanted, whole.groupOf[corner])).toBeLessThan(0.05),
    );
  });

  it('of the clean Deckhand stay near those he has, and nothing else of him changes', () => {
    const clean = castCharacter('deckhand-clean.glb');
    const after = anew(clean);
    expect(positionsOf(after.meshes[0])).toBe(positionsOf(clean.meshes[0]));
    expect(after.meshes[0].influences).toBe(clean.meshes[0].influences);
    const [before, now] = [clean, after].map(({ meshes }) => meshes[0].attributes.NORMAL.data);
    const off = Array.from({ length: before.length / 3 }, (_, i) => between(before, i, now, i)).toSorted((a, b) => a - b); // prettier-ignore
    // By area and by angle differ most where small faces lie beside large ones, as at lips and nails.
    expect(off[Math.floor(off.length * 0.5)]).toBeLessThan(1);
    expect(off[Math.floor(off.length * 0.95)]).toBeLessThan(10);
  });
});

describe('tangents made anew', () => {
  it('are those of the reference but for what it splits, on a knot with its seams', () => {
    const geometry = new TorusKnotGeometry(1, 0.3, 96, 12, 2, 3);
    const [points, normals, uvs] = ['position', 'normal', 'uv'].map((name) => geometry.getAttribute(name).array as Float32Array); // prettier-ignore
    const triangles = geometry.getIndex()!.array;
    const own = tangentsOf({ points, normals, uvs, triangles });
    const flat = (rows: Float32Array, size: number) =>
      Float32Array.from({ length: triangles.length * size }, (_, i) => rows[triangles[Math.floor(i / size)] * size + (i % size)]); // prettier-ignore
    const reference = generateTangents(flat(points, 3), flat(normals, 3), flat(uvs, 2));
    let worst = 0;
    for (let corner = 0; corner < triangles.length; corner++) {
      const vertex = triangles[corner];
      const dot = [0, 1, 2].reduce((sum, k) => sum + own[vertex * 4 + k] * reference[corner * 4 + k], 0);
      worst = Math.max(worst, (Math.acos(Math.max(-1, Math.min(1, dot))) * 180) / Math.PI);
      // As glTF 2.0 wants it: the other way than the reference.
      expect(own[vertex * 4 + 3]).toBe(-reference[corner * 4 + 3]);
    }
    expect(worst).toBeLessThan(1.5);
  });

  it('come with the normals where there were some, of length one and across them', () => {
    const uv = Float32Array.from({ length: 16 }, (_, i) => Math.sin(i * 1.7));
    const before = { ...cube, attributes: { ...cube.attributes, TEXCOORD_0: floats(uv, 2), TANGENT: floats(new Float32Array(32), 4) } }; // prettier-ignore
    const { NORMAL, TANGENT } = anew(characterOf(before)).meshes[0].attributes;
    for (let vertex = 0; vertex < 8; vertex++) {
      const tangent = TANGENT.data.subarray(vertex * 4, vertex * 4 + 3);
      expect(Math.hypot(...tangent)).toBeCloseTo(1, 5);
      expect(between(NORMAL.data, vertex, tangent, 0)).toBeCloseTo(90, 1);
      expect(Math.abs(TANGENT.data[vertex * 4 + 3])).toBe(1);
    }
    expect(anew(characterOf(cube)).meshes[0].attributes.TANGENT).toBeUndefined();
  });
});
