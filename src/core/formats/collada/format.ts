import { defineFormat, pathOfUri } from '../format';
import { readCollada } from './read';
import { writeCollada } from './write';

/** COLLADA 1.4.1 and 1.5, plain or zipped; written as 1.4.1. */
export const collada = defineFormat({
  id: 'dae',
  title: 'COLLADA 1.4.1',
  reads: ['.dae', '.zae'],
  sniff: (head) => /<COLLADA[\s>]/.test(head),
  refersTo: (name, text) =>
    /\.dae$/i.test(name)
      ? [...text.matchAll(/<init_from>\s*(?:<ref>\s*)?([^<#][^<]*?)\s*</g)].map(([, uri]) => pathOfUri(uri))
      : [],
  read: readCollada,
  writer: {
    ending: 'dae',
    offer: 'The same as COLLADA',
    about: '1.4.1, metres, +Y up; polygons, weights, clips',
    isWhole: true,
    write: (character, stem) => writeCollada(character, stem),
  },
});
