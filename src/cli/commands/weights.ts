import { csvOfTable, readTable, tableOf, withTable } from '../../core/rooms/weights/tables';
import { type Command, READING, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { bytesOf, readFile, writeBytes, writeFile } from '../files';

/** Weights as a table, and a table put on a file again. */
export const weightsCommand: Command = {
  name: 'weights',
  takes: 'FILE',
  options: { table: {}, apply: { value: 'TABLE' }, out: { value: 'F' }, json: {}, ...READING },
  run(given, files) {
    const [table, out] = [textOf(given, 'apply'), textOf(given, 'out')];
    if (files.length !== 1 || Boolean(given.table) === (table !== undefined))
      throw new UsageError(
        'Name one file, and either --table, or --apply with a table and --out with where to write.',
      );
    const character = readFile(files[0], readOptionsOf(given));
    if (table === undefined) {
      const told = tableOf(character);
      const text = given.json || out?.endsWith('.json') ? JSON.stringify(told) : csvOfTable(told);
      if (out) writeBytes(out, `${text}\n`);
      else print(text);
      return 0;
    }
    if (!out) throw new UsageError('Say where to write with --out.');
    const { character: after, outcomes } = withTable(
      character,
      readTable(new TextDecoder().decode(bytesOf(table))),
    );
    const notes = writeFile(after, out);
    if (given.json) printJson({ file: files[0], table, outcomes, notes });
    else {
      for (const { mesh, by, points, without, farthest } of outcomes)
        print(
          `${mesh}: ${points} points by ${by === 'order' ? 'their order' : 'their places'}, the farthest ${(farthest * 1000).toFixed(2)} mm off${without > 0 ? `; ${without} are in no line, and keep what they have` : ''}`,
        );
      for (const note of notes) print(note);
    }
    return 0;
  },
};
