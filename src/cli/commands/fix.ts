import { checkedBy } from '../../core/contracts/checked';
import { type Field, fieldsOf } from '../../core/contracts/params';
import { UNITS } from '../../core/contracts/units';
import { previewRemedy } from '../../core/house/preview';
import { remedyById } from '../../core/house/registry';
import type { Character } from '../../core/character/model';
import { type Command, READING, briefOf, print, printJson, readOptionsOf, textOf } from '../command';
import { UsageError } from '../errors';
import { readFile, writeFile } from '../files';
import { indexOf, indicesOf } from '../named';

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
    const fields = fieldsOf(remedy.params);
    const typed = Object.fromEntries(pairs.map((pair) => parameterOf(pair, fields, character, file)));
    let params: Record<string, unknown>;
    try {
      params = checkedBy(remedy.params, typed) as Record<string, unknown>;
    } catch (error) {
      throw new UsageError(`${remedy.id}: ${error instanceof Error ? error.message : 'bad parameters'}.`);
    }
    const { rows, after } = previewRemedy(remedy, character, params, brief);
    const notes = writeFile(after, out);
    if (given.json) printJson({ remedy: remedy.id, params, preview: rows, notes });
    else {
      for (const row of rows) print(`${row.label}: ${row.before} → ${row.after} ${row.unit}`.trimEnd());
      for (const note of notes) print(note);
    }
    return 0;
  },
};

/** One key=value as its field wants it. */
function parameterOf(
  pair: string,
  fields: readonly Field[],
  character: Character,
  file: string,
): [string, unknown] {
  const at = pair.indexOf('=');
  if (at < 1) throw new UsageError(`“${pair}” is not key=value.`);
  const key = pair.slice(0, at);
  const text = pair.slice(at + 1);
  const field = fields.find((field) => field.name === key);
  if (!field) {
    const names = fields.map((field) => field.name).join(', ') || 'none';
    throw new UsageError(`There is no parameter “${key}”; there is ${names}.`);
  }
  return [key, valueOf(text, field, character, file)];
}

function valueOf(text: string, field: Field, character: Character, file: string): unknown {
  if (field.ref)
    return field.isList
      ? text.split(',').flatMap((word) => indicesOf(word, field, character, file))
      : indexOf(text, field, character, file);
  if (field.elements) return elementsOf(text, field, character, file);
  if (field.quantity === 'length') return metresOf(text);
  if (!/^[[{]/.test(text)) return text;
  try {
    return JSON.parse(text);
  } catch {
    throw new UsageError(`“${field.name}=${text}” does not hold JSON after the =.`);
  }
}

/** Points or polygons as `coat:0-12,40;cap:7`: the node that shows the mesh, then numbers and runs of them. */
function elementsOf(text: string, field: Field, character: Character, file: string): unknown {
  return text.split(';').map((some) => {
    const at = some.lastIndexOf(':');
    const runs = some.slice(at + 1).split(',');
    if (at < 1 || !runs.every((run) => /^\d+(-\d+)?$/.test(run)))
      throw new UsageError(`“${field.name}=${text}” is not node:numbers, as coat:0-12,40;cap:7.`);
    const ids = runs.flatMap((run) => {
      const [from, to = from] = run.split('-').map(Number);
      if (to - from > 10_000_000) throw new UsageError(`“${run}” names more than ten million.`);
      return Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => from + i);
    });
    return { node: indexOf(some.slice(0, at), field, character, file), ids };
  });
}

/** A length with its unit behind it, in metres where it has none. */
function metresOf(text: string): number | string {
  const [, number, short] = /^\s*(-?[\d.]+(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text) ?? [];
  if (number === undefined) return text;
  const unit = short === '' ? UNITS[0] : UNITS.find((unit) => unit.short === short);
  if (!unit)
    throw new UsageError(
      `“${text}” has no unit of length; use ${UNITS.map((unit) => unit.short).join(', ')}.`,
    );
  return Number(number) * unit.metres;
}
