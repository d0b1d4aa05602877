/**
 * Real bodies, made finer: every polygon is cut into quads at the middles of its edges, what vertices carry
 * is averaged.
 */
import type { Attribute, Character, Influences, Mesh } from '../core/character/model';
import { influencesFrom } from '../core/geometry/influences';

const verticesOf = (character: Character): number =>
  character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);

/**
 * A character refined mesh by mesh, the largest polygons' mesh first, until it has about so many vertices.
 */
export function refineTo(character: Character, vertices: number): Character {
  let refined = character;
  const levels = character.meshes.map(() => 0);
  while (verticesOf(refined) < vertices * 0.9) {
    const { meshes } = refined;
    const least = Math.min(...levels);
    const size = (i: number) => meshes[i].vertexCount;
    const open = levels.flatMap((level, i) => (level === least ? [i] : []));
    const fits = open.filter((i) => verticesOf(refined) + size(i) * 3 <= vertices * 1.15);
    const next = (fits.length > 0 ? fits : open).sort((a, b) => size(b) - size(a))[0];
    levels[next]++;
    refined = { ...refined, meshes: meshes.map((mesh, i) => (i === next ? refineMesh(mesh) : mesh)) };
  }
  return refined;
}

/** New vertices and what they are the average of: the corners of an edge or of a polygon. */
class Middles {
  readonly parents: number[][] = [];
  private readonly edges = new Map<number, number>();

  constructor(private readonly count: number) {}

  of(corners: readonly number[]): number {
    this.parents.push([...corners]);
    return this.count + this.parents.length - 1;
  }

  ofEdge(a: number, b: number): number {
    const key = Math.min(a, b) * 2 ** 26 + Math.max(a, b);
    const known = this.edges.get(key);
    if (known !== undefined) return known;
    const made = this.of(a < b ? [a, b] : [b, a]);
    this.edges.set(key, made);
    return made;
  }
}

function refineMesh(mesh: Mesh): Mesh {
  const { polygonOffsets: offsets, corners } = mesh;
  const middles = new Middles(mesh.vertexCount);
  const quads: number[] = [];
  // Pieces follow each other; the new vertices of all of them stand at the end, in one piece.
  for (let polygon = 0; polygon + 1 < offsets.length; polygon++) {
    const ring = Array.from(corners.subarray(offsets[polygon], offsets[polygon + 1]));
    const middle = middles.of(ring);
    ring.forEach((value, k) => {
      const before = ring[(k + ring.length - 1) % ring.length];
      quads.push(
        value,
        middles.ofEdge(value, ring[(k + 1) % ring.length]),
        middle,
        middles.ofEdge(before, value),
      );
    });
  }
  const count = mesh.vertexCount + middles.parents.length;
  const polygons = quads.length / 4;
  const [first] = mesh.pieces;
  const kept = first.attributes.filter(
    (name) => mesh.attributes[name]?.data.length === mesh.vertexCount * mesh.attributes[name].size,
  );
  return {
    ...mesh,
    vertexCount: count,
    attributes: Object.fromEntries(
      kept.map((name) => [
        name,
        refineAttribute(mesh.attributes[name], middles.parents, DIRECTIONS.has(name)),
      ]),
    ),
    pieces: [
      {
        ...first,
        attributes: kept,
        vertexStart: 0,
        vertexCount: count,
        polygonStart: 0,
        polygonCount: polygons,
      },
    ],
    polygonOffsets: Uint32Array.from({ length: polygons + 1 }, (_, i) => i * 4),
    corners: Uint32Array.from(quads),
    influences: mesh.influences && refineInfluences(mesh.influences, middles.parents),
    morphs: [],
  };
}

/** What is a direction, and of length one. */
const DIRECTIONS: ReadonlySet<string> = new Set(['NORMAL', 'TANGENT']);

function refineAttribute(
  attribute: Attribute,
  parents: readonly (readonly number[])[],
  isDirection: boolean,
): Attribute {
  const { data, size } = attribute;
  const out = new Float32Array(data.length + parents.length * size);
  out.set(data);
  parents.forEach((from, i) => {
    for (let k = 0; k < size; k++) {
      let sum = 0;
      for (const v of from) sum += data[v * size + k];
      out[data.length + i * size + k] = sum / from.length;
    }
    if (isDirection) normalise(out, data.length + i * size);
  });
  return { ...attribute, data: out, normalized: false };
}

function normalise(a: Float32Array, at: number): void {
  const length = Math.hypot(a[at], a[at + 1], a[at + 2]) || 1;
  for (let k = 0; k < 3; k++) a[at + k] /= length;
}

function refineInfluences(influences: Influences, parents: readonly (readonly number[])[]): Influences {
  const count = influences.offsets.length - 1;
  const rowOf = (vertex: number): [number, number][] => {
    const row: [number, number][] = [];
    for (let k = influences.offsets[vertex]; k < influences.offsets[vertex + 1]; k++)
      row.push([influences.joint[k], influences.weight[k]]);
    return row;
  };
  const rows = Array.from({ length: count }, (_, vertex) => rowOf(vertex));
  for (const from of parents) {
    const sums = new Map<number, number>();
    for (const v of from)
      for (const [joint, weight] of rows[v]) sums.set(joint, (sums.get(joint) ?? 0) + weight / from.length);
    rows.push([...sums].sort((a, b) => b[1] - a[1]));
  }
  return influencesFrom(rows);
}
