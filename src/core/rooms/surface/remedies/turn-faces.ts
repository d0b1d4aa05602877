import { object } from 'yup';
import { type Attribute, type Mesh, replaceAt } from '../../../character/model';
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
  return {
    ...mesh,
    corners,
    attributes: withTurnedNormals(mesh.attributes),
    morphs: mesh.morphs.map((morph) => ({ ...morph, attributes: withTurnedNormals(morph.attributes) })),
  };
}

/** Normals the other way, and the hand of the tangents with them. */
function withTurnedNormals(attributes: Mesh['attributes']): Mesh['attributes'] {
  const { NORMAL, TANGENT } = attributes;
  return {
    ...attributes,
    ...(NORMAL && { NORMAL: negated(NORMAL, 0) }),
    ...(TANGENT?.size === 4 && { TANGENT: negated(TANGENT, 3) }),
  };
}

/** An attribute with its numbers from place `from` of every vertex on negated. */
function negated(attribute: Attribute, from: number): Attribute {
  const data = attribute.data.slice();
  for (let i = 0; i < data.length; i++) if (i % attribute.size >= from) data[i] = -data[i];
  return { ...attribute, data };
}
