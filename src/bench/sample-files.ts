/** The files that quality is measured on: the coarse cast, and those that others made, as the machine and the packages carry them. */
import { existsSync, readFileSync, readdirSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '../core/character/model';
import { readCharacter } from '../core/formats/index';

/** The members of the cast that have a body. */
export const castFiles = (): string[] =>
  ['deckhand-clean.glb', 'stoker.dae', 'heron.glb'].map((name) => path.join('dist', 'demo', 'coarse', name));

/** Files of others, of every format that holds meshes. */
export function othersFiles(): string[] {
  const models = '/usr/share/assimp/models';
  const listed = existsSync(models)
    ? readdirSync(models, { recursive: true, encoding: 'utf8' })
        .filter((name) => /\.(dae|zae|obj|glb|gltf)$/i.test(name))
        .map((name) => path.join(models, name))
    : [];
  const profiles = path.join('node_modules', '@webxr-input-profiles', 'assets', 'dist', 'profiles');
  return [...listed, ...['left', 'right'].map((side) => path.join(profiles, 'generic-hand', `${side}.glb`))];
}

/** What a file holds; nothing where it is broken on purpose, or refers to others. */
export function readSample(file: string): Character | null {
  try {
    return readCharacter([{ name: path.basename(file), bytes: new Uint8Array(readFileSync(file)) }]);
  } catch {
    return null;
  }
}
