/** Handing over what others made: the sample files of Debian's assimp-testmodels and of registry packages. */
import { existsSync, readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { readFile } from '@/cli/files';
import { brokenInvariants } from '@/core/character/invariants';
import type { Character } from '@/core/character/model';
import { toStored } from '@/core/character/stored';
import { addressOf } from '@/core/character/bundle';
import { ReadError } from '@/core/formats/errors';
import { writeGlb } from '@/core/formats/gltf/write';
import { briefById } from '@/core/house/briefs';
import { docketFrom, verifyFile } from '@/core/house/docket';
import { itemsOf, withItems, withNeeds } from '@/core/rooms/docket/items';
import { runJob } from '@/worker/tasks';
import { validate } from './support/validator';

const MODELS = '/usr/share/assimp/models';
const PACKAGE = path.join(path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')), 'dist');

/** Larger ones only take longer. */
const LARGEST = 3e6;

/** Likewise: of so many vertices at most are sealed here. */
const MOST_SEALED = 6000;

/** Files of a folder, however deep, that a character can be read from. */
function filesIn(folder: string, ending: RegExp): string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .map((file) => path.join(folder, file))
    .filter((file) => ending.test(file) && statSync(file).isFile() && statSync(file).size < LARGEST)
    .sort();
}

/** One of every few, so that every folder has its turn. */
const some = (files: string[], most: number) => {
  const step = Math.max(1, Math.ceil(files.length / most));
  return files.filter((_, i) => i % step === 0);
};

const FILES = [
  ...some(filesIn(path.join(MODELS, 'glTF2'), /\.(glb|gltf)$/), 36),
  ...some(filesIn(path.join(MODELS, 'Collada'), /\.dae$/i), 18),
  ...some(filesIn(path.join(MODELS, 'BVH'), /\.bvh$/), 3),
  ...some(filesIn(path.join(MODELS, 'OBJ'), /\.obj$/), 12),
  ...some(filesIn(PACKAGE, /\.glb$/), 12),
];

/** What can be read of them. */
const readable = (): [string, Character][] =>
  FILES.flatMap((file): [string, Character][] => {
    try {
      return [[path.basename(file), readFile(file)]];
    } catch (error) {
      if (error instanceof ReadError) return [];
      throw error;
    }
  });

const brief = briefById('gltf')!;
const codeOf = (error: string) => error.split(' ')[0];

describe('sample files', () => {
  const all = readable();
  it('are many, and of many kinds', () => {
    expect(all.length).toBeGreaterThan(existsSync(MODELS) ? 40 : 5);
    const kinds = new Set(all.flatMap(([, character]) => itemsOf(character).map((item) => item.kind)));
    expect([...kinds]).toEqual(
      expect.arrayContaining(['prop', ...(existsSync(MODELS) ? ['mesh', 'clip'] : [])]),
    );
  });
  it('fall into items, of which any choice is whole and writes a file that is no worse than the whole', async () => {
    let left = 0;
    for (const [seed, [file, character]] of all.entries()) {
      const items = itemsOf(character);
      expect([file, new Set(items.map((item) => item.id)).size]).toEqual([file, items.length]);
      if (items.length === 0) continue;
      const whole = new Set((await validate(writeGlb(character).bytes)).map(codeOf));
      for (const chosen of fc.sample(fc.subarray(items, { minLength: 1 }), { numRuns: 2, seed })) {
        const ids = new Set(chosen.map((item) => item.id));
        const out = withItems(character, ids);
        left += out.leftOut.length;
        expect([file, brokenInvariants(out.character)]).toEqual([file, []]);
        // Namesakes count anew where some of them stay behind.
        const kept = itemsOf(out.character).map((item) => `${item.kind} ${item.name}`);
        const wanted = withNeeds(items, ids);
        const taken = items.filter((item) => wanted.has(item.id)).map((item) => `${item.kind} ${item.name}`);
        expect([file, kept.sort()]).toEqual([file, taken.sort()]);
        const worse = (await validate(writeGlb(out.character).bytes)).filter(
          (error) => !whole.has(codeOf(error)),
        );
        expect([file, worse]).toEqual([file, []]);
      }
    }
    if (existsSync(MODELS)) expect(left).toBeGreaterThan(50);
  });
  it('are sealed, known again, and told from themselves with another byte', () => {
    let sealed = 0;
    for (const [file, character] of all) {
      const vertices = character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0);
      if (itemsOf(character).length === 0 || vertices > MOST_SEALED) continue;
      const { stored, bytes } = toStored(character, addressOf);
      const made = runJob<'handover'>({
        task: 'handover',
        input: {
          wire: { address: file, stored, bytes },
          brief,
          waivers: [],
          moment: { today: '2026-11-27' },
          items: null,
          format: 'glb',
          stem: 'sample',
          facts: { title: file, revision: 1, date: '2026-11-27', steps: [], pins: [] },
          label: 'as delivered',
          crosswalk: null,
          by: 'R. Lindqvist',
          note: '',
          id: '1',
          at: '2026-11-27T10:00:00Z',
        },
      });
      if ('refused' in made) throw new Error(`${file}: ${made.refused}`);
      const docket = docketFrom(JSON.parse(made.docket));
      expect([file, verifyFile(docket, made.file)]).toEqual([
        file,
        { isSealed: true, same: made.file.name, differences: [] },
      ]);
      const bent = made.file.bytes.slice();
      bent[bent.length - 9] ^= 0x10;
      expect([file, verifyFile(docket, { name: 'bent.glb', bytes: bent }).same]).toEqual([file, null]);
      expect(made.report).toContain('Handed over');
      sealed++;
    }
    expect(sealed).toBeGreaterThan(existsSync(MODELS) ? 40 : 5);
  });
});
