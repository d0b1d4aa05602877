/** Welding, adjacency and volumes against libraries that do the same in WebAssembly, in one run. */
import manifold from 'manifold-3d';
import { MeshoptSimplifier } from 'meshoptimizer';
import { type Character, positionsOf } from '../core/character/model';
import { fanned } from '../core/geometry/fan';
import { halfEdgesOf } from '../core/geometry/half-edges';
import { islandsOf, volumesOfIslands } from '../core/geometry/islands';
import { weldExact } from '../core/geometry/weld';
import { refineTo } from './refine';
import type { BenchRow } from './row';

const ROUNDS = 5;

const clock = (run: () => void): number => {
  const began = performance.now();
  run();
  return performance.now() - began;
};

const middle = (numbers: readonly number[]): number => numbers.toSorted((a, b) => a - b)[numbers.length >> 1];

/** The body of a character, made finer: points welded, half-edges built, and its volume, each against a library in turn with it. */
export async function referenceRows(character: Character): Promise<BenchRow[]> {
  await MeshoptSimplifier.ready;
  const module = await manifold();
  module.setup();
  const [mesh] = refineTo(character, 400_000).meshes.toSorted((a, b) => b.vertexCount - a.vertexCount);
  const positions = positionsOf(mesh);
  const triangles = fanned(mesh.polygonOffsets, mesh.corners);
  const offsets = new Uint32Array(triangles.length / 3 + 1).map((_, i) => i * 3);
  const weld = weldExact(positions);
  const points = new Float32Array(weld.pointCount * 3);
  weld.vertexOfPoint.forEach((vertex, point) =>
    points.set(positions.subarray(vertex * 3, vertex * 3 + 3), point * 3),
  );
  const indices = triangles.map((vertex) => weld.pointOfVertex[vertex]);
  const same = new Uint32Array(weld.pointCount).map((_, point) => point);
  let [volume, theirVolume, agreed] = [0, 0, 0];
  const rounds = Array.from({ length: ROUNDS }, () => {
    const own = clock(() => {
      agreed = weldExact(positions).pointCount;
    });
    const theirs = clock(() => {
      agreed -= new Set(MeshoptSimplifier.generatePositionRemap(positions, 3)).size;
    });
    const build = clock(() => {
      halfEdgesOf(offsets, indices, same, weld.pointCount);
      const islands = islandsOf(offsets, indices, same, weld.pointCount);
      volume = volumesOfIslands(islands, offsets, indices, points).reduce((sum, one) => sum + one, 0);
    });
    const theirBuild = clock(() => {
      const solid = new module.Manifold(
        new module.Mesh({ numProp: 3, vertProperties: points, triVerts: indices }),
      );
      theirVolume = solid.volume();
      solid.delete();
    });
    return { weld: theirs / own, build: theirBuild / build };
  });
  const words = (triangles.length / 3).toLocaleString('en').replaceAll(',', ' ');
  const isAlike = agreed === 0 && Math.abs(volume / theirVolume - 1) < 1e-3;
  const row = (work: string, times: number): BenchRow => ({
    work: `${work}, ${words} triangles, ${isAlike ? 'the same found' : 'something else found'}`,
    measured: `${times.toFixed(1)} ×`,
    budget: '≥ 1 ×',
    holds: times >= 1 && isAlike,
  });
  return [
    row('points welded, against meshoptimizer', middle(rounds.map((round) => round.weld))),
    row('adjacency, pieces and volume, against manifold-3d', middle(rounds.map((round) => round.build))),
  ];
}
