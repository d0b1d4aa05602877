/** What follows the hand: a stroke of the brush, and the search that it stands on, on bodies of two sizes. */
import { BufferAttribute, BufferGeometry, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { restWorld } from '../core/character/hierarchy';
import { characterHeight } from '../core/character/measure';
import type { Character } from '../core/character/model';
import { withoutNodes } from '../core/character/remove';
import { fanned } from '../core/geometry/fan';
import { TriangleTree, triangleBoxes } from '../core/geometry/triangle-tree';
import { PaintedMesh, type WeightBrush } from '../core/rooms/weights/painting';
import { refineTo } from './refine';
import type { BenchRow } from './row';

/** Points that a dab of the rows touches. */
const TOUCHED = 2_000;

const clock = (work: () => void): number => {
  const began = performance.now();
  work();
  return performance.now() - began;
};

const middle = (times: readonly number[]): number =>
  [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)];

/** The bound mesh of a character with most vertices, and the node that shows it. */
function largestBound(character: Character): number {
  const size = (node: number) => character.meshes[character.nodes[node].mesh].vertexCount;
  return character.nodes
    .flatMap(({ mesh, skin }, i) => (mesh >= 0 && skin >= 0 ? [i] : []))
    .reduce((best, node) => (size(node) > size(best) ? node : best));
}

/** A radius round a point of a painted mesh in which about so many points lie. */
function radiusFor(points: Float32Array, vertex: number, count: number): number {
  const far = Array.from({ length: points.length / 3 }, (_, i) =>
    Math.hypot(
      points[i * 3] - points[vertex * 3],
      points[i * 3 + 1] - points[vertex * 3 + 1],
      points[i * 3 + 2] - points[vertex * 3 + 2],
    ),
  ).sort((a, b) => a - b);
  return far[Math.min(count, far.length - 1)];
}

function strokeRows(character: Character, most: number): BenchRow[] {
  const node = largestBound(character);
  const mesh = character.meshes[character.nodes[node].mesh];
  const painted = new PaintedMesh(character, node, restWorld(character.nodes));
  const { joints } = character.skins[character.nodes[node].skin];
  const { offsets, joint } = mesh.influences!;
  const vertex = Math.floor(mesh.vertexCount / 3);
  const bone = joints[joint[offsets[vertex]]];
  const radius = radiusFor(painted.points, vertex, TOUCHED);
  const brush: WeightBrush = { bone, radius, strength: 0.2, target: 1, hardness: 0, limit: 4 };
  // To and fro, so that every event changes what it touches.
  const away: WeightBrush = { ...brush, target: 0 };
  const at = [...painted.points.subarray(vertex * 3, vertex * 3 + 3)];
  painted.begin(bone);
  let told = 0;
  const times = Array.from({ length: 90 }, (_, i) =>
    clock(() => {
      painted.lift();
      painted.strokeTo(at, i % 2 ? brush : away, 1);
      told = painted.takeTouched(bone)?.ids.length ?? told;
    }),
  );
  const delta = painted.end()!;
  const undo = Array.from({ length: 7 }, (_, i) =>
    clock(() => {
      painted.put(delta.vertices, i % 2 ? delta.after : delta.before);
      painted.takeTouched(bone);
    }),
  );
  const count = mesh.vertexCount.toLocaleString('en').replaceAll(',', ' ');
  const within = (work: string, ms: number, budget: number): BenchRow => ({
    work,
    measured: `${ms.toFixed(2)} ms`,
    budget: `≤ ${budget} ms`,
    holds: ms <= budget,
  });
  return [
    within(
      `a stroke’s event to its new ranges, ${count} vertices, ${told} of them told`,
      middle(times.slice(40)),
      most,
    ),
    within(`a stroke of ${delta.vertices.length} points taken back, ${count} vertices`, middle(undo), 50),
  ];
}

function searchRows(character: Character): BenchRow[] {
  const node = largestBound(character);
  const mesh = character.meshes[character.nodes[node].mesh];
  const points = mesh.attributes.POSITION.data as Float32Array;
  const triangles = fanned(mesh.polygonOffsets, mesh.corners);
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(points, 3));
  geometry.setIndex(new BufferAttribute(triangles, 1));
  const height = characterHeight(character);
  const places = Array.from(
    { length: 20_000 },
    (_, i) => new Vector3(Math.sin(i * 1.7) * 0.4, 0.5 + 0.5 * Math.sin(i * 2.3), Math.sin(i * 3.1) * 0.3),
  ).map((place) => place.multiplyScalar(height));
  // In turn, so that both meet the same weather; the middle of the rounds counts.
  const rounds = Array.from({ length: 5 }, () => {
    let own: TriangleTree | null = null;
    let other: MeshBVH | null = null;
    const build = clock(() => {
      own = new TriangleTree(points, triangles, triangleBoxes(points, triangles));
    });
    const theirBuild = clock(() => {
      other = new MeshBVH(geometry, { indirect: true });
    });
    const find = clock(() => {
      for (const { x, y, z } of places) own?.closestPoint(x, y, z);
    });
    const target = { point: new Vector3(), distance: 0, faceIndex: 0 };
    const theirFind = clock(() => {
      for (const place of places) other?.closestPointToPoint(place, target);
    });
    return { build: theirBuild / build, find: theirFind / find };
  });
  const count = (triangles.length / 3).toLocaleString('en').replaceAll(',', ' ');
  const ratio = (work: string, times: number, least: number): BenchRow => ({
    work: `${work}, ${count} triangles, against three-mesh-bvh`,
    measured: `${times.toFixed(1)} ×`,
    budget: `≥ ${least} ×`,
    holds: times >= least,
  });
  return [
    ratio('a tree over polygons built', middle(rounds.map(({ build }) => build)), 1),
    ratio('the closest point of a surface', middle(rounds.map(({ find }) => find)), 2),
  ];
}

/** The largest bound mesh of a character by itself, made finer until that one mesh has so many vertices. */
function refinedBody(character: Character, vertices: number): Character {
  const body = largestBound(character);
  const others = character.nodes.flatMap(({ mesh }, i) => (mesh >= 0 && i !== body ? [i] : []));
  return refineTo(withoutNodes(character, new Set(others)).character, vertices);
}

/**
 * @param fine of about 100 000 vertices
 * @param other whose body is painted once it has more than a million
 */
export const handRows = (fine: Character, other: Character): BenchRow[] => [
  ...searchRows(fine),
  ...strokeRows(fine, 4),
  ...strokeRows(refinedBody(other, 1_120_000), 16),
];
