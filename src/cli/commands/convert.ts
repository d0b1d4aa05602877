import { joinCharacters } from '../../core/character/join';
import { type Command, READING, print, readOptionsOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';

/** Reads one file or several as one character and writes it in another format. */
export const convertCommand: Command = {
  name: 'convert',
  takes: 'IN… OUT',
  options: READING,
  run(given, files) {
    if (files.length < 2) throw new UsageError('Name the files to read and the file to write.');
    const options = readOptionsOf(given);
    const [first, ...others] = files.slice(0, -1).map((file) => readFile(file, options));
    const all = others.reduce((a, b) => joinCharacters(a, b), first);
    for (const line of [...all.notes, ...writeFile(all, files[files.length - 1])]) print(line);
    return 0;
  },
};
