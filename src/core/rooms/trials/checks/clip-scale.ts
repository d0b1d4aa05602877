import { object } from 'yup';
import { CLIPS } from '../../../contracts/clips';
import { type Found, defineCheck } from '../../../contracts/check';
import { type Evidence, boneElements } from '../../../contracts/finding';
import { scaledBones } from '../../../motion/clips/scale-tracks';
import { momentOf, theClip } from '../clips';

/** Bones that are told one by one, at most. */
const TOLD = 6;

/** Clips scale bones no more than the game takes. */
export const clipScaleCheck = defineCheck({
  id: 'clip-scale',
  room: 'trials',
  title: 'Bones scaled by clips',
  why: 'Many games move bones by turns and shifts alone: scales are dropped on arrival, or shear what hangs below.',
  waiverReasons: ['The bone is meant to squash and stretch.'],
  settings: object({ clips: CLIPS }),
  reads: ['tree', 'names', 'places', 'clips', 'joints'],
  run(character, { clips: wishes }): Found[] {
    if (!wishes || wishes.scale === null) return [];
    const limit = wishes.scale;
    return character.clips.flatMap((clip, index): Found[] => {
      const scaled = scaledBones(character, clip).filter(({ factor }) => Math.abs(factor - 1) > limit);
      if (scaled.length === 0) return [];
      const [first] = scaled;
      const bones = scaled.length === 1 ? 'a bone' : `${scaled.length} bones`;
      return [
        {
          gravity: 'worth',
          subject: theClip(character, index),
          message: `“${clip.name}” scales ${bones}, most “${character.nodes[first.node].name}”: ${first.factor.toFixed(3)} times its size at rest`,
          measured: Number(first.factor.toFixed(4)),
          expected: limit < 0.01 ? 1 : `1 ± ${limit}`,
          unit: '×',
          count: scaled.length,
          elements: [boneElements(scaled.map(({ node }) => node))],
          evidence: scaled.slice(0, TOLD).map(({ node, factor, seconds }): Evidence => ({
            label: `${character.nodes[node].name} at ${seconds.toFixed(2)} s`,
            now: Number(factor.toFixed(4)),
            brief: limit < 0.01 ? 1 : `1 ± ${limit}`,
            unit: '×',
          })),
          remedies: [{ id: 'drop-scale-tracks', params: { clip: index } }],
          pose: momentOf(character, index, first.seconds),
        },
      ];
    });
  },
});
