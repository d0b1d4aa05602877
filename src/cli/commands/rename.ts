import { readFileSync } from 'node:fs';
import { remedyById } from '../../core/house/registry';
import { readNameTable } from '../../core/rooms/skeleton/name-table';
import { planRenaming } from '../../core/rooms/skeleton/remedies/rename';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';

/** Renames the bones of a file, by a table of old and new names or into the convention of a brief. */
export const renameCommand: Command = {
  name: 'rename',
  takes: 'FILE',
  options: {
    table: { value: 'T' },
    brief: { value: 'B' },
    out: { value: 'F', needed: true },
    json: {},
    ...READING,
  },
  run(given, files) {
    const out = textOf(given, 'out');
    const tableFile = textOf(given, 'table');
    if (files.length !== 1 || !out)
      throw new UsageError('Name one file whose bones are to be renamed, and where to write with --out.');
    const character = readFile(files[0], readOptionsOf(given));
    const brief = briefOf(given);
    const table = tableFile ? tableIn(tableFile) : null;
    const id = table ? 'rename' : 'follow-convention';
    const after = remedyById(id)!.apply(character, table ? { table } : {}, brief);
    const notes = writeFile(after, out);
    const names = character.nodes.flatMap(({ name }, i) =>
      after.nodes[i].name === name ? [] : [{ from: name, to: after.nodes[i].name }],
    );
    const unknown = table ? planRenaming(character, table).unknown : [];
    if (given.json) printJson({ file: files[0], out, names, unknown, notes });
    else {
      for (const { from, to } of names) print(`${from} → ${to}`);
      for (const name of unknown) print(`“${name}” is in the table and in no bone.`);
      for (const note of notes) print(note);
    }
    return 0;
  },
};

function tableIn(file: string): Readonly<Record<string, string>> {
  let text: string;
  try {
    text = readFileSync(file, 'utf8');
  } catch {
    throw new UsageError(`The table “${file}” cannot be read; name a file with one pair of names a line.`);
  }
  const table = readNameTable(text);
  if (Object.keys(table).length === 0)
    throw new UsageError(
      `“${file}” holds no pair of names; write one a line, the old one, a tab, a comma or →, and the new one.`,
    );
  return table;
}
