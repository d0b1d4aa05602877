/** Materials, textures and pictures that nothing shows any more. */
import type { Carried, Character, Json, JsonObject } from '../../character/model';

/** Extensions that point to materials or textures only by the fields that are looked at here. */
const KNOWN =
  /^(KHR_materials_(?!variants)|KHR_texture_|EXT_texture_|KHR_mesh_|EXT_mesh_|FB_ngon_|KHR_lights_)/;

/**
 * The character without the materials that no mesh has, and without the textures and pictures that only those show.
 * Where a file holds extensions that might point to them otherwise, everything stays.
 */
export function withoutUnusedPictures(character: Character): Character {
  const { carried, meshes } = character;
  if (carried.extensionsUsed.some((extension) => !KNOWN.test(extension))) return character;
  const used = new Set(
    meshes.flatMap((mesh) => mesh.pieces.map((piece) => piece.material)).filter((i) => i >= 0),
  );
  if (used.size === carried.materials.length) return character;
  const materialOf = renumber(carried.materials.length, used);
  const textures = new Set<number>();
  for (const material of used) walk(carried.materials[material], 'index', (i) => textures.add(i));
  const images = new Set<number>();
  for (const texture of textures)
    if (carried.textures[texture]) walk(carried.textures[texture], 'source', (i) => images.add(i));
  const textureOf = renumber(carried.textures.length, textures);
  const imageOf = renumber(carried.images.length, images);
  const left: Carried = {
    ...carried,
    materials: carried.materials
      .filter((_, i) => used.has(i))
      .map((json) => renamed(json, 'index', textureOf) as JsonObject),
    textures: carried.textures
      .filter((_, i) => textures.has(i))
      .map((json) => renamed(json, 'source', imageOf) as JsonObject),
    images: carried.images.filter((_, i) => images.has(i)),
  };
  return {
    ...character,
    carried: left,
    meshes: meshes.map((mesh) => ({
      ...mesh,
      pieces: mesh.pieces.map((piece) =>
        piece.material < 0 ? piece : { ...piece, material: materialOf[piece.material] },
      ),
    })),
  };
}

function renumber(count: number, kept: ReadonlySet<number>): number[] {
  let next = 0;
  return Array.from({ length: count }, (_, i) => (kept.has(i) ? next++ : -1));
}

/** Every number under a field’s name, however deep. What a person attached (`extras`) is not looked at. */
function walk(json: Json, field: string, found: (index: number) => void): void {
  if (!json || typeof json !== 'object') return;
  if (Array.isArray(json)) {
    for (const part of json) walk(part, field, found);
    return;
  }
  for (const [name, value] of Object.entries(json)) {
    if (name === field && typeof value === 'number') found(value);
    else if (name !== 'extras') walk(value, field, found);
  }
}

/** The same with every such number counted anew. */
function renamed(json: Json, field: string, to: readonly number[]): Json {
  if (!json || typeof json !== 'object') return json;
  if (Array.isArray(json)) return json.map((part) => renamed(part, field, to));
  return Object.fromEntries(
    Object.entries(json).map(([name, value]) => {
      if (name === field && typeof value === 'number') return [name, to[value] ?? value];
      return [name, name === 'extras' ? value : renamed(value, field, to)];
    }),
  );
}
