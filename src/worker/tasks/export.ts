import type { Character } from '../../core/character/model';
import { RemedyError } from '../../core/contracts/remedy';
import { type WrittenFiles, type WrittenPose, writeCharacter } from '../../core/formats';
import { clipMorphs, clipWorld } from '../../core/motion/pose';
import { type Wire, openWire } from '../task';

export interface ExportInput {
  readonly wire: Wire;
  /** Id of the format. */
  readonly format: string;
  /** Name of the files without what stands behind the dot. */
  readonly stem: string;
  /** A moment of a clip, seconds; at rest where there is none. */
  readonly pose?: { readonly clip: number; readonly time: number };
}

export interface Exported {
  readonly files: WrittenFiles['files'];
  readonly notes: readonly string[];
}

/** Writes a revision in a format. */
export function exportRevision({ wire, format, stem, pose }: ExportInput): Exported {
  const character = openWire(wire);
  return writeCharacter(character, format, stem, pose ? { pose: poseAt(character, pose) } : {});
}

function poseAt(character: Character, { clip: index, time }: { clip: number; time: number }): WrittenPose {
  const clip = character.clips[index];
  if (!clip) throw new RemedyError('There is no such clip to take the pose from; choose another.');
  return {
    world: clipWorld(character, clip, time),
    morphs: (node) => clipMorphs(character, clip, time, node),
  };
}
