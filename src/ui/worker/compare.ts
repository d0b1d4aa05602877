/** Two revisions beside each other. */
import { bonesOf } from '@/core/character/hierarchy';
import { placedMeshes } from '@/core/character/measure';
import type { Character } from '@/core/character/model';
import type { Measure } from '@/core/contracts/measure';
import type { Brief } from '@/core/house/brief';
import { nodesAfter } from '@/core/house/effects';
import { measuresOf } from '@/core/rooms/placement/measures';
import { type Figure, figureOf } from './figure';

export interface ThingCounts {
  readonly nodes: number;
  readonly bones: number;
  readonly meshes: number;
  readonly vertices: number;
  readonly polygons: number;
  readonly clips: number;
}

export interface Comparison {
  readonly figures: readonly [Figure, Figure];
  /** How far every vertex of the second lies from the first, metres, by mesh node. */
  readonly apart: readonly { readonly node: number; readonly distance: Float32Array }[];
  readonly most: number;
  readonly where: string;
  /** Vertices that lie elsewhere. */
  readonly points: number;
  /** Names of nodes that only the first has, and only the second. */
  readonly lost: readonly string[];
  readonly came: readonly string[];
  readonly measures: readonly [Measure[], Measure[]];
  readonly counts: readonly [ThingCounts, ThingCounts];
}

const FELT = 1e-6;

/** Lays the second revision on the first. */
export function compareCharacters(a: Character, b: Character, brief: Brief): Comparison {
  const nodeOf = nodesAfter(a, b);
  const back = new Map<number, number>();
  nodeOf.forEach((to, from) => {
    if (to >= 0) back.set(to, from);
  });
  const old = new Map(placedMeshes(a).map((p) => [p.node, p.points]));
  let most = 0;
  let where = '';
  let points = 0;
  const apart = placedMeshes(b).flatMap((p) => {
    const before = old.get(back.get(p.node) ?? -1);
    if (!before || before.length !== p.points.length) return [];
    const distance = distancesOf(p.points, before);
    for (const d of distance) {
      if (d > FELT) points++;
      if (d <= most) continue;
      most = d;
      where = b.nodes[p.node].name;
    }
    return [{ node: p.node, distance }];
  });
  return {
    figures: [figureOf(a), figureOf(b)],
    apart,
    most,
    where,
    points,
    lost: a.nodes.flatMap((n, i) => (nodeOf[i] < 0 ? [n.name] : [])),
    came: b.nodes.flatMap((n, i) => (back.has(i) ? [] : [n.name])),
    measures: [measuresOf(a, brief), measuresOf(b, brief)],
    counts: [countThings(a), countThings(b)],
  };
}

function distancesOf(p: Float32Array, q: Float32Array): Float32Array {
  const out = new Float32Array(p.length / 3);
  for (let v = 0; v < out.length; v++)
    out[v] = Math.hypot(p[v * 3] - q[v * 3], p[v * 3 + 1] - q[v * 3 + 1], p[v * 3 + 2] - q[v * 3 + 2]);
  return out;
}

const countThings = (c: Character): ThingCounts => ({
  nodes: c.nodes.length,
  bones: bonesOf(c).length,
  meshes: c.meshes.length,
  vertices: c.meshes.reduce((n, m) => n + m.vertexCount, 0),
  polygons: c.meshes.reduce((n, m) => n + m.polygonOffsets.length - 1, 0),
  clips: c.clips.length,
});
