import { type Character, type Mesh, replaceAt } from '../../character/model';
import type { Aspect } from '../../contracts/aspect';
import { RemedyError, promise } from '../../contracts/remedy';

/** The mesh that a node shows. Throws RemedyError where there is none any more. */
export function meshOf({ nodes, meshes }: Character, node: number): Mesh {
  const mesh = meshes[nodes[node]?.mesh ?? -1];
  if (!mesh) throw new RemedyError('The mesh is not there any more; run the audit again.');
  return mesh;
}

/** The same with another mesh on that node, and on all that show the same one. */
export const withMeshOf = (character: Character, node: number, mesh: Mesh): Character => ({
  ...character,
  meshes: replaceAt(character.meshes, new Map([[character.nodes[node].mesh, mesh]])),
});

/** What a remedy that makes a mesh anew may change: that mesh, wherever it is shown. */
export const promiseOfMesh = ({ nodes }: Character, node: number) =>
  promise(['points', 'shading', 'polygons', 'morphs', 'weights'], {
    meant: nodes.flatMap((user, i) => (user.mesh >= 0 && user.mesh === nodes[node]?.mesh ? [i] : [])),
  });

/** What a remedy may change that takes meshes apart or puts them together: those, wherever they are shown, and the lists they stand in. */
export function promiseOfMeshes(
  { nodes }: Character,
  concerned: readonly number[],
  more: readonly Aspect[] = [],
) {
  const meshes = new Set(concerned.map((node) => nodes[node]?.mesh));
  return promise(
    [
      'tree',
      'names',
      'places',
      'shows',
      'points',
      'shading',
      'polygons',
      'morphs',
      'weights',
      'clips',
      'sets',
      'carried',
      ...more,
    ],
    { meant: nodes.flatMap(({ mesh }, i) => (mesh >= 0 && meshes.has(mesh) ? [i] : [])) },
  );
}
