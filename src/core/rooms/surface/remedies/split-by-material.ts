import { object } from 'yup';
import { freeName } from '../../../character/free-name';
import type { Character } from '../../../character/model';
import { withPolygonsApart } from '../../../character/split-mesh';
import { refTo } from '../../../contracts/params';
import { NothingToDo, defineRemedy } from '../../../contracts/remedy';
import { meshOf, promiseOfMeshes } from '../mesh-of';

const materialName = ({ carried }: Character, material: number): string =>
  String(carried.materials[material]?.name ?? `material ${material + 1}`);

/** Makes a mesh of several materials several meshes. */
export const splitByMaterial = defineRemedy({
  id: 'split-by-material',
  room: 'surface',
  title: 'Separate a mesh by its materials',
  does: 'Every material but the first gets a mesh of its own, called after it: same place, skin and weights. Nothing moves.',
  params: object({ node: refTo('mesh', 'Mesh') }),
  rows: (character, { node }) => [
    {
      label: 'Materials in the mesh',
      value: new Set(character.meshes[character.nodes[node]?.mesh]?.pieces.map(({ material }) => material))
        .size,
      unit: '',
    },
    { label: 'Meshes', value: character.meshes.length, unit: '' },
  ],
  promises: (character, { node }) => promiseOfMeshes(character, [node]),
  apply(character, { node }) {
    const materials = [...new Set(meshOf(character, node).pieces.map(({ material }) => material))];
    if (materials.length < 2)
      throw new NothingToDo('The mesh has one material; there is nothing to separate.');
    return materials.slice(1).reduce((out, material) => {
      const mesh = meshOf(out, node);
      const isMoved = new Uint8Array(mesh.polygonOffsets.length - 1);
      for (const piece of mesh.pieces)
        if (piece.material === material)
          isMoved.fill(1, piece.polygonStart, piece.polygonStart + piece.polygonCount);
      return withPolygonsApart(out, node, isMoved, freeName(out, materialName(out, material)));
    }, character);
  },
});
