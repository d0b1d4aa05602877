import type { Character } from '../../core/character/model';
import { RemedyError } from '../../core/contracts/remedy';
import { type WrittenPose, writeCharacter } from '../../core/formats';
import { clipMorphs, clipWorld } from '../../core/motion/pose';
import type { ExportInput, Exported } from '../../tasks/export';
import { openWire } from '../task';

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
