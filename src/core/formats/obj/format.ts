import { defineFormat } from '../format';
import { readObj } from './read';
import { writeObj } from './write';

/** Wavefront OBJ with its materials: meshes only, at rest or in a pose. */
export const obj = defineFormat({
  id: 'obj',
  title: 'Wavefront OBJ',
  reads: ['.obj'],
  refersTo: (name, text) => {
    if (/\.obj$/i.test(name)) return [...text.matchAll(/^\s*mtllib\s+(.+?)\s*$/gm)].map(([, file]) => file);
    if (/\.mtl$/i.test(name))
      return [...text.matchAll(/^\s*map_Kd\s+(?:.*\s)?(\S+)\s*$/gm)].map(([, file]) => file);
    return [];
  },
  read: readObj,
  writer: {
    ending: 'obj',
    offer: 'The shape as OBJ',
    about: 'polygons without bones',
    isWhole: false,
    write: (character, stem, { pose }) => writeObj(character, stem, pose),
    whyNot: ({ nodes, meshes }) =>
      nodes.some((node) => (meshes[node.mesh]?.polygonOffsets.length ?? 0) > 1)
        ? null
        : 'OBJ holds meshes only, and there is none here; choose binary glTF or COLLADA.',
  },
});
