/**
 * The rules of the linter: those of scripts/lint-base.json, and from one list here which folder of the core may import
 * what. `node scripts/lint-rules.mjs` writes .oxlintrc.json, which the linter and editors read; a test holds the two
 * against each other.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');

/** The floors of the core from below; folders of one floor do not know each other's folders above theirs. */
export const FLOORS = [
  ['geometry'],
  ['character'],
  ['motion'],
  ['anatomy', 'formats'],
  ['contracts'],
  ['rooms'],
  ['house'],
];

export const ROOMS = ['placement', 'skeleton', 'surface', 'weights', 'trials', 'crosswalk', 'docket'];

/** What lies outside the core. */
const ABOVE = ['server', 'app', 'ui', 'cli', 'worker', 'tasks', 'jobs', 'demo', 'routes'];

/** Packages of a screen, a database or a machine. */
const NOT_OF_THE_CORE = [
  'react',
  'react-dom',
  'react/*',
  'next',
  'next/*',
  'pg',
  'kysely',
  'pg-boss',
  'three',
  'three/*',
  'node:*',
  'fs',
  'path',
];

const everywhere = [
  {
    group: [...ABOVE.map((folder) => `**/${folder}/**`), ...ABOVE.map((folder) => `@/${folder}/*`)],
    message: 'core imports nothing above it',
  },
  { group: NOT_OF_THE_CORE, message: 'core knows no screen, no database and no machine' },
];

const restricted = (files, patterns, more = {}) => ({
  files: [files],
  rules: { ...more, 'no-restricted-imports': ['error', { patterns: [...everywhere, ...patterns] }] },
});

const above = (folder, floor) => {
  const higher = FLOORS.slice(floor + 1).flat();
  const group = higher.map((other) => `**/${other}/**`);
  return group.length > 0 ? [{ group, message: `${folder} imports from the floors below it only` }] : [];
};

const WITHOUT_A_MACHINE = ['window', 'document', 'process', 'Buffer', 'localStorage', 'navigator'];

function floorRules() {
  const core = restricted('src/core/**/*.ts', [], {
    'typescript/no-explicit-any': 'error',
    'no-restricted-globals': ['error', ...WITHOUT_A_MACHINE],
  });
  const floors = FLOORS.flatMap((folders, floor) =>
    folders.map((folder) => restricted(`src/core/${folder}/**/*.ts`, above(folder, floor))),
  );
  const rooms = ROOMS.map((room) =>
    restricted(`src/core/rooms/${room}/**/*.ts`, [
      ...above('rooms', FLOORS.length - 2),
      {
        group: ROOMS.filter((other) => other !== room).map((other) => `../**/${other}/**`),
        message: 'a room knows no other room',
      },
    ]),
  );
  return [core, ...floors, ...rooms];
}

export function lintRules() {
  const base = JSON.parse(readFileSync(path.join(root, 'scripts', 'lint-base.json'), 'utf8'));
  return { ...base, overrides: [...floorRules(), ...base.overrides] };
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const { format } = await import('prettier');
  const text = await format(JSON.stringify(lintRules()), { parser: 'json', printWidth: 110 });
  writeFileSync(path.join(root, '.oxlintrc.json'), text);
}
