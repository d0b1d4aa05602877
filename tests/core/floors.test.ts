/** The floors of the house: folders import from floors below them only, and never in a circle. */
import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';

const src = path.resolve('src');

const filesIn = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((dirent) => {
    const full = path.join(folder, dirent.name);
    if (dirent.isDirectory()) return filesIn(full);
    return /\.tsx?$/.test(dirent.name) && !dirent.name.endsWith('.as.ts') ? [full] : [];
  });

/** The folder that a file counts to: a floor of the core, a room of it, or a folder of the house. */
function folderOf(file: string): string {
  const parts = path.relative(src, file).split(path.sep);
  if (parts[0] === 'core') return parts.slice(0, parts[1] === 'rooms' ? 3 : 2).join('/');
  if (parts[0] === 'ui') return parts.slice(0, 2).join('/');
  return parts.length > 1 ? parts[0] : 'proxy';
}

function importsOf(file: string): string[] {
  const text = readFileSync(file, 'utf8');
  return [...text.matchAll(/(?:from|import\()\s*'((?:\.|@\/)[^']*)'/g)].map((match) =>
    match[1].startsWith('@/')
      ? path.join(src, match[1].slice(2))
      : path.resolve(path.dirname(file), match[1]),
  );
}

const edges = new Map<string, Set<string>>();
for (const file of filesIn(src)) {
  const from = folderOf(file);
  const to = edges.get(from) ?? new Set<string>();
  edges.set(from, to);
  for (const target of importsOf(file)) if (folderOf(target) !== from) to.add(folderOf(target));
}

/** What the list of floors makes, as the script says it. */
const listed = JSON.parse(
  execFileSync(
    process.execPath,
    [
      '--input-type=module',
      '-e',
      "import { FLOORS, lintRules } from './scripts/lint-rules.mjs'; console.log(JSON.stringify({ FLOORS, rules: lintRules() }))",
    ],
    { encoding: 'utf8' },
  ),
) as { readonly FLOORS: readonly (readonly string[])[]; readonly rules: unknown };

const floorOf = (folder: string) => listed.FLOORS.findIndex((floor) => floor.includes(folder.split('/')[1]));

it('the linter holds the very list of floors', () => {
  expect(JSON.parse(readFileSync('.oxlintrc.json', 'utf8'))).toEqual(listed.rules);
});

it('every folder of the core imports from floors below it only', () => {
  const core = [...edges].filter(([from]) => from.startsWith('core/'));
  expect(core.length).toBeGreaterThan(10);
  const wrong = core.flatMap(([from, to]) =>
    [...to]
      .filter((folder) => !folder.startsWith('core/') || floorOf(folder) >= floorOf(from))
      .map((text) => `${from} → ${text}`),
  );
  expect(wrong).toEqual([]);
});

it('no folder imports itself round a corner', () => {
  const circles: string[] = [];
  const walk = (at: string, way: readonly string[]): void => {
    if (way.includes(at)) {
      circles.push([...way.slice(way.indexOf(at)), at].join(' → '));
      return;
    }
    for (const next of edges.get(at) ?? []) if (circles.length === 0) walk(next, [...way, at]);
  };
  for (const folder of edges.keys()) if (!folder.startsWith('ui/')) walk(folder, []);
  expect(circles).toEqual([]);
});

const known = new Map(filesIn(src).map((file) => [file, readFileSync(file, 'utf8')]));

/** The file that an import leads to; null for what is made, as a kernel, or lies elsewhere. */
function fileOf(target: string): string | null {
  return (
    [`${target}.ts`, `${target}.tsx`, path.join(target, 'index.ts')].find((file) => known.has(file)) ?? null
  );
}

it('no file imports itself round a corner, be it for a type', () => {
  const state = new Map<string, 'open' | 'done'>();
  const circles: string[] = [];
  const visit = (file: string, way: readonly string[]): void => {
    if (state.get(file) === 'done') return;
    if (state.get(file) === 'open') {
      const circle = [...way.slice(way.indexOf(file)), file];
      circles.push(circle.map((each) => path.relative(src, each)).join(' → '));
      return;
    }
    state.set(file, 'open');
    for (const target of importsOf(file)) {
      const next = fileOf(target);
      if (next && next !== file) visit(next, [...way, file]);
    }
    state.set(file, 'done');
  };
  for (const file of known.keys()) visit(file, []);
  expect(known.size).toBeGreaterThan(500);
  expect(circles).toEqual([]);
});

it('the server runs nothing of its threads: it knows what they take and give, and hands it over', () => {
  const wrong = [...known].flatMap(([file, text]) => {
    if (!path.relative(src, file).startsWith('server')) return [];
    return [...text.matchAll(/^import (?!type )[^;]*from '\.\.\/worker\/[^']*'/gm)].flatMap(([statement]) =>
      /^import \{ (type [^,}]*,? ?)+\}/.test(statement) ? [] : [`${path.relative(src, file)}: ${statement}`],
    );
  });
  expect(wrong).toEqual([]);
});
