/** Quads recovered from triangles: grids in closed form, bodies that others modelled, and what was never quads. */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { IcosahedronGeometry } from 'three';
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { type Mesh, positionsOf } from '@/core/character/model';
import { type RecoveredQuads, recoverQuads } from '@/core/geometry/quads';
import { makeRandom } from '@/core/geometry/random';
import { weldExact } from '@/core/geometry/weld';
import { readCharacter, writeCharacter } from '@/core/formats/index';
import { quadsFoundAgain } from '@/bench/quads';
import { castCharacter } from './support/cast';

const recover = (triangles: readonly number[], points: readonly number[]): RecoveredQuads => {
  const positions = Float32Array.from(points);
  const { pointOfVertex, pointCount } = weldExact(positions);
  return recoverQuads(Uint32Array.from(triangles), positions, pointOfVertex, pointCount);
};

const MODELS = '/usr/share/assimp/models';
const meshesIn = (...name: string[]): readonly Mesh[] => {
  const file = path.join(MODELS, ...name);
  return readCharacter([{ name: path.basename(file), bytes: new Uint8Array(readFileSync(file)) }]).meshes;
};

/** A wavy, sheared grid of quads, each cut one way or the other; its vertices are split along some columns as seams do. */
function cutGrid(width: number, height: number, shear: number, random: () => number) {
  const points: number[] = [];
  const place = (x: number, y: number) => {
    points.push(x + shear * y, y, 0.05 * Math.sin(x + y));
    return points.length / 3 - 1;
  };
  const triangles: number[][] = [];
  let left = Array.from({ length: height + 1 }, (_, y) => place(0, y));
  for (let x = 0; x < width; x++) {
    const right = Array.from({ length: height + 1 }, (_, y) => place(x + 1, y));
    for (let y = 0; y < height; y++) {
      const quad = [left[y], right[y], right[y + 1], left[y + 1]];
      const turned = random() < 0.5 ? quad : [...quad.slice(1), quad[0]];
      triangles.push(turned.slice(0, 3), [turned[0], turned[2], turned[3]]);
    }
    // A seam: the same places once more.
    left = random() < 0.3 ? Array.from({ length: height + 1 }, (_, y) => place(x + 1, y)) : right;
  }
  return { points, triangles };
}

describe('quads from triangles', () => {
  it('puts a grid together again: sheared, cut any way, in any order, split at seams', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 12 }),
        fc.integer({ min: 2, max: 12 }),
        fc.double({ min: -0.4, max: 0.4, noNaN: true }),
        fc.integer({ min: 1, max: 1e6 }),
        (width, height, shear, seed) => {
          const random = makeRandom(seed);
          const { points, triangles } = cutGrid(width, height, shear, random);
          const shuffled = triangles
            .map((row) => ({ row, at: random() }))
            .sort((a, b) => a.at - b.at)
            .map(({ row }) => row);
          const found = recover(shuffled.flat(), points);
          expect(found.quads).toBe(width * height);
          expect(found.offsets.length - 1).toBe(width * height);
          expect(found.isQuadMesh).toBe(true);
        },
      ),
    );
  });

  it('keeps every triangle: fanned out again it is the same triangles', () => {
    const [mesh] = meshesIn('Collada', 'duck.dae');
    const triangles: number[] = [];
    for (let face = 0; face + 1 < mesh.polygonOffsets.length; face++)
      for (let k = mesh.polygonOffsets[face] + 1; k + 1 < mesh.polygonOffsets[face + 1]; k++)
        triangles.push(mesh.corners[mesh.polygonOffsets[face]], mesh.corners[k], mesh.corners[k + 1]);
    const { offsets, corners } = recover(triangles, [...positionsOf(mesh)]);
    const turnedToLowest = (row: readonly number[]) => {
      const at = row.indexOf(Math.min(...row));
      return [...row.slice(at), ...row.slice(0, at)].join(' ');
    };
    const back: string[] = [];
    for (let face = 0; face + 1 < offsets.length; face++)
      for (let k = offsets[face] + 1; k + 1 < offsets[face + 1]; k++)
        back.push(turnedToLowest([corners[offsets[face]], corners[k], corners[k + 1]]));
    const before = Array.from({ length: triangles.length / 3 }, (_, i) =>
      turnedToLowest(triangles.slice(i * 3, i * 3 + 3)),
    );
    expect(back.sort()).toEqual(before.sort());
  });

  it.each(['from the first corner', 'from the second', 'by chance', 'along the shorter diagonal'] as const)(
    'finds nearly all of a body that others modelled and few besides, cut %s',
    (cut) => {
      const [body] = meshesIn('Collada', 'human.zae').toSorted((a, b) => b.vertexCount - a.vertexCount);
      const { wanted, found, wrong } = quadsFoundAgain(body, cut, 7);
      expect(wanted).toBeGreaterThan(13_000);
      expect(found / wanted).toBeGreaterThan(0.995);
      expect(wrong / (found + wrong)).toBeLessThan(0.005);
    },
  );

  it('leaves what was modelled in triangles alone, however well they pair', () => {
    for (const detail of [4, 12]) {
      const bare = new IcosahedronGeometry(1, detail);
      bare.deleteAttribute('uv');
      bare.deleteAttribute('normal');
      const { index, attributes } = mergeVertices(bare, 1e-5);
      const found = recover([...index!.array], [...attributes.position.array]);
      expect(found.quads * 2).toBeGreaterThan((found.offsets.length - 1) * 0.9);
      expect(found.isQuadMesh).toBe(false);
    }
  });

  it('says nothing of no triangles, of one, of such without area and of places that are no numbers', () => {
    expect(recover([], [])).toMatchObject({ quads: 0, isQuadMesh: false });
    expect(recover([0, 1, 2], [0, 0, 0, 1, 0, 0, 0, 1, 0])).toMatchObject({ quads: 0, isQuadMesh: false });
    expect(recover([0, 1, 2, 2, 1, 0], [0, 0, 0, 0, 0, 0, 0, 0, 0]).quads).toBe(0);
    expect(recover([0, 1, 2, 2, 1, 3], [0, 0, 0, NaN, 0, 0, 0, 1, 0, 1, 1, 0]).quads).toBe(0);
  });

  it.each(['dae', 'obj', 'glb'] as const)(
    'gives the same quads once it was written and read again: %s',
    (format) => {
      const { meshes, ...rest } = castCharacter('deckhand-clean.glb');
      const asTriangles = {
        ...rest,
        meshes: meshes.map((mesh) => ({ ...mesh, polygonOrigin: 'recovered' as const })),
      };
      const again = (character: typeof asTriangles) =>
        readCharacter(
          writeCharacter(character, format, 'again').files.map(({ name, bytes }) => ({ name, bytes })),
        );
      const once = again(asTriangles);
      const twice = again(once as typeof asTriangles);
      expect(once.meshes.map((mesh) => mesh.polygonOrigin)).toContain('recovered');
      // A format without vertices of its own may count them otherwise: polygons are held against each other by place.
      once.meshes.forEach((mesh, i) => expect(placesOf(twice.meshes[i])).toEqual(placesOf(mesh)));
    },
  );
});

/** The polygons of a mesh, each by the places of its corners, in an order of their own. */
function placesOf(mesh: Mesh): string[] {
  const points = positionsOf(mesh);
  return Array.from({ length: mesh.polygonOffsets.length - 1 }, (_, face) =>
    Array.from(mesh.corners.subarray(mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1]), (corner) =>
      points.subarray(corner * 3, corner * 3 + 3).join(' '),
    )
      .sort()
      .join(', '),
  ).sort();
}
