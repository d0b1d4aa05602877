import { readFileSync } from 'node:fs';
import path from 'node:path';
import type { Character } from '@/core/character/model';
import { readGltf } from '@/core/formats/gltf/read';

export const castBytes = (file: string) => new Uint8Array(readFileSync(path.join(process.env.BOUGH_CAST ?? 'dist/demo', file)));
export const castCharacter = (file: string): Character => readGltf([{ name: file, bytes: castBytes(file) }]);

export const handBytes = (side: 'left' | 'right') => new Uint8Array(readFileSync(path.join(path.dirname(require.resolve('@webxr-input-profiles/assets/package.json')), `dist/profiles/generic-hand/${side}.glb`)));
