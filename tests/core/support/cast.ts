import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '@/core/character/model';
import { readCharacter } from '@/core/formats';

const FINE = 'fine/';

/**
 * Where a member of the cast lies: one with a quarter of its points, which is as good a body in a quarter of the time; as
 * it is on the shelf where `fine/` stands before it, for what depends on how finely a body is made.
 */
export function castPath(file: string): string {
  const shelf = path.resolve(process.env.BOUGH_CAST ?? 'dist/demo');
  return file.startsWith(FINE) ? path.join(shelf, file.slice(FINE.length)) : path.join(shelf, 'coarse', file);
}

export const castBytes = (file: string) => new Uint8Array(readFileSync(castPath(file)));
const known = new Map<string, Character>();

/** A member of the cast. A character is immutable, so that one reading serves every test of a file. */
export function castCharacter(file: string): Character {
  let character = known.get(file);
  if (!character) {
    character = readCharacter([{ name: path.basename(file), bytes: castBytes(file) }]);
    known.set(file, character);
  }
  return character;
}

export const handBytes = (side: 'left' | 'right') =>
  new Uint8Array(
    readFileSync(
      path.join(
        path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')),
        `dist/profiles/generic-hand/${side}.glb`,
      ),
    ),
  );
