/**
 * What docs/adding.md says is true: its check and its remedy, each one file and one line in its room's list,
 * and the whole house has them.
 */
import { build } from 'esbuild';
import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type * as Audit from '@/core/house/audit';
import type * as BriefModule from '@/core/house/brief';
import type * as Briefs from '@/core/house/briefs';
import type * as Effects from '@/core/house/effects';
import type * as Preview from '@/core/house/preview';
import type * as Registry from '@/core/house/registry';
import { node } from '@/core/character/model';
import { restPlace } from '@/core/character/hierarchy';
import { meshFrom, tube } from './support/build';
import { box } from './support/figure';

type House = typeof Audit &
  typeof BriefModule &
  typeof Briefs &
  typeof Effects &
  typeof Preview &
  typeof Registry;

const root = path.resolve(__dirname, '../..');
const page = readFileSync(path.join(root, 'docs', 'adding.md'), 'utf8');
let folder = '';
let house: House;

/** The block of code of the page that is marked so, and the path that stands above it. */
function exampleOf(kind: string): { file: string; code: string } {
  const found = new RegExp(`\`(src/core/[^\`]+)\`:\\n\\n\`\`\`ts ${kind}\\n([^]*?)\`\`\``).exec(page);
  if (!found) throw new Error(`docs/adding.md shows no ${kind}.`);
  return { file: found[1], code: found[2] };
}

/** Adds an example as the page says: its file, its import, and one line in the list of its room. */
function add(kind: 'check' | 'remedy', list: 'checks' | 'remedies'): void {
  const { file, code } = exampleOf(kind);
  writeFileSync(path.join(folder, file), code);
  const name = /export const (\w+)/.exec(code)![1];
  expect(page).toContain(`\`${name},\``);
  const index = path.join(folder, path.dirname(path.dirname(file)), 'index.ts');
  const before = readFileSync(index, 'utf8');
  const after = before.replace(`export const ${list} = [`, `export const ${list} = [\n  ${name},`);
  expect(after).not.toBe(before);
  const from = `./${list}/${path.basename(file, '.ts')}`;
  writeFileSync(index, `import { ${name} } from '${from}';\n${after}`);
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), 'adding-'));
  cpSync(path.join(root, 'src', 'core'), path.join(folder, 'src', 'core'), { recursive: true });
  cpSync(path.join(root, 'package.json'), path.join(folder, 'package.json'));
  symlinkSync(path.join(root, 'node_modules'), path.join(folder, 'node_modules'));
  add('check', 'checks');
  add('remedy', 'remedies');
  const modules = ['audit', 'brief', 'briefs', 'effects', 'preview', 'registry'];
  const entry = path.join(folder, 'entry.ts');
  writeFileSync(entry, modules.map((m) => `export * from './src/core/house/${m}';\n`).join(''));
  const outfile = path.join(folder, 'house.cjs');
  await build({
    entryPoints: [entry],
    bundle: true,
    platform: 'node',
    format: 'cjs',
    outfile,
    logLevel: 'silent',
  });
  house = createRequire(__filename)(outfile) as House;
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

it('the examples are of the right types', () => {
  const tsc = path.join(root, 'node_modules', '.bin', 'tsc');
  const files = [exampleOf('check').file, exampleOf('remedy').file];
  const { compilerOptions } = JSON.parse(readFileSync(path.join(root, 'tsconfig.json'), 'utf8')) as {
    compilerOptions: object;
  };
  const config = { compilerOptions: { ...compilerOptions, incremental: false, types: ['node'] }, files };
  writeFileSync(path.join(folder, 'tsconfig.json'), JSON.stringify(config));
  const made = spawnSync(tsc, ['-p', '.'], { cwd: folder, encoding: 'utf8' });
  expect([made.status, made.stdout]).toEqual([0, '']);
});

it('the check is asked by the audit, with its setting in the brief', () => {
  const t = tube();
  const flat = { ...t.meshes[0], attributes: { ...t.meshes[0].attributes } };
  const { data } = flat.attributes.POSITION;
  flat.attributes.POSITION = {
    ...flat.attributes.POSITION,
    data: Float32Array.from(data, (x, i) => (i % 3 === 2 ? x * 0.001 : x)),
  };
  const brief = house.briefSchema.cast(house.briefById('handset')) as BriefModule.Brief & {
    thinnest: number;
  };
  expect(brief.thinnest).toBe(0.005);
  const keys = (c: typeof t) => house.audit(c, brief).map((f) => f.check);
  expect(keys({ ...t, meshes: [flat] })).toContain('flat');
  expect(keys(t)).not.toContain('flat');
  expect(house.CHECKS.filter((c) => c.id === 'flat').length).toBe(1);
});

it('the remedy is found, previewed, applied, and keeps its promise', () => {
  const t = tube();
  const { points, polygons } = box([0.3, 0, 0], [0.2, 0.4, 0.2]);
  const crate = {
    ...t,
    meshes: [...t.meshes, { ...meshFrom(points, polygons), name: 'crate' }],
    nodes: [...t.nodes, node({ name: 'crate', kind: 'mesh', mesh: 1, parent: 0, translation: [1, 0, 0] })],
  };
  const at = crate.nodes.length - 1;
  const remedy = house.remedyById('turn-about')!;
  const brief = house.briefById('handset')!;
  const { rows, effects, after } = house.previewRemedy(remedy, crate, { node: at }, brief);
  expect(rows.map((r) => [Math.round(Number(r.before)), Math.round(Number(r.after)), r.unit])).toEqual([
    [0, 180, '°'],
  ]);
  expect([effects.outside, effects.others.largest]).toEqual([[], 0]);
  restPlace(after.nodes, at).forEach((x, k) => expect(x).toBeCloseTo(restPlace(crate.nodes, at)[k], 12));
  const again = remedy.apply(after, { node: at }, brief);
  again.nodes[at].translation.forEach((x, k) => expect(x).toBeCloseTo(crate.nodes[at].translation[k], 12));
});
