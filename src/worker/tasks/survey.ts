import { bonesOf } from '../../core/character/hierarchy';
import { boxOf, placedMeshes, skeletonBox } from '../../core/character/measure';
import { readCharacter } from '../../core/formats';
import type { InputFile } from '../../core/formats/errors';
import type { Surveyed } from '../../tasks/survey';
import { LIMITS } from '../task';

/** Reads files as far as it takes to say what they are and how large, in every unit. Throws ReadError. */
export function surveyFiles({ files }: { readonly files: InputFile[] }): Surveyed {
  const character = readCharacter(files, LIMITS);
  const box = boxOf(placedMeshes(character).map((placed) => placed.points)) ?? skeletonBox(character);
  const extent = (k: number) => (box ? box.max[k] - box.min[k] : 0);
  const sources = [character.source, ...(character.added ?? [])];
  const loose =
    sources.find((source) => source.stated && (!source.stated.unit || !source.stated.upAxis)) ??
    character.source;
  return {
    name: character.name,
    format: loose.format,
    unitMetres: loose.unitMetres,
    upAxis: loose.upAxis ?? 'y',
    stated: loose.stated ?? { unit: true, upAxis: true },
    size: [extent(0), extent(1), extent(2)],
    bones: bonesOf(character).length,
    vertices: character.meshes.reduce((sum, mesh) => sum + mesh.vertexCount, 0),
    clips: character.clips.length,
  };
}
