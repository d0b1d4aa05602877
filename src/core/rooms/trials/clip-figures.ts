/** The clips of a character in numbers, whatever a brief asks of them. */
import type { Character } from '../../character/model';
import { type ClipWishes, USUAL_CLIPS } from '../../contracts/clips';
import { keysOffGrid, usualRateOf } from '../../motion/clips/frame-grid';
import { movesAnything } from '../../motion/clips/idle-tracks';
import { jumpsOf } from '../../motion/clips/jumps';
import { loopGaps } from '../../motion/clips/loop-gap';
import { scaledBones } from '../../motion/clips/scale-tracks';
import { carriedNode, travelOf } from '../../motion/clips/travel';
import { clipSeconds } from '../../motion/pose';
import { UPRIGHT, theClip, travelOfClip, shareOfHeightOf } from './clips';

export interface ClipFigures {
  readonly clip: number;
  readonly name: string;
  readonly seconds: number;
  readonly tracks: number;
  readonly keys: number;
  /** Frames a second that all keys stand on, of those that are usual; null where they follow none. */
  readonly rate: number | null;
  /** Keys between the frames that the brief wants; 0 where it asks for none. */
  readonly offFrames: number;
  /** Metres over the ground from its beginning to its end. */
  readonly travel: number;
  /** The largest turn that its end misses of its beginning, degrees. */
  readonly gap: number;
  readonly jumps: number;
  readonly scaledBones: number;
  readonly idleTracks: number;
}

/** The figures of every clip. */
export function clipFigures(character: Character, wishes: ClipWishes = USUAL_CLIPS): ClipFigures[] {
  const shareOfHeight = shareOfHeightOf(character);
  const moves = movesAnything(character);
  return character.clips.map((clip, index): ClipFigures => {
    const node = carriedNode(character, clip);
    const seen = { ...clip, channels: clip.channels.filter(moves) };
    const gaps = loopGaps(seen, shareOfHeight, travelOfClip(character, clip));
    return {
      clip: index,
      name: theClip(character, index).name,
      seconds: clipSeconds(clip),
      tracks: clip.channels.length,
      keys: clip.channels.reduce((sum, { times }) => sum + times.length, 0),
      rate: usualRateOf(clip),
      offFrames: wishes.rate ? keysOffGrid(clip, wishes.rate).off : 0,
      travel: node < 0 ? 0 : Math.hypot(...travelOf(character, clip, node, UPRIGHT)),
      gap: gaps.find(({ path }) => path === 'rotation')?.size ?? 0,
      jumps: jumpsOf(clip, wishes, shareOfHeight).length,
      scaledBones: scaledBones(character, clip).filter(
        ({ factor }) => Math.abs(factor - 1) > (wishes.scale ?? USUAL_CLIPS.scale),
      ).length,
      idleTracks: clip.channels.length - seen.channels.length,
    };
  });
}
