import type { CarriedImage } from '../../character/model';
import { type InputFile, type ReadLimits, printable } from '../errors';
import { mimeTypeOf } from '../pictures';
import { textOf, wordsOf } from '../text';

/** A material as an MTL file describes it. Colours are linear, 0 to 1. */
export interface ObjMaterial {
  colour: [number, number, number];
  opacity: number;
  roughness: number;
  map?: string;
}

/** The materials of MTL files, by name. */
export interface ObjLibrary {
  readonly materials: ReadonlyMap<string, ObjMaterial>;
  readonly images: readonly CarriedImage[];
  /** Index of the texture of a picture's name. */ readonly textures: ReadonlyMap<string, number>;
  readonly notes: readonly string[];
}

const lower = (text: string) => text.replace(/\\/g, '/').replace(/^.*\//, '').toLowerCase();

/**
 * The materials of the .mtl files that were chosen along with an OBJ, and the pictures that they name. What
 * is missing is named in the notes.
 */
export function readMaterials(
  files: readonly InputFile[],
  libraries: readonly string[],
  limits: ReadLimits,
): ObjLibrary {
  const materials = new Map<string, ObjMaterial>();
  const notes: string[] = [];
  const find = (name: string) => files.find((file) => lower(file.name) === lower(name));
  for (const name of new Set(libraries)) {
    const file = find(name);
    if (!file) {
      notes.push(
        `The materials in “${printable(name)}” were not chosen along with it; their names are kept.`,
      );
      continue;
    }
    if (file.bytes.length === 0) continue;
    let now: ObjMaterial | null = null;
    for (const line of textOf(file, limits).split(/\r?\n/)) {
      const [word, ...rest] = wordsOf(line);
      const numbers = rest.map(Number);
      if (word === 'newmtl') {
        now = { colour: [0.8, 0.8, 0.8], opacity: 1, roughness: 0.9 };
        materials.set(line.trim().slice(6).trim(), now);
      } else if (!now) {
        continue;
      } else if (word === 'Kd' && numbers.slice(0, 3).every((x) => x >= 0 && x <= 1) && numbers.length >= 3) {
        now.colour = [numbers[0], numbers[1], numbers[2]];
      } else if (word === 'd' && numbers[0] >= 0 && numbers[0] <= 1) {
        now.opacity = numbers[0];
      } else if (word === 'Tr' && numbers[0] >= 0 && numbers[0] <= 1) {
        now.opacity = 1 - numbers[0];
      }
      // A shininess n matches a microfacet roughness of √(2 / (n + 2)).
      else if (word === 'Ns' && numbers[0] >= 0) {
        now.roughness = Math.sqrt(2 / (numbers[0] + 2));
      } else if (word === 'map_Kd' && rest.length > 0) {
        now.map = rest[rest.length - 1];
      }
    }
  }
  const images: CarriedImage[] = [];
  const textures = new Map<string, number>();
  for (const { map } of materials.values()) {
    if (!map || textures.has(map)) continue;
    const file = find(map);
    const mimeType = mimeTypeOf(map);
    if (!file) {
      notes.push(`The picture “${printable(map)}” was not chosen along with it.`);
    } else if (!mimeType) {
      notes.push(`The picture “${printable(map)}” is neither PNG nor JPEG and is not carried.`);
    } else {
      textures.set(map, images.length);
      images.push({ json: { name: map, mimeType }, bytes: file.bytes, mimeType });
    }
  }
  return { materials, images, textures, notes };
}
