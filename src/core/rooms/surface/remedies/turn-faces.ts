import { object } from 'yup';
import { type Attribute, type Mesh, positionsOf, replaceAt } from '../../../character/model';
import { putAreaNormal } from '../../../geometry/normals';
import { refTo } from '../../../contracts/params';
import { NothingToDo, RemedyError, defineRemedy, promise } from '../../../contracts/remedy';
import { type WrongWinding, wrongWinding } from '../winding';

/** Turns the faces of a mesh that are wound the wrong way round; normals that look inward with them are turned too. */
export const turnFaces = defineRemedy({
  id: 'turn-faces',
  room: 'surface',
  title: 'Turn the faces outward',
  does: 'Corners of the faces that are wound the wrong way change their order. No point moves; normals are turned only where they look inward with their faces.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows(character, { node }) {
    const mesh = character.meshes[character.nodes[node]?.mesh];
    return [
      {
        label: 'Faces wound the wrong way',
        value: (mesh && wrongWinding(mesh)?.polygons.length) ?? 0,
        unit: 'faces',
      },
    ];
  },
  apply(character, { node }) {
    const index = character.nodes[node]?.mesh ?? -1;
    if (index < 0) throw new RemedyError('There is no mesh on that node; run the audit again.');
    const mesh = character.meshes[index];
    const wrong = wrongWinding(mesh);
    if (!wrong) throw new NothingToDo('Every face is wound outward already; there is nothing to turn.');
    return { ...character, meshes: replaceAt(character.meshes, new Map([[index, turned(mesh, wrong)]])) };
  },
  promises: (character, { node }) => {
    const index = character.nodes[node]?.mesh ?? -1;
    const meant = character.nodes.flatMap((node, i) => (node.mesh === index ? [i] : []));
    return promise(['polygons', 'shading', 'morphs'], { meant });
  },
});

function turned(mesh: Mesh, { by, polygons }: WrongWinding): Mesh {
  const corners = mesh.corners.slice();
  for (const polygon of polygons) {
    const [from, to] = [mesh.polygonOffsets[polygon], mesh.polygonOffsets[polygon + 1]];
    // The first corner stays the first: runs of polygons are told apart by it.
    corners.subarray(from + 1, to).reverse();
  }
  if (by === 'normals') return { ...mesh, corners };
  const isTurned = by === 'volume' ? () => true : inPatchAndInward(mesh, corners, polygons);
  return {
    ...mesh,
    corners,
    attributes: withTurnedNormals(mesh.attributes, isTurned),
    morphs: mesh.morphs.map((morph) => ({
      ...morph,
      attributes: withTurnedNormals(morph.attributes, isTurned),
    })),
  };
}

/** Vertices that only turned faces have, and whose normals looked inward with them. */
function inPatchAndInward(
  mesh: Mesh,
  corners: Uint32Array,
  polygons: Uint32Array,
): (vertex: number) => boolean {
  const normals = mesh.attributes.NORMAL?.data;
  if (!normals) return () => false;
  const isTurned = new Uint8Array(mesh.polygonOffsets.length - 1);
  for (const polygon of polygons) isTurned[polygon] = 1;
  const along = new Float64Array(mesh.vertexCount);
  const elsewhere = new Uint8Array(mesh.vertexCount);
  const normal = [0, 0, 0];
  for (let face = 0; face < isTurned.length; face++) {
    const [from, to] = [mesh.polygonOffsets[face], mesh.polygonOffsets[face + 1]];
    if (isTurned[face]) putAreaNormal(positionsOf(mesh), corners, from, to, normal);
    for (let k = from; k < to; k++) {
      const vertex = corners[k];
      if (!isTurned[face]) elsewhere[vertex] = 1;
      else for (let axis = 0; axis < 3; axis++) along[vertex] += normal[axis] * normals[vertex * 3 + axis];
    }
  }
  return (vertex) => !elsewhere[vertex] && along[vertex] < 0;
}

/** Normals the other way, and the hand of the tangents with them. */
function withTurnedNormals(
  attributes: Mesh['attributes'],
  isTurned: (vertex: number) => boolean,
): Mesh['attributes'] {
  const { NORMAL, TANGENT } = attributes;
  return {
    ...attributes,
    ...(NORMAL && { NORMAL: negated(NORMAL, 0, isTurned) }),
    ...(TANGENT?.size === 4 && { TANGENT: negated(TANGENT, 3, isTurned) }),
  };
}

/** An attribute with its numbers from place `from` of some vertices on negated. */
function negated(attribute: Attribute, from: number, isTurned: (vertex: number) => boolean): Attribute {
  const data = attribute.data.slice();
  const { size } = attribute;
  for (let i = 0; i < data.length; i++)
    if (i % size >= from && isTurned(Math.floor(i / size))) data[i] = -data[i];
  return { ...attribute, data };
}
