import { execFileSync } from 'node:child_process';
import type { Mesh } from '@/core/character/model';
import { positionsOf } from '@/core/character/model';
import { pointsOf } from '@/core/character/points';
import { fanned } from '@/core/geometry/fan';

/** What manifold-3d says of a closed surface. */
export interface Solid {
  /** 0: sound; 2: not a manifold. */
  readonly status: string;
  readonly genus: number;
  readonly volume: number;
  readonly area: number;
}

/** It is a module for browsers and Node alike, which Jest does not load: asked in a process of its own. */
const SCRIPT = `
import wasm from 'manifold-3d';
const { Manifold, Mesh, setup } = await wasm().then((m) => (m.setup(), m));
const told = [];
for (const { points, triangles } of JSON.parse(await new Response(process.stdin).text())) {
  try {
    const solid = new Manifold(new Mesh({ numProp: 3, vertProperties: Float32Array.from(points), triVerts: Uint32Array.from(triangles) }));
    told.push({ status: solid.status(), genus: solid.genus(), volume: solid.volume(), area: solid.surfaceArea() });
  } catch (error) {
    told.push({ status: String(error.code ?? error.message), genus: NaN, volume: NaN, area: NaN });
  }
}
process.stdout.write(JSON.stringify(told));
`;

/** Asks manifold-3d about meshes, over their points. */
export function solidsOf(meshes: readonly Mesh[]): Solid[] {
  const input = meshes.map((mesh) => {
    const { pointOfVertex, vertexOfPoint } = pointsOf(mesh);
    const places = positionsOf(mesh);
    return {
      points: Array.from(vertexOfPoint).flatMap((vertex) => [...places.subarray(vertex * 3, vertex * 3 + 3)]),
      triangles: Array.from(fanned(mesh.polygonOffsets, mesh.corners), (vertex) => pointOfVertex[vertex]),
    };
  });
  const out = execFileSync(process.execPath, ['--input-type=module', '-e', SCRIPT], {
    input: JSON.stringify(input),
    maxBuffer: 1 << 28,
  });
  return JSON.parse(out.toString()) as Solid[];
}
