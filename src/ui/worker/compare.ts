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
  const old = new Map(placedMeshes(a).map((placed) => [placed.node, placed.points]));
  let most = 0;
  let where = '';
  let points = 0;
  const apart = placedMeshes(b).flatMap((placed) => {
    const before = old.get(back.get(placed.node) ?? -1);
    if (!before || before.length !== placed.points.length) return [];
    const distance = distancesOf(placed.points, before);
    for (const oneDistance of distance) {
      if (oneDistance > FELT) points++;
      if (oneDistance <= most) continue;
      most = oneDistance;
      where = b.nodes[placed.node].name;
    }
    return [{ node: placed.node, distance }];
  });
  return {
    figures: [figureOf(a), figureOf(b)],
    apart,
    most,
    where,
    points,
    lost: a.nodes.flatMap((node, i) => (nodeOf[i] < 0 ? [node.name] : [])),
    came: b.nodes.flatMap((node, i) => (back.has(i) ? [] : [node.name])),
    measures: [measuresOf(a, brief), measuresOf(b, brief)],
    counts: [countThings(a), countThings(b)],
  };
}

function distancesOf(points: Float32Array, rotation: Float32Array): Float32Array {
  const out = new Float32Array(points.length / 3);
  for (let vertex = 0; vertex < out.length; vertex++)
    out[vertex] = Math.hypot(
      points[vertex * 3] - rotation[vertex * 3],
      points[vertex * 3 + 1] - rotation[vertex * 3 + 1],
      points[vertex * 3 + 2] - rotation[vertex * 3 + 2],
    );
  return out;
}

const countThings = (character: Character): ThingCounts => ({
  nodes: character.nodes.length,
  bones: bonesOf(character).length,
  meshes: character.meshes.length,
  vertices: character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0),
  polygons: character.meshes.reduce((sum, mesh) => sum + mesh.polygonOffsets.length - 1, 0),
  clips: character.clips.length,
});
