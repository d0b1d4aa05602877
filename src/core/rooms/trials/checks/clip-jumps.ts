import { object } from 'yup';
import { characterHeight } from '../../../character/measure';
import { SHAPE_AT_REST } from '../../../contracts/aspect';
import { CLIPS } from '../../../contracts/clips';
import { type Found, defineCheck } from '../../../contracts/check';
import { type Evidence, boneElements } from '../../../contracts/finding';
import { type LengthUnit, lengthText } from '../../../contracts/units';
import { type Jump, besideNeeded, jumpsOf } from '../../../motion/clips/jumps';
import { momentOf, shareOfHeightOf, theClip } from '../clips';

/** Jumps that are told one by one, at most. */
const TOLD = 6;

/** Motion goes on from frame to frame; what jumps was lost by a capture or flipped over between two keys. */
export const clipJumpsCheck = defineCheck({
  id: 'clip-jumps',
  room: 'trials',
  title: 'Jumps in clips',
  why: 'A joint that is elsewhere for a frame flickers: players see it even where nobody who looked at single frames did.',
  waiverReasons: ['It is a cut, and meant.'],
  settings: object({ clips: CLIPS }),
  reads: [...SHAPE_AT_REST, 'names', 'clips'],
  run(character, { clips: wishes, unit }): Found[] {
    if (!wishes) return [];
    const shareOfHeight = shareOfHeightOf(character);
    return character.clips.flatMap((clip, index): Found[] => {
      const jumps = jumpsOf(clip, wishes, shareOfHeight);
      if (jumps.length === 0) return [];
      const height = characterHeight(character);
      const told = (jump: Pick<Jump, 'path' | 'size'>) => sizeText(jump, height, unit);
      const limitOf = (jump: Jump) => (jump.path === 'rotation' ? wishes.turn : wishes.shift) ?? 1;
      const worst = [...jumps].sort((a, b) => b.size / limitOf(b) - a.size / limitOf(a));
      const [first] = worst;
      const bones = new Set(jumps.map(({ node }) => node));
      const name = character.nodes[first.node].name;
      return [
        {
          gravity: 'worth',
          subject: theClip(character, index),
          message: `“${clip.name}” jumps ${jumps.length === 1 ? 'once' : `${jumps.length} times`}, most at “${name}”: ${told(first)} in a frame at ${first.seconds.toFixed(2)} s`,
          measured: told(first),
          expected: told({ ...first, size: limitOf(first) }),
          count: jumps.length,
          elements: [boneElements(bones)],
          evidence: worst.slice(0, TOLD).map((jump): Evidence => ({
            label: `${character.nodes[jump.node].name} at ${jump.seconds.toFixed(2)} s`,
            now: told(jump),
            brief: told({ ...jump, size: limitOf(jump) }),
            unit: '',
          })),
          remedies: [
            {
              id: 'bridge-jumps',
              params: {
                clip: index,
                turn: wishes.turn,
                shift: wishes.shift,
                beside: besideNeeded(clip, wishes, shareOfHeight),
              },
            },
          ],
          pose: momentOf(character, index, first.seconds),
        },
      ];
    });
  },
});

const sizeText = ({ path, size }: Pick<Jump, 'path' | 'size'>, height: number, unit: LengthUnit): string =>
  path === 'rotation' ? `${size.toFixed(0)}°` : lengthText(size * height, unit);
