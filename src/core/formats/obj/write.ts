import { writtenPolygons } from '../recover';
import { meshNodesOf, restWorld } from '../../character/hierarchy';
import type { Character, JsonObject } from '../../character/model';
import { morph, morphsAt } from '../../character/morphs';
import { determinant3 } from '../../geometry/matrix';
import { placedNormals, placedPoints } from '../../character/deform';
import { weldExact } from '../../geometry/weld';
import type { WrittenFiles, WrittenPose } from '../format';
import { short } from '../numbers';

/**
 * A name as one word: a # at its start would begin a comment, a backslash at its end would join the next line
 * to it.
 */
const word = (text: string, otherwise: string) =>
  text
    .trim()
    .replace(/\s+/g, '_')
    .replace(/[^\x21-\uffff]/g, '')
    .replace(/^#+|\\+$/g, '_') || otherwise;

/**
 * Writes all meshes as Wavefront OBJ in world space, metres, +Y up: at rest, or in a pose, with the morph
 * targets that are on. Polygons, texture places, normals and material names are kept; the format knows no
 * skeleton, no weights, no clips, which the notes say. Seams stay one point: places are welded where they are
 * equal.
 */
export function writeObj(character: Character, stem: string, pose?: WrittenPose): WrittenFiles {
  const world = pose?.world ?? restWorld(character.nodes);
  const parts: string[] = [
    `# ${character.name.replace(/[\r\n]/g, ' ')}: metres, +Y up, ${pose ? 'posed' : 'at rest'}\n`,
  ];
  const materials = character.carried.materials as readonly JsonObject[];
  const names = uniqueNames(
    materials.map((material, i) => word(String(material.name ?? ''), `material_${i + 1}`)),
  );
  if (materials.length > 0) parts.push(`mtllib ${word(stem, 'character')}.mtl\n`);
  let v0 = 1;
  let t0 = 1;
  let n0 = 1;
  const objects = uniqueNames(
    meshNodesOf(character).map((i) =>
      word(character.nodes[i].name || character.meshes[character.nodes[i].mesh].name, `mesh_${i}`),
    ),
  );
  meshNodesOf(character).forEach((i, k) => {
    const node = character.nodes[i];
    const mesh = morph(character.meshes[node.mesh], pose?.morphs(i) ?? morphsAt(character, i));
    const skin = node.skin >= 0 && mesh.influences ? character.skins[node.skin] : null;
    const points = placedPoints(mesh, skin, i, world);
    const weld = weldExact(points);
    const lines: string[] = [`o ${objects[k]}\n`];
    for (let point = 0; point < weld.pointCount; point++) {
      const vertex = weld.vertexOfPoint[point] * 3;
      lines.push(`v ${short(points[vertex])} ${short(points[vertex + 1])} ${short(points[vertex + 2])}\n`);
    }
    const uv = mesh.attributes.TEXCOORD_0;
    const normals = placedNormals(mesh, skin, i, world);
    const uvScale = uv && !(uv.data instanceof Float32Array) ? 2 ** (8 * uv.data.BYTES_PER_ELEMENT) - 1 : 1;
    if (uv)
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
        lines.push(
          `vt ${short(uv.data[vertex * uv.size] / uvScale)} ${short(1 - uv.data[vertex * uv.size + 1] / uvScale)}\n`,
        );
    if (normals)
      for (let vertex = 0; vertex < mesh.vertexCount; vertex++)
        lines.push(
          `vn ${short(normals[vertex * 3])} ${short(normals[vertex * 3 + 1])} ${short(normals[vertex * 3 + 2])}\n`,
        );
    const turned = !skin && determinant3(world, i * 16) < 0;
    for (const piece of mesh.pieces) {
      if (piece.mode < 4 || piece.mode > 6) continue;
      if (piece.material >= 0 && names[piece.material]) lines.push(`usemtl ${names[piece.material]}\n`);
      for (const polygon of writtenPolygons(mesh, piece)) {
        const row = polygon.map(
          (vertex) =>
            `${weld.pointOfVertex[vertex] + v0}${uv || normals ? `/${uv ? vertex + t0 : ''}` : ''}${normals ? `/${vertex + n0}` : ''}`,
        );
        lines.push(`f ${(turned ? row.reverse() : row).join(' ')}\n`);
      }
    }
    parts.push(lines.join(''));
    v0 += weld.pointCount;
    if (uv) t0 += mesh.vertexCount;
    if (normals) n0 += mesh.vertexCount;
  });
  const notes = [
    ...(character.skins.length > 0
      ? ['OBJ knows no skeleton and no weights: the points are written as they stand.']
      : []),
    ...(character.sets.length > 0 ? ['OBJ knows no sets: those of the character are not in the file.'] : []),
    ...(character.clips.length > 0 ? ['OBJ knows no motion: the clips are not in the file.'] : []),
    ...(character.meshes.some((mesh) => mesh.morphs.length > 0)
      ? ['OBJ knows no morph targets: those that are on are in the points, the others are not in the file.']
      : []),
  ];
  const encode = (text: string | readonly string[]) =>
    new TextEncoder().encode(typeof text === 'string' ? text : text.join(''));
  const files = [{ name: `${stem}.obj`, bytes: encode(parts), type: 'model/obj' }];
  if (materials.length > 0)
    files.push({
      name: `${word(stem, 'character')}.mtl`,
      bytes: encode(materials.map((material, i) => materialText(names[i], material))),
      type: 'model/mtl',
    });
  return { files, notes };
}

function uniqueNames(names: readonly string[]): string[] {
  const taken = new Set(names);
  const seen = new Set<string>();
  return names.map((name) => {
    let own = name;
    for (let k = 2; seen.has(own) || (own !== name && taken.has(own)); k++) own = `${name}_${k}`;
    seen.add(own);
    return own;
  });
}

function materialText(name: string, json: JsonObject): string {
  const pbr = (json.pbrMetallicRoughness ?? {}) as JsonObject;
  const numbers = Array.isArray(pbr.baseColorFactor) ? pbr.baseColorFactor.map(Number) : [1, 1, 1, 1];
  const roughness = typeof pbr.roughnessFactor === 'number' ? Math.max(0.05, pbr.roughnessFactor) : 1;
  return `newmtl ${name}\nKd ${numbers.slice(0, 3).map(short).join(' ')}\nd ${short(numbers[3] ?? 1)}\nNs ${short(Math.max(0, 2 / (roughness * roughness) - 2))}\n\n`;
}
