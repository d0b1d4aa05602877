/** `bough`: the core on the command line. Exit 0: nothing stops hand-off; 1: something does; 2: could not read, or bad usage. */
import { existsSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { parseArgs } from 'node:util';
import { type Brief, briefSchema, inUnit } from '../core/audit/brief';
import { BRIEFS, briefById } from '../core/audit/briefs';
import { CHECKS, REMEDIES, remedyById } from '../core/audit/registry';
import { audit, countGravity } from '../core/audit/run';
import { GRAVITIES, GRAVITY_WORDS, RemedyError } from '../core/audit/types';
import type { Character } from '../core/character/model';
import { bodyBox, skeletonBox } from '../core/character/measure';
import { joined } from '../core/character/join';
import { bonesOf } from '../core/character/hierarchy';
import type { Crosswalk } from '../core/crosswalk/crosswalk';
import { crosswalkFromFile, crosswalkToFile } from '../core/crosswalk/file';
import { posesFor, prove } from '../core/crosswalk/proof';
import { remap } from '../core/crosswalk/remap';
import { type Skeleton, skeletonOf } from '../core/crosswalk/skeleton';
import { SKELETONS, skeletonById } from '../core/crosswalk/skeletons';
import { suggest } from '../core/crosswalk/suggest';
import {
  READS,
  type ReadOptions,
  WRITES,
  type WriteFormat,
  readCharacter,
  writeCharacter,
} from '../core/formats';
import { ReadError } from '../core/formats/errors';
import { measuresOf } from '../core/placement/measures';
import { UNITS } from '../core/placement/units';

class UsageError extends Error {}

const USAGE = `bough audit FILE… [--brief B] [--json]
bough measure FILE [--brief B] [--json]
bough remap FILE --to SKELETON [--crosswalk C] [--limit N] [--mode target] --out F [--brief B] [--save-crosswalk C] [--json]
bough fix FILE --remedy ID [key=value…] --out F [--brief B] [--json]
bough convert IN… OUT          several files become one character
bough briefs | skeletons | checks | remedies [--json]

FILE: ${READS.join(' ')}    OUT: ${WRITES.map((w) => `.${w}`).join(' ')}
--unit ${UNITS.map((u) => u.short).join('|')}  and  --up x|y|z   for files that do not say their unit or axes`;

const print = (s: string) => process.stdout.write(`${s}\n`);

function bytesOf(file: string): Uint8Array {
  try {
    if (statSync(file).isDirectory()) throw new UsageError(`“${file}” is a folder; name a file.`);
    return new Uint8Array(readFileSync(file));
  } catch (error) {
    if (error instanceof UsageError) throw error;
    throw new UsageError(`“${file}” cannot be opened; check the name and that you may read it.`);
  }
}

/** What a file names beside itself: buffers and pictures of a .gltf, materials and pictures of an .obj, pictures of a .dae. */
function namedBy(name: string, text: string): string[] {
  const decoded = (uri: string) => {
    try {
      return decodeURIComponent(uri);
    } catch {
      return uri;
    }
  };
  if (/\.gltf$/i.test(name))
    return [...text.matchAll(/"uri"\s*:\s*"((?!data:)[^"]+)"/g)].map((m) => decoded(m[1]));
  if (/\.obj$/i.test(name)) return [...text.matchAll(/^\s*mtllib\s+(.+?)\s*$/gm)].map((m) => m[1]);
  if (/\.mtl$/i.test(name)) return [...text.matchAll(/^\s*map_Kd\s+(?:.*\s)?(\S+)\s*$/gm)].map((m) => m[1]);
  if (/\.dae$/i.test(name))
    return [...text.matchAll(/<init_from>\s*(?:<ref>\s*)?([^<#][^<]*?)\s*</g)].map((m) => decoded(m[1]));
  return [];
}

/** A file with what lies beside it and is named by it; nothing outside its folder is opened. */
function withSiblings(file: string): { name: string; bytes: Uint8Array }[] {
  const root = path.resolve(path.dirname(file));
  const out = [{ name: path.basename(file), bytes: bytesOf(file) }];
  for (let k = 0; k < out.length && out.length < 200; k++) {
    if (!/\.(gltf|obj|mtl|dae)$/i.test(out[k].name)) continue;
    for (const name of new Set(namedBy(out[k].name, new TextDecoder().decode(out[k].bytes)))) {
      const full = path.resolve(root, name.replace(/\\/g, '/'));
      if (
        full.startsWith(root + path.sep) &&
        existsSync(full) &&
        statSync(full).isFile() &&
        !out.some((o) => o.name === name)
      )
        out.push({ name, bytes: new Uint8Array(readFileSync(full)) });
    }
  }
  return out;
}

const SAYING = { unit: { type: 'string' }, up: { type: 'string' } } as const;

/** What the call says of files that do not say it themselves. */
function saidOf(values: Record<string, unknown>): ReadOptions {
  const unit =
    values.unit === undefined
      ? undefined
      : UNITS.find((u) => u.short === values.unit || u.word === values.unit);
  if (values.unit !== undefined && !unit)
    throw new UsageError(
      `--unit takes one of ${UNITS.map((u) => u.short).join(', ')}, not “${String(values.unit)}”.`,
    );
  if (values.up !== undefined && !['x', 'y', 'z'].includes(String(values.up)))
    throw new UsageError(`--up takes x, y or z, not “${String(values.up)}”.`);
  return {
    ...(unit ? { unitMetres: unit.metres } : {}),
    ...(values.up === undefined ? {} : { upAxis: values.up as 'x' | 'y' | 'z' }),
  };
}

const read = (file: string, said: ReadOptions = {}): Character =>
  readCharacter(withSiblings(file), undefined, said);

function briefOf(id: string | undefined): Brief {
  const brief =
    id && existsSync(id) && id.endsWith('.json')
      ? briefSchema.validateSync(JSON.parse(readFileSync(id, 'utf8')))
      : briefById(id ?? 'handset');
  if (!brief)
    throw new UsageError(
      `There is no brief “${id}”; choose one of ${BRIEFS.map((b) => b.id).join(', ')}, or a .json file.`,
    );
  return brief;
}

function skeletonFor(id: string | undefined): Skeleton {
  if (!id)
    throw new UsageError(
      `Say which skeleton with --to: ${SKELETONS.map((s) => s.id).join(', ')}, or a file.`,
    );
  const known = skeletonById(id);
  if (known) return known;
  if (!existsSync(id))
    throw new UsageError(
      `There is no skeleton “${id}”; choose one of ${SKELETONS.map((s) => s.id).join(', ')}, or a file.`,
    );
  const skeleton = skeletonOf(read(id));
  if (skeleton.bones.length === 0)
    throw new UsageError(`“${id}” holds no bones; choose a file with a skeleton.`);
  return skeleton;
}

function write(character: Character, file: string): readonly string[] {
  const format = /\.([a-z]+)$/i.exec(file)?.[1].toLowerCase() as WriteFormat | undefined;
  if (!format || !WRITES.includes(format))
    throw new UsageError(
      `“${file}” is none of ${WRITES.map((w) => `.${w}`).join(', ')}; those are what this writes.`,
    );
  const { files, notes } = writeCharacter(character, format, path.basename(file).replace(/\.[^.]*$/, ''));
  try {
    files.forEach((f, i) => writeFileSync(i === 0 ? file : path.join(path.dirname(file), f.name), f.bytes));
  } catch {
    throw new UsageError(`“${file}” cannot be written; check the folder and that you may write there.`);
  }
  return notes;
}

/** All measures of placement, each beside its target. */
function measureCommand(args: string[]): number {
  const { values, positionals } = parse(args, {
    brief: { type: 'string' },
    json: { type: 'boolean' },
    ...SAYING,
  });
  if (positionals.length !== 1) throw new UsageError('Name one file to measure.');
  const brief = briefOf(values.brief as string | undefined);
  const measures = measuresOf(read(positionals[0], saidOf(values)), brief);
  if (values.json)
    print(JSON.stringify({ file: positionals[0], brief: brief.id, unit: brief.unit, measures }, null, 1));
  else
    for (const m of measures)
      print(
        `${{ met: '✓', off: '✗', told: ' ' }[m.state]} ${m.label.padEnd(38)} ${(typeof m.value === 'number' ? m.value.toFixed(3) : m.value).padStart(10)} ${m.unit.padEnd(12)} ${m.target === null ? '' : `wanted ${typeof m.target === 'number' ? m.target.toFixed(3) : m.target}${m.tolerance === null ? '' : ` ± ${m.tolerance.toFixed(3)}`}`}`.trimEnd(),
      );
  return measures.some((m) => m.state === 'off') ? 1 : 0;
}

function auditCommand(args: string[]): number {
  const { values, positionals } = parse(args, {
    brief: { type: 'string' },
    json: { type: 'boolean' },
    ...SAYING,
  });
  if (positionals.length === 0) throw new UsageError('Name at least one file to audit.');
  const brief = briefOf(values.brief as string | undefined);
  let stops = 0;
  const reports = positionals.map((file) => {
    const character = read(file, saidOf(values));
    const findings = audit(character, brief);
    const counts = countGravity(findings);
    stops += counts.stops;
    const body = bodyBox(character);
    const skeleton = skeletonBox(character);
    return {
      file,
      brief: brief.id,
      measures: {
        unit: brief.unit,
        bodyHeight: body ? inUnit(body.max[1] - body.min[1], brief.unit) : null,
        skeletonHeight: skeleton ? inUnit(skeleton.max[1] - skeleton.min[1], brief.unit) : null,
        lowest: body ? inUnit(body.min[1], brief.unit) : null,
        bones: bonesOf(character).length,
        vertices: character.meshes.reduce((n, m) => n + m.vertexCount, 0),
        polygons: character.meshes.reduce((n, m) => n + m.polygonOffsets.length - 1, 0),
      },
      counts,
      notes: character.notes,
      findings: findings.map((f) => ({
        check: f.check,
        room: f.room,
        gravity: f.gravity,
        subject: f.subject.name,
        message: f.message,
        measured: f.measured,
        expected: f.expected,
        unit: f.unit,
        count: f.count,
        remedies: f.remedies.map((r) => r.id),
      })),
    };
  });
  if (values.json) {
    print(JSON.stringify(reports.length === 1 ? reports[0] : reports, null, 1));
  } else {
    for (const r of reports) {
      print(
        `${r.file} for ${brief.title}: ${GRAVITIES.map((g) => `${r.counts[g]} ${GRAVITY_WORDS[g]}`).join(', ')}`,
      );
      for (const f of r.findings)
        print(`  ${GRAVITY_WORDS[f.gravity].padEnd(14)} ${f.room.padEnd(10)} ${f.message}`);
    }
  }
  return stops > 0 ? 1 : 0;
}

function remapCommand(args: string[]): number {
  const { values, positionals } = parse(args, {
    to: { type: 'string' },
    crosswalk: { type: 'string' },
    'save-crosswalk': { type: 'string' },
    limit: { type: 'string' },
    mode: { type: 'string' },
    out: { type: 'string' },
    brief: { type: 'string' },
    json: { type: 'boolean' },
    ...SAYING,
  });
  if (positionals.length !== 1) throw new UsageError('Name one file to remap.');
  if (!values.out) throw new UsageError('Say where to write with --out.');
  if (values.mode !== undefined && values.mode !== 'target')
    throw new UsageError(
      `The mode “${String(values.mode)}” is not known; the one there is is target: the skeleton's joints move to the mesh.`,
    );
  const brief = briefOf(values.brief as string | undefined);
  const limit = values.limit === undefined ? brief.limits.influences : Number(values.limit);
  if (!Number.isInteger(limit) || limit < 1)
    throw new UsageError(`--limit takes a whole number from 1, not “${String(values.limit)}”.`);
  const character = read(positionals[0], saidOf(values));
  const source = skeletonOf(character);
  const target = skeletonFor(values.to as string | undefined);
  if (source.bones.length === 0)
    throw new UsageError(`“${positionals[0]}” holds no bones; there is nothing to remap.`);
  let crosswalk: Crosswalk = suggest(source, target);
  if (values.crosswalk) {
    try {
      crosswalk = crosswalkFromFile(
        JSON.parse(new TextDecoder().decode(bytesOf(values.crosswalk as string))),
        source,
        target,
      );
    } catch (error) {
      throw new UsageError(
        `“${String(values.crosswalk)}” is not a crosswalk for these skeletons: ${error instanceof Error ? error.message : 'it cannot be read'}`,
      );
    }
  }
  const result = remap(character, target, crosswalk, { limit });
  const proof = prove(character, result, posesFor(character, crosswalk));
  const notes = [...result.report.notes, ...write(result.character, values.out as string)];
  if (values['save-crosswalk'])
    writeFileSync(
      values['save-crosswalk'] as string,
      JSON.stringify(crosswalkToFile(crosswalk, source, target), null, 1),
    );
  const unit = brief.unit;
  const report = {
    pairs: crosswalk.map((r) => ({
      source: [source.bones[r.source].name],
      target: r.target >= 0 ? [target.bones[r.target].name] : [],
      rule: r.kind,
      confidence: Number(r.confidence.toFixed(3)),
      reasons: r.reasons,
    })),
    weight: result.report.weight,
    vertices: result.report.vertices,
    deviation: {
      max: inUnit(proof.max, unit),
      rms: inUnit(proof.rms, unit),
      p95: inUnit(proof.p95, unit),
      unit,
    },
    notes,
  };
  if (values.json) {
    print(JSON.stringify(report, null, 1));
  } else {
    print(
      `${report.pairs.filter((p) => p.target.length > 0).length} of ${source.bones.length} bones have a counterpart in ${target.title}.`,
    );
    print(
      `Weight ${report.weight.before.toFixed(2)} before, ${report.weight.after.toFixed(2)} after; ${report.vertices.trimmed} vertices lost an influence, ${report.vertices.unweighted} carry none.`,
    );
    print(
      `Largest difference over ${proof.poses.length} poses ${report.deviation.max.toPrecision(3)} ${unit}, 95th percentile ${report.deviation.p95.toPrecision(3)} ${unit}.`,
    );
    for (const n of notes) print(n);
  }
  return 0;
}

function fixCommand(args: string[]): number {
  const { values, positionals } = parse(args, {
    remedy: { type: 'string' },
    out: { type: 'string' },
    brief: { type: 'string' },
    json: { type: 'boolean' },
    ...SAYING,
  });
  const [file, ...pairs] = positionals;
  if (!file || !values.out) throw new UsageError('Name one file to fix, and where to write with --out.');
  const remedy = remedyById(String(values.remedy));
  if (!remedy)
    throw new UsageError(`There is no remedy “${String(values.remedy)}”; “bough remedies” lists them.`);
  const brief = briefOf(values.brief as string | undefined);
  const character = read(file, saidOf(values));
  const given = Object.fromEntries(
    pairs.map((p) => {
      const at = p.indexOf('=');
      if (at < 1) throw new UsageError(`“${p}” is not key=value.`);
      const key = p.slice(0, at);
      const text = p.slice(at + 1);
      if ((key === 'node' || key === 'bone' || key === 'parent') && !/^-?\d+$/.test(text)) {
        const index = character.nodes.findIndex((n) => n.name === text);
        if (index < 0) throw new UsageError(`There is no node “${text}” in ${file}.`);
        return [key, index];
      }
      if (text.startsWith('{')) {
        try {
          return [key, JSON.parse(text)];
        } catch {
          throw new UsageError(`“${p}” does not hold JSON after the =.`);
        }
      }
      return [key, text];
    }),
  );
  let params: Record<string, unknown>;
  try {
    params = remedy.params.validateSync(given) as Record<string, unknown>;
  } catch (error) {
    throw new UsageError(`${remedy.id}: ${error instanceof Error ? error.message : 'bad parameters'}.`);
  }
  const rows = remedy.preview(character, params, brief);
  const notes = write(remedy.apply(character, params, brief), values.out as string);
  if (values.json) {
    print(JSON.stringify({ remedy: remedy.id, params, preview: rows, notes }, null, 1));
  } else {
    for (const r of rows) print(`${r.label}: ${r.before} → ${r.after} ${r.unit}`.trimEnd());
    for (const n of notes) print(n);
  }
  return 0;
}

function convertCommand(args: string[]): number {
  const { values, positionals } = parse(args, { ...SAYING });
  if (positionals.length < 2) throw new UsageError('Name the files to read and the file to write.');
  const said = saidOf(values);
  const [first, ...others] = positionals.slice(0, -1).map((f) => read(f, said));
  const all = others.reduce((a, b) => joined(a, b), first);
  for (const n of [...all.notes, ...write(all, positionals[positionals.length - 1])]) print(n);
  return 0;
}

function listCommand(kind: string, args: string[]): number {
  const { values } = parse(args, { json: { type: 'boolean' } });
  const lists: Record<string, { id: string; room?: string; title: string }[]> = {
    briefs: BRIEFS.map((b) => ({ id: b.id, room: 'docket', title: b.title })),
    skeletons: SKELETONS.map((s) => ({ id: s.id, room: 'crosswalk', title: s.title })),
    checks: CHECKS.map((c) => ({ id: c.id, room: c.room, title: c.title })),
    remedies: REMEDIES.map((r) => ({ id: r.id, room: r.room, title: r.title })),
  };
  if (values.json) print(JSON.stringify(lists[kind], null, 1));
  else for (const x of lists[kind]) print(`${x.id.padEnd(20)} ${(x.room ?? '').padEnd(10)} ${x.title}`);
  return 0;
}

function parse(args: string[], options: Record<string, { type: 'string' | 'boolean' }>) {
  try {
    return parseArgs({ args, options, allowPositionals: true });
  } catch (error) {
    throw new UsageError(
      `${error instanceof Error ? error.message.split('\n')[0] : 'The options cannot be read.'}`,
    );
  }
}

export function run(argv: string[]): number {
  const [command, ...rest] = argv;
  try {
    switch (command) {
      case 'audit':
        return auditCommand(rest);
      case 'measure':
        return measureCommand(rest);
      case 'remap':
        return remapCommand(rest);
      case 'fix':
        return fixCommand(rest);
      case 'convert':
        return convertCommand(rest);
      case 'briefs':
      case 'skeletons':
      case 'checks':
      case 'remedies':
        return listCommand(command, rest);
      case undefined:
      case 'help':
      case '--help':
        print(USAGE);
        return command === undefined ? 2 : 0;
      default:
        throw new UsageError(`There is no command “${command}”; “bough help” lists them.`);
    }
  } catch (error) {
    if (error instanceof UsageError || error instanceof ReadError || error instanceof RemedyError) {
      process.stderr.write(`${error.message}\n`);
      return 2;
    }
    process.stderr.write(
      `The file could not be worked on: ${error instanceof Error ? error.message : String(error)}. Please keep it and report this.\n`,
    );
    return 2;
  }
}

// A reader that has seen enough (“… | head”) closes the pipe; that is no fault.
process.stdout.on('error', (e: NodeJS.ErrnoException) => {
  if (e.code === 'EPIPE') process.exit();
  throw e;
});
process.exitCode = run(process.argv.slice(2));
