import { boolean, object } from 'yup';
import { lengthOf, refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { mergedPoints } from '../../../character/merge-points';
import { replaceAt } from '../../../character/model';
import { pointsOf } from '../../../character/points';
import { coincidentGroups } from '../coincident';

/**
 * Makes one point of every group of points closer than the distance. The survivor keeps its place and
 * weights; a vertex of a merged point that a seam needs (other texture place, other normal) stays a vertex of
 * its own on the same point.
 */
export const mergePoints = defineRemedy({
  id: 'merge-points',
  room: 'surface',
  title: 'Merge coincident points',
  does: 'Points closer than the distance become one; seams stay, lips and lids stay apart, and so do surfaces that lie on each other unless it is said. No other point moves.',
  params: object({
    node: refTo('mesh', 'Mesh'),
    distance: lengthOf('Distance').max(1).default(1e-4),
    joins: boolean().default(false).meta({ label: 'Also where surfaces lie on each other' }),
  }),
  rows(character, { node, distance, joins }) {
    const mesh = character.meshes[character.nodes[node].mesh];
    return [
      { label: 'Points', value: pointsOf(mesh).pointCount, unit: 'pts' },
      { label: 'Vertices', value: mesh.vertexCount, unit: '' },
      { label: 'Polygons', value: mesh.polygonOffsets.length - 1, unit: '' },
      ...[0.1, 1, 10].map((factor) => ({
        label: `Closer than ${(distance * factor * 1000).toPrecision(2)} mm`,
        value: coincidentGroups(mesh, distance * factor, joins).points,
        unit: 'pts',
      })),
      {
        label: 'Left apart, on separate surfaces',
        value: coincidentGroups(mesh, distance, joins).apart,
        unit: 'pairs',
      },
    ];
  },
  promises: ({ nodes }, { node }) =>
    promise(['points', 'shading', 'polygons', 'morphs', 'weights'], {
      meant: nodes.flatMap((user, i) => (user.mesh === nodes[node]?.mesh ? [i] : [])),
    }),
  apply(character, { node, distance, joins }) {
    const at = character.nodes[node]?.mesh ?? -1;
    const mesh = character.meshes[at];
    if (!mesh) throw new RemedyError('The mesh is not there any more; run the audit again.');
    const found = coincidentGroups(mesh, distance, joins);
    if (found.points === 0)
      throw new NothingToDo(
        found.apart > 0
          ? `${found.apart} pairs of points of “${character.nodes[node].name}” lie within ${(distance * 1000).toPrecision(3)} mm, all on separate surfaces; choose that those are merged too, if they are one.`
          : `No two points of “${character.nodes[node].name}” lie within ${(distance * 1000).toPrecision(3)} mm; choose a larger distance.`,
      );
    return {
      ...character,
      meshes: replaceAt(character.meshes, new Map([[at, mergedPoints(mesh, found.becomes)]])),
    };
  },
});
