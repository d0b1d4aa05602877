import { object } from 'yup';
import { CLIPS } from '../../../contracts/clips';
import { type Found, defineCheck } from '../../../contracts/check';
import { type Evidence, boneElements } from '../../../contracts/finding';
import { namePattern } from '../../../contracts/pattern';
import { lengthText } from '../../../contracts/units';
import { movesAnything } from '../../../motion/clips/idle-tracks';
import { loopGaps } from '../../../motion/clips/loop-gap';
import { clipSeconds } from '../../../motion/pose';
import { momentOf, theClip, travelOfClip, worldScaleOf } from '../clips';

/** Joints that are told one by one, at most. */
const TOLD = 6;

/** A shift is as far as a turn of so many metres a degree: the end of a limb of a hand's length. */
const METRES_A_DEGREE = 0.005;

/** Clips that go round end where they begin. */
export const clipLoopsCheck = defineCheck({
  id: 'clip-loops',
  room: 'trials',
  title: 'Clips that go round and do not close',
  why: 'A clip that is played over and over twitches each time where its end is not its beginning.',
  waiverReasons: ['It is played once.'],
  settings: object({ clips: CLIPS }),
  reads: ['tree', 'names', 'places', 'clips', 'shows', 'joints', 'weights', 'morphs', 'carried'],
  run(character, { clips: wishes, unit }): Found[] {
    if (!wishes?.loops) return [];
    const { gap } = wishes;
    const goesRound = namePattern(wishes.loops);
    const worldScale = worldScaleOf(character);
    const moves = movesAnything(character);
    return character.clips.flatMap((clip, index): Found[] => {
      if (!goesRound.test(clip.name)) return [];
      const seen = { ...clip, channels: clip.channels.filter(moves) };
      const open = loopGaps(seen, worldScale, travelOfClip(character, clip)).filter(
        ({ path, size }) => size > (path === 'rotation' ? gap : gap * METRES_A_DEGREE),
      );
      if (open.length === 0) return [];
      const [first] = open;
      const told = ({ path, size }: (typeof open)[number]) =>
        path === 'rotation' ? `${size.toFixed(1)}°` : lengthText(size, unit);
      const allowed = first.path === 'rotation' ? `${gap}°` : lengthText(gap * METRES_A_DEGREE, unit);
      return [
        {
          gravity: 'worth',
          subject: theClip(character, index),
          message: `“${clip.name}” does not end where it begins: “${character.nodes[first.node].name}” is ${told(first)} away`,
          measured: told(first),
          expected: allowed,
          count: open.length,
          elements: [boneElements(new Set(open.map(({ node }) => node)))],
          evidence: open.slice(0, TOLD).map((one): Evidence => ({
            label: character.nodes[one.node].name,
            now: told(one),
            brief: one.path === 'rotation' ? `${gap}°` : lengthText(gap * METRES_A_DEGREE, unit),
            unit: '',
          })),
          remedies: [{ id: 'close-loop', params: { clip: index } }],
          pose: momentOf(character, index, clipSeconds(clip)),
        },
      ];
    });
  },
});
