import { defineFormat, pathOfUri } from '../format';
import { readGltf } from './read';
import { writeGlb } from './write';

/** glTF 2.0, text or binary; written as binary. */
export const gltf = defineFormat({
  id: 'glb',
  title: 'binary glTF 2.0',
  reads: ['.glb', '.gltf'],
  sniff: (head) => head.startsWith('glTF') || /^\{[\s\S]*"(asset|scenes?|nodes|meshes)"/.test(head),
  refersTo: (name, text) =>
    /\.gltf$/i.test(name)
      ? [...text.matchAll(/"uri"\s*:\s*"((?!data:)[^"]+)"/g)].map(([, uri]) => pathOfUri(uri))
      : [],
  read: (files, limits) => readGltf(files, limits),
  writer: {
    ending: 'glb',
    offer: 'The file',
    about: 'binary glTF 2.0; sums of weights made exact',
    isWhole: true,
    write: (character, stem) => {
      const { bytes, notes } = writeGlb(character);
      return { files: [{ name: `${stem}.glb`, bytes, type: 'model/gltf-binary' }], notes };
    },
  },
});
