/** A mesh in two: some of its polygons become a mesh of their own on a node of its own, with all that they carry. */
import { type Character, type Mesh, replaceAt } from './model';
import { looseVertices, remadeMesh } from './remake-mesh';
import { withRoots } from './remove';
import { type ElementKind, elementsByPlace } from './sets';

/** The mesh without some polygons (1 per polygon), and without the vertices and runs that only those had. */
export function withoutPolygons(mesh: Mesh, isGone: Uint8Array): Mesh {
  const before = looseVertices(mesh);
  const open = remadeMesh(mesh, { goneFaces: isGone });
  const loose = looseVertices(open).map((isLoose, vertex) => (before[vertex] ? 0 : isLoose));
  const left = remadeMesh(open, { goneVertices: loose });
  const pieces = left.pieces.filter(
    (piece, i) => piece.polygonCount > 0 || piece.carriedIndices || mesh.pieces[i].polygonCount === 0,
  );
  return pieces.length === left.pieces.length ? left : { ...left, pieces };
}

/**
 * The character with some polygons of a node's mesh on a node of their own beside it: same place, same skin, same weights.
 * @param isMoved 1 per polygon of the mesh
 */
export function withPolygonsApart(
  character: Character,
  node: number,
  isMoved: Uint8Array,
  name: string,
): Character {
  const source = character.nodes[node];
  const mesh = character.meshes[source.mesh];
  const moved = withoutPolygons(
    mesh,
    isMoved.map((flag) => 1 - flag),
  );
  const left = withoutPolygons(mesh, isMoved);
  const isShared = character.nodes.some((other, i) => i !== node && other.mesh === source.mesh);
  const ownMesh = isShared ? character.meshes.length + 1 : source.mesh;
  const meshes = [...character.meshes, { ...moved, name }];
  const newNode = character.nodes.length;
  const nodes = [...character.nodes, { ...source, name, mesh: character.meshes.length }];
  const apart: Character = {
    ...character,
    meshes: isShared ? [...meshes, left] : replaceAt(meshes, new Map([[source.mesh, left]])),
    nodes: replaceAt(nodes, new Map([[node, { ...source, mesh: ownMesh }]])),
    clips: character.clips.map((clip) =>
      clip.channels.some((channel) => channel.node === node)
        ? {
            ...clip,
            channels: clip.channels.flatMap((channel) =>
              channel.node === node ? [channel, { ...channel, node: newNode }] : [channel],
            ),
          }
        : clip,
    ),
    sets: character.sets.map((set) => {
      const parted = (kind: ElementKind) =>
        set[kind].flatMap((held) => {
          if (held.node !== node) return [held];
          const both = [
            { node, ids: elementsByPlace(mesh, left, kind, held.ids) },
            { node: newNode, ids: elementsByPlace(mesh, moved, kind, held.ids) },
          ];
          return both.filter(({ ids }) => ids.length > 0);
        });
      return { ...set, vertices: parted('vertices'), polygons: parted('polygons') };
    }),
  };
  return withRoots(apart);
}
