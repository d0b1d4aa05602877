import { placedMeshes } from '@/core/character/measure';
import { bonesOf, childrenOf, parentBone, restWorld } from '@/core/character/hierarchy';
import type { Character, Mesh } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { readName } from '@/core/anatomy/names';
import { decompose, quatRotate } from '@/core/geometry/matrix';

/** What the stage draws of one mesh. World space, metres. */
export interface FigureMesh {
  readonly node: number;
  readonly name: string;
  readonly bound: boolean;
  /** 3 per vertex. */
  readonly points: Float32Array;
  readonly normals: Float32Array;
  /** 3 per triangle, and the polygon of every triangle. */
  readonly triangles: Uint32Array;
  readonly polygonOf: Uint32Array;
  /** Ends of the true polygon edges, 2 per edge; the first `creases` of them are sharp or open. */
  readonly edges: Uint32Array;
  readonly creases: number;
}

export interface FigureBone {
  readonly node: number;
  readonly name: string;
  readonly parent: number;
  readonly side: 'left' | 'right' | 'middle';
  readonly from: readonly number[];
  readonly to: readonly number[];
  /** A direction across the bone in which its hinge opens. */
  readonly across: readonly number[];
  readonly helper: boolean;
}

export interface Figure {
  readonly meshes: readonly FigureMesh[];
  readonly bones: readonly FigureBone[];
}

/** A shape that is not there yet, or not any more: drawn thinly over the figure. World space, metres. */
export interface Ghost {
  readonly points: Float32Array;
  readonly triangles: Uint32Array;
}

/** Polygons fanned out: 3 vertices a triangle. */
export function trianglesOf(mesh: Mesh): Uint32Array {
  const { polygonOffsets: offsets, corners } = mesh;
  const out = new Uint32Array((corners.length - 2 * (offsets.length - 1)) * 3);
  let o = 0;
  for (let q = 0; q + 1 < offsets.length; q++)
    for (let k = offsets[q] + 1; k < offsets[q + 1] - 1; k++) {
      out[o++] = corners[offsets[q]];
      out[o++] = corners[k];
      out[o++] = corners[k + 1];
    }
  return out;
}

export function figureOf(character: Character): Figure {
  return {
    meshes: placedMeshes(character).map((p) => meshFigure(character, p)),
    bones: boneFigures(character),
  };
}

function meshFigure(character: Character, p: ReturnType<typeof placedMeshes>[number]): FigureMesh {
  const { polygonOffsets: offsets, corners } = p.mesh;
  const { pointOfVertex, pointCount } = pointsOf(p.mesh);
  const polygons = offsets.length - 1;
  let count = 0;
  for (let q = 0; q < polygons; q++) count += offsets[q + 1] - offsets[q] - 2;
  const triangles = new Uint32Array(count * 3);
  const polygonOf = new Uint32Array(count);
  const sums = new Float32Array(pointCount * 3);
  const known = new EdgeTable(corners.length);
  const facing = new Float32Array(polygons * 3);
  let t = 0;
  for (let q = 0; q < polygons; q++) {
    const start = offsets[q];
    const end = offsets[q + 1];
    let nx = 0;
    let ny = 0;
    let nz = 0;
    for (let k = start; k < end; k++) {
      const v = corners[k];
      const w = corners[k + 1 === end ? start : k + 1];
      const a = v * 3;
      const b = w * 3;
      nx += (p.points[a + 1] - p.points[b + 1]) * (p.points[a + 2] + p.points[b + 2]);
      ny += (p.points[a + 2] - p.points[b + 2]) * (p.points[a] + p.points[b]);
      nz += (p.points[a] - p.points[b]) * (p.points[a + 1] + p.points[b + 1]);
    }
    const size = Math.hypot(nx, ny, nz) || 1;
    facing[q * 3] = nx / size;
    facing[q * 3 + 1] = ny / size;
    facing[q * 3 + 2] = nz / size;
    for (let k = start; k < end; k++) {
      const v = corners[k];
      const w = corners[k + 1 === end ? start : k + 1];
      known.add(pointOfVertex[v], pointOfVertex[w], v, w, q, facing);
    }
    for (let k = start; k < end; k++) {
      const i = pointOfVertex[corners[k]] * 3;
      sums[i] += nx;
      sums[i + 1] += ny;
      sums[i + 2] += nz;
    }
    for (let k = start + 1; k < end - 1; k++) {
      triangles[t * 3] = corners[start];
      triangles[t * 3 + 1] = corners[k];
      triangles[t * 3 + 2] = corners[k + 1];
      polygonOf[t++] = q;
    }
  }
  const normals = new Float32Array(p.points.length);
  for (let v = 0; v < pointOfVertex.length; v++) {
    const i = pointOfVertex[v] * 3;
    const l = Math.hypot(sums[i], sums[i + 1], sums[i + 2]) || 1;
    for (let k = 0; k < 3; k++) normals[v * 3 + k] = sums[i + k] / l;
  }
  return {
    node: p.node,
    name: character.nodes[p.node].name || p.mesh.name,
    bound: !!p.skin,
    points: p.points.slice(),
    normals,
    triangles,
    polygonOf,
    ...known.edges(),
  };
}

/** Beyond this angle between its two faces an edge is sharp. */
const SHARP = Math.cos((50 * Math.PI) / 180);

/** Edges between points, each once, in flat arrays: a mesh of a million vertices has two million of them. */
class EdgeTable {
  private readonly mask: number;
  private readonly table: Int32Array;
  private readonly ends: Uint32Array;
  private readonly drawn: Uint32Array;
  /** Polygon of an edge that has been met once, −1 of a smooth one, −2 of a sharp one. */
  private readonly state: Int32Array;
  private count = 0;

  constructor(most: number) {
    let size = 16;
    while (size < most * 1.6) size *= 2;
    this.mask = size - 1;
    this.table = new Int32Array(size).fill(-1);
    this.ends = new Uint32Array(most * 2);
    this.drawn = new Uint32Array(most * 2);
    this.state = new Int32Array(most);
  }

  add(pa: number, pb: number, v: number, w: number, face: number, facing: Float32Array): void {
    const a = pa < pb ? pa : pb;
    const b = pa < pb ? pb : pa;
    let h = Math.imul(a, 73_856_093) ^ Math.imul(b, 19_349_663);
    h = (h ^ (h >>> 15)) & this.mask;
    for (;;) {
      const e = this.table[h];
      if (e < 0) {
        const at = this.count++;
        this.table[h] = at;
        this.ends[at * 2] = a;
        this.ends[at * 2 + 1] = b;
        this.drawn[at * 2] = v;
        this.drawn[at * 2 + 1] = w;
        this.state[at] = face;
        return;
      }
      if (this.ends[e * 2] === a && this.ends[e * 2 + 1] === b) {
        const other = this.state[e];
        if (other >= 0)
          this.state[e] =
            facing[face * 3] * facing[other * 3] +
              facing[face * 3 + 1] * facing[other * 3 + 1] +
              facing[face * 3 + 2] * facing[other * 3 + 2] <
            SHARP
              ? -2
              : -1;
        return;
      }
      h = (h + 1) & this.mask;
    }
  }

  /** All edges, those that are sharp or have one face only first. */
  edges(): { edges: Uint32Array; creases: number } {
    const edges = new Uint32Array(this.count * 2);
    let first = 0;
    let last = this.count;
    for (let e = 0; e < this.count; e++) {
      const at = this.state[e] === -1 ? --last : first++;
      edges[at * 2] = this.drawn[e * 2];
      edges[at * 2 + 1] = this.drawn[e * 2 + 1];
    }
    return { edges, creases: first };
  }
}

function boneFigures(character: Character): FigureBone[] {
  const world = restWorld(character.nodes);
  const children = childrenOf(character.nodes);
  const bones = bonesOf(character);
  const place = (i: number) => [world[i * 16 + 12], world[i * 16 + 13], world[i * 16 + 14]];
  return bones.map((b) => {
    const n = character.nodes[b];
    const reading = readName(n.name);
    const from = place(b);
    const kids = children[b].filter((c) => character.nodes[c].kind === 'bone');
    const same = kids.filter(
      (c) =>
        !readName(character.nodes[c].name).twist && readName(character.nodes[c].name).side === reading.side,
    );
    // A bone points at the child that goes on; where many leave it, at the one of its own side and kind.
    const next =
      kids.length === 1
        ? kids[0]
        : (same.find((c) => readName(character.nodes[c].name).part === reading.part) ??
          (same.length === 1 ? same[0] : same.length > 0 && same.length < 4 ? same[0] : -1));
    const parent = parentBone(character.nodes, b);
    let to = next >= 0 ? place(next) : null;
    if (!to || Math.hypot(...to.map((x, k) => x - from[k])) < 1e-4) {
      const p = parent >= 0 ? place(parent) : null;
      const d = p ? from.map((x, k) => x - p[k]) : [0, 0.1, 0];
      const l = Math.hypot(...d) || 1;
      const long =
        kids.length > 0
          ? Math.hypot(
              ...kids.reduce((s, c) => place(c).map((x, k) => s[k] + (x - from[k]) / kids.length), [0, 0, 0]),
            )
          : Math.min(l * 0.6, 0.09);
      to = from.map((x, k) => x + (d[k] / l) * Math.max(long, 0.012));
    }
    const across = quatRotate(decompose(world, b * 16).rotation, [0, 1, 0]);
    return {
      node: b,
      name: n.name,
      parent,
      side: reading.side,
      from,
      to,
      across,
      helper: reading.part === '' || reading.part === 'root',
    };
  });
}
