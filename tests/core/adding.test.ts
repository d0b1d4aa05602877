/**
 * What docs/adding.md says is true: its check and its remedy, each one file and one line in its room's list,
 * and the whole house has them.
 */
import path from 'node:path';
import type * as Audit from '@/core/house/audit';
import type * as ByHand from '@/core/house/by-hand';
import type * as BriefModule from '@/core/house/brief';
import type * as Briefs from '@/core/house/briefs';
import type * as Effects from '@/core/house/effects';
import type * as Preview from '@/core/house/preview';
import type * as Registry from '@/core/house/registry';
import type * as Formats from '@/core/formats';
import { node } from '@/core/character/model';
import { restPlace } from '@/core/character/hierarchy';
import { meshFrom, tube } from './support/build';
import { ExtendedCopy, exampleOf } from './support/extended-copy';
import { box } from './support/figure';

type House = typeof Audit &
  typeof ByHand &
  typeof BriefModule &
  typeof Briefs &
  typeof Effects &
  typeof Preview &
  typeof Registry &
  typeof Formats;

const copy = new ExtendedCopy('src/core');
const files: string[] = [];
let house: House;

/** Adds an example as the page says: its file, its import, and one line in the list of its room. */
function add(kind: 'check' | 'remedy' | 'format', list: 'checks' | 'remedies' | 'FORMATS'): void {
  const file = copy.write(kind);
  files.push(file);
  const name = /export const (\w+)/.exec(exampleOf(kind).code)![1];
  const index = path.join(path.dirname(path.dirname(file)), kind === 'format' ? 'list.ts' : 'index.ts');
  const from = `./${path.basename(path.dirname(file))}/${path.basename(file, '.ts')}`;
  const inList = new RegExp(`(export const ${list}[^=]*= \\[)`);
  copy.change(index, `${name},`, inList, `$1\n  ${name},`, `import { ${name} } from '${from}';\n`);
}

beforeAll(async () => {
  add('check', 'checks');
  add('remedy', 'remedies');
  add('format', 'FORMATS');
  const modules = ['audit', 'brief', 'by-hand', 'briefs', 'effects', 'preview', 'registry'];
  const sources = [...modules.map((module) => `house/${module}`), 'formats'];
  house = (await copy.load(sources.map((source) => `core/${source}`))) as House;
});
afterAll(() => copy.remove());

it('the examples are of the right types', () => {
  expect(copy.typeErrors(files)).toBe('');
});

it('the check is asked by the audit, with its setting in the brief', () => {
  const target = tube();
  const flat = { ...target.meshes[0], attributes: { ...target.meshes[0].attributes } };
  const { data } = flat.attributes.POSITION;
  flat.attributes.POSITION = {
    ...flat.attributes.POSITION,
    data: Float32Array.from(data, (x, i) => (i % 3 === 2 ? x * 0.001 : x)),
  };
  const brief = house.briefSchema.cast(house.briefById('handset')) as BriefModule.Brief & {
    thinnest: number;
  };
  expect(brief.thinnest).toBe(0.005);
  const keys = (character: typeof target) => house.audit(character, brief).map((finding) => finding.check);
  expect(keys({ ...target, meshes: [flat] })).toContain('flat');
  expect(keys(target)).not.toContain('flat');
  expect(house.CHECKS.filter((check) => check.id === 'flat').length).toBe(1);
});

it('the remedy is found, previewed, applied, and keeps its promise', () => {
  const target = tube();
  const { points, polygons } = box([0.3, 0, 0], [0.2, 0.4, 0.2]);
  const crate = {
    ...target,
    meshes: [...target.meshes, { ...meshFrom(points, polygons), name: 'crate' }],
    nodes: [
      ...target.nodes,
      node({ name: 'crate', kind: 'mesh', mesh: 1, parent: 0, translation: [1, 0, 0] }),
    ],
  };
  const at = crate.nodes.length - 1;
  const byHand = house
    .remediesByHand(crate, { ...house.NOTHING_CHOSEN, nodes: [at] }, 'placement')
    .map((offer) => offer.remedy.id);
  expect(byHand).toContain('turn-about');
  const remedy = house.remedyById('turn-about')!;
  const brief = house.briefById('handset')!;
  const { rows, effects, after } = house.previewRemedy(remedy, crate, { node: at }, brief);
  expect(
    rows.map((row) => [Math.round(Number(row.before)), Math.round(Number(row.after)), row.unit]),
  ).toEqual([[0, 180, '°']]);
  expect([effects.outside, effects.others.largest]).toEqual([[], 0]);
  restPlace(after.nodes, at).forEach((x, k) => expect(x).toBeCloseTo(restPlace(crate.nodes, at)[k], 12));
  const again = remedy.apply(after, { node: at }, brief);
  again.nodes[at].translation.forEach((x, k) => expect(x).toBeCloseTo(crate.nodes[at].translation[k], 12));
});

it('the format is read by its name and by its first letters', () => {
  const tetrahedron = 'OFF\n4 4 0\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n';
  const bytes = new TextEncoder().encode(tetrahedron);
  expect(house.READS).toContain('.off');
  for (const name of ['shape.off', 'shape']) {
    const { meshes } = house.readCharacter([{ name, bytes }]);
    expect(meshes.map((mesh) => [mesh.vertexCount, mesh.polygonOffsets.length - 1])).toEqual([[4, 4]]);
  }
});
