import type { Attribute, Character, Influences, Mesh } from '@/core/character/model';
import { EMPTY_CARRIED, node } from '@/core/character/model';
import { influencesFrom } from '@/core/geometry/influences';

const attribute = (data: Float32Array, size: number): Attribute => ({
  data,
  size,
  normalized: false,
  type: `VEC${size}`,
});

/** A mesh of polygons over points given as triples. */
export function meshFrom(
  points: readonly (readonly number[])[],
  polygons: readonly (readonly number[])[],
  influences: Influences | null = null,
): Mesh {
  const offsets = [0];
  for (const polygon of polygons) offsets.push(offsets[offsets.length - 1] + polygon.length);
  return {
    name: 'mesh',
    vertexCount: points.length,
    attributes: { POSITION: attribute(Float32Array.from(points.flat()), 3) },
    pieces: [
      {
        vertexStart: 0,
        vertexCount: points.length,
        polygonStart: 0,
        polygonCount: polygons.length,
        material: -1,
        attributes: ['POSITION'],
        mode: 4,
      },
    ],
    polygonOffsets: Uint32Array.from(offsets),
    corners: Uint32Array.from(polygons.flat()),
    polygonOrigin: 'encoded',
    influences,
    influenceStorage: influences ? { weights: 'f32', joints: 'u8', sets: 1 } : null,
    morphs: [],
  };
}

/** A character that shows one mesh and has no bones. */
export const characterOf = (mesh: Mesh): Character => ({
  name: mesh.name,
  nodes: [node({ name: mesh.name, kind: 'mesh', mesh: 0 })],
  meshes: [mesh],
  skins: [],
  clips: [],
  sets: [],
  carried: { ...EMPTY_CARRIED, scenes: [{ json: {}, roots: [0] }] },
  source: { format: 'made', generator: '', unitMetres: 1, files: [] },
  notes: [],
});

/**
 * A tube of rings along +X from 0 to 2, bound to two bones that meet at x = 1, half and half on the middle
 * ring.
 */
export function tube(segments = 16, rings = 9, radius = 0.1): Character {
  const points: number[][] = [];
  const rows: [number, number][][] = [];
  const polygons: number[][] = [];
  for (let row = 0; row < rings; row++) {
    for (let k = 0; k < segments; k++) {
      const x = (2 * row) / (rings - 1);
      const a = (k / segments) * 2 * Math.PI;
      points.push([x, radius * Math.cos(a), radius * Math.sin(a)]);
      const share = Math.min(1, Math.max(0, x - 0.5));
      rows.push([
        [0, 1 - share],
        [1, share],
      ]);
    }
  }
  for (let row = 1; row < rings; row++)
    for (let k = 0; k < segments; k++) {
      const n = (k + 1) % segments;
      polygons.push([
        (row - 1) * segments + k,
        (row - 1) * segments + n,
        row * segments + n,
        row * segments + k,
      ]);
    }
  const inverseBinds = Float32Array.from([
    1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, -1, 0, 0, 1,
  ]);
  return {
    name: 'tube',
    nodes: [
      node({ name: 'lower', kind: 'bone' }),
      node({ name: 'upper', kind: 'bone', parent: 0, translation: [1, 0, 0] }),
      node({ name: 'tube', kind: 'mesh', mesh: 0, skin: 0 }),
    ],
    meshes: [meshFrom(points, polygons, influencesFrom(rows))],
    skins: [{ name: 'tube', joints: [0, 1], inverseBinds }],
    clips: [],
    sets: [],
    carried: { ...EMPTY_CARRIED, scenes: [{ json: {}, roots: [0, 2] }] },
    source: { format: 'made', generator: '', unitMetres: 1, files: [] },
    notes: [],
  };
}

/** The mesh with one side of a quad nearly at the other: a face thin as a splinter. */
export function withSplinter(mesh: Mesh, face: number): Mesh {
  const { data } = mesh.attributes.POSITION;
  const places = Float32Array.from(data);
  const from = mesh.polygonOffsets[face];
  for (const [start, end] of [
    [0, 1],
    [3, 2],
  ])
    for (let k = 0; k < 3; k++) {
      const [at, to] = [mesh.corners[from + start] * 3 + k, mesh.corners[from + end] * 3 + k];
      places[at] += 0.9995 * (places[to] - places[at]);
    }
  return {
    ...mesh,
    attributes: { ...mesh.attributes, POSITION: { ...mesh.attributes.POSITION, data: places } },
  };
}

/** The quads of a box whose corners go round the lower side and then round the upper one, outward. */
export const BOX_FACES = [
  [0, 3, 2, 1],
  [4, 5, 6, 7],
  [0, 1, 5, 4],
  [1, 2, 6, 5],
  [2, 3, 7, 6],
  [3, 0, 4, 7],
] as const;
