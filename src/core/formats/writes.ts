/** What is written, and what cannot be; without the writers. */
import type { Character } from '../character/model';

/** Formats that are written. */
export const WRITES = ['glb', 'dae', 'obj'] as const;
export type WriteFormat = (typeof WRITES)[number];

/** A character that cannot be written in a format. The message is a sentence for people. */
export class WriteError extends Error {}

/** Why a character cannot be written in a format, as a sentence; null where it can. */
export function whyNotWritten(
  { nodes, meshes }: Pick<Character, 'nodes' | 'meshes'>,
  format: WriteFormat,
): string | null {
  if (format === 'obj' && !nodes.some((n) => (meshes[n.mesh]?.polygonOffsets.length ?? 0) > 1))
    return 'OBJ holds meshes only, and there is none here; choose binary glTF or COLLADA.';
  return null;
}
