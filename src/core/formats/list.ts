/** Every format of the house. A new one is its folder and a line here. */
import { bvh } from './bvh/format';
import { collada } from './collada/format';
import type { Format, FormatWriter } from './format';
import { gltf } from './gltf/format';
import { obj } from './obj/format';

export const FORMATS: readonly Format[] = [gltf, collada, obj, bvh];

/** A format that is written as well. */
export type WrittenFormat = Format & { readonly writer: FormatWriter };

export const WRITTEN_FORMATS: readonly WrittenFormat[] = FORMATS.filter(
  (format): format is WrittenFormat => format.writer !== undefined,
);

/** Endings of the files that are read, with their dots; an archive may hold any of the others. */
export const READS: readonly string[] = [...FORMATS.flatMap((format) => format.reads), '.zip'];
