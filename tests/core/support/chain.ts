/** A straight tube on a chain of bones, whose weights are what sharing along that chain gives. */
import type { Character } from '@/core/character/model';
import { EMPTY_CARRIED, node } from '@/core/character/model';
import { influencesFrom } from '@/core/geometry/influences';
import { sharesAt } from '@/core/rooms/crosswalk/share';
import { meshFrom } from './build';

/** Bones of equal length along +Y from 0 to 2, named `bone_1` …; rings of the tube evenly between. */
export function chainTube(bones: number, rings = 41, segments = 8, radius = 0.12): Character {
  const length = 2 / bones;
  const points: [number, number, number][] = [];
  const polygons: number[][] = [];
  for (let row = 0; row < rings; row++)
    for (let k = 0; k < segments; k++) {
      const a = (k / segments) * 2 * Math.PI;
      points.push([radius * Math.cos(a), (2 * row) / (rings - 1), radius * Math.sin(a)]);
    }
  for (let row = 1; row < rings; row++)
    for (let k = 0; k < segments; k++) {
      const n = (k + 1) % segments;
      polygons.push([
        (row - 1) * segments + k,
        row * segments + k,
        row * segments + n,
        (row - 1) * segments + n,
      ]);
    }
  const joints = Array.from({ length: bones }, (_, i) => i);
  const places = Array.from({ length: bones + 1 }, (_, i) => [0, i * length, 0] as const);
  const span = { joints, ways: [{ at: joints, places }] };
  const rows = points.map((point) =>
    Array.from(sharesAt(point, span), (share, i) => [i, share] as [number, number]),
  );
  return {
    name: 'chain',
    nodes: [
      ...joints.map((i) =>
        node({
          name: `bone_${i + 1}`,
          kind: 'bone',
          parent: i - 1,
          translation: i === 0 ? [0, 0, 0] : [0, length, 0],
        }),
      ),
      node({ name: 'tube', kind: 'mesh', mesh: 0, skin: 0 }),
    ],
    meshes: [meshFrom(points, polygons, influencesFrom(rows))],
    skins: [
      {
        name: 'chain',
        joints,
        inverseBinds: Float32Array.from(
          joints.flatMap((i) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -i * length, 0, 1]),
        ),
      },
    ],
    clips: [],
    sets: [],
    carried: { ...EMPTY_CARRIED, scenes: [{ json: {}, roots: [0, bones] }] },
    source: { format: 'made', generator: '', unitMetres: 1, files: [] },
    notes: [],
  };
}
