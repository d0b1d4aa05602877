import { remedyById } from '../../core/house/registry';
import type { Character } from '../../core/character/model';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';

/** Applies one remedy and writes what came of it. */
export const fixCommand: Command = {
  name: 'fix',
  takes: 'FILE [key=value…]',
  options: {
    remedy: { value: 'ID', needed: true },
    out: { value: 'F', needed: true },
    brief: { value: 'B' },
    json: {},
    ...READING,
  },
  run(given, [file, ...pairs]) {
    const out = textOf(given, 'out');
    if (!file || !out) throw new UsageError('Name one file to fix, and where to write with --out.');
    const remedy = remedyById(String(given.remedy));
    if (!remedy)
      throw new UsageError(`There is no remedy “${String(given.remedy)}”; “bough remedies” lists them.`);
    const brief = briefOf(given);
    const character = readFile(file, readOptionsOf(given));
    const typed = Object.fromEntries(pairs.map((p) => parameterOf(p, character, file)));
    let params: Record<string, unknown>;
    try {
      params = remedy.params.validateSync(typed) as Record<string, unknown>;
    } catch (error) {
      throw new UsageError(`${remedy.id}: ${error instanceof Error ? error.message : 'bad parameters'}.`);
    }
    const rows = remedy.preview(character, params, brief);
    const notes = writeFile(remedy.apply(character, params, brief), out);
    if (given.json) printJson({ remedy: remedy.id, params, preview: rows, notes });
    else {
      for (const r of rows) print(`${r.label}: ${r.before} → ${r.after} ${r.unit}`.trimEnd());
      for (const n of notes) print(n);
    }
    return 0;
  },
};

/** One key=value: a node by its name, JSON where it begins with a brace, else the text. */
function parameterOf(pair: string, character: Character, file: string): [string, unknown] {
  const at = pair.indexOf('=');
  if (at < 1) throw new UsageError(`“${pair}” is not key=value.`);
  const key = pair.slice(0, at);
  const text = pair.slice(at + 1);
  if ((key === 'node' || key === 'bone' || key === 'parent') && !/^-?\d+$/.test(text)) {
    const index = character.nodes.findIndex((n) => n.name === text);
    if (index < 0) throw new UsageError(`There is no node “${text}” in ${file}.`);
    return [key, index];
  }
  if (!text.startsWith('{')) return [key, text];
  try {
    return [key, JSON.parse(text)];
  } catch {
    throw new UsageError(`“${pair}” does not hold JSON after the =.`);
  }
}
