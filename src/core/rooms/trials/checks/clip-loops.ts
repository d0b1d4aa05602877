import { object } from 'yup';
import { characterHeight } from '../../../character/measure';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { CLIPS } from '../../../contracts/clips';
import { type Found, defineCheck } from '../../../contracts/check';
import { type Evidence, boneElements } from '../../../contracts/finding';
import { namePattern } from '../../../contracts/pattern';
import { lengthText } from '../../../contracts/units';
import { movesAnything } from '../../../motion/clips/idle-tracks';
import { type LoopGap, loopGaps } from '../../../motion/clips/loop-gap';
import { clipSeconds } from '../../../motion/pose';
import { momentOf, shareOfHeightOf, theClip, travelOfClip } from '../clips';

/** Joints that are told one by one, at most. */
const TOLD = 6;

/** A shift is as far as a turn where it is so much of the figure's height a degree. */
const HEIGHT_A_DEGREE = 1 / 300;

/** Clips that go round end where they begin. */
export const clipLoopsCheck = defineCheck({
  id: 'clip-loops',
  room: 'trials',
  title: 'Clips that go round and do not close',
  why: 'A clip that is played over and over twitches each time where its end is not its beginning.',
  waiverReasons: ['It is played once.'],
  settings: object({ clips: CLIPS }),
  reads: [...SHAPE_AT_REST, 'names', 'clips', 'carried'],
  run(character, { clips: wishes, unit }): Found[] {
    if (!wishes?.loops) return [];
    const { gap } = wishes;
    const goesRound = namePattern(wishes.loops);
    const shareOfHeight = shareOfHeightOf(character);
    const moves = movesAnything(character);
    const height = characterHeight(character);
    return character.clips.flatMap((clip, index): Found[] => {
      if (!goesRound.test(clip.name)) return [];
      const seen = { ...clip, channels: clip.channels.filter(moves) };
      const open = loopGaps(seen, shareOfHeight, travelOfClip(character, clip)).filter(
        ({ path, size }) => size > (path === 'rotation' ? gap : gap * HEIGHT_A_DEGREE),
      );
      if (open.length === 0) return [];
      const [first] = open;
      const told = ({ path, size }: LoopGap) =>
        path === 'rotation' ? `${size.toFixed(1)}°` : lengthText(size * height, unit);
      const allowedFor = ({ path }: LoopGap) =>
        path === 'rotation' ? `${gap}°` : lengthText(gap * HEIGHT_A_DEGREE * height, unit);
      return [
        {
          gravity: 'worth',
          subject: theClip(character, index),
          message: `“${clip.name}” does not end where it begins: “${character.nodes[first.node].name}” is ${told(first)} away`,
          measured: told(first),
          expected: allowedFor(first),
          count: open.length,
          elements: [boneElements(new Set(open.map(({ node }) => node)))],
          evidence: open.slice(0, TOLD).map((one): Evidence => ({
            label: character.nodes[one.node].name,
            now: told(one),
            brief: allowedFor(one),
            unit: '',
          })),
          remedies: [{ id: 'close-loop', params: { clip: index } }],
          pose: momentOf(character, index, clipSeconds(clip)),
        },
      ];
    });
  },
});
