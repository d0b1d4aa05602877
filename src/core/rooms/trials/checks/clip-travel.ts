import { object } from 'yup';
import { CLIPS } from '../../../contracts/clips';
import { type Found, defineCheck } from '../../../contracts/check';
import { boneElements } from '../../../contracts/finding';
import { inUnit, lengthText, unitSign } from '../../../contracts/units';
import { carriedNode, travelOf } from '../../../motion/clips/travel';
import { clipSeconds } from '../../../motion/pose';
import { UPRIGHT, momentOf, theClip } from '../clips';

/** Clips stay in place where the game moves figures itself. */
export const clipTravelCheck = defineCheck({
  id: 'clip-travel',
  room: 'trials',
  title: 'Clips that carry the figure away',
  why: 'Where the game moves a figure over the ground itself, a clip that does so too takes it twice as far and back again.',
  waiverReasons: ['The game takes the way from this clip.'],
  settings: object({ clips: CLIPS }),
  reads: ['tree', 'names', 'places', 'clips', 'shows', 'joints'],
  run(character, { clips: wishes, unit }): Found[] {
    if (!wishes || wishes.travel === null) return [];
    const most = wishes.travel;
    return character.clips.flatMap((clip, index): Found[] => {
      const node = carriedNode(character, clip);
      if (node < 0) return [];
      const far = Math.hypot(...travelOf(character, clip, node, UPRIGHT));
      if (far <= most) return [];
      return [
        {
          gravity: 'worth',
          subject: theClip(character, index),
          message: `“${clip.name}” carries the figure ${lengthText(far, unit)} over the ground; the brief wants at most ${lengthText(most, unit)}`,
          measured: inUnit(far, unit),
          expected: inUnit(most, unit),
          unit: unitSign(unit),
          count: 1,
          elements: [boneElements([node])],
          remedies: [{ id: 'keep-in-place', params: { clip: index, how: 'steady' } }],
          pose: momentOf(character, index, clipSeconds(clip)),
        },
      ];
    });
  },
});
